package proof_test

import (
	"context"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/product"
	"slowreveal/core/proof"
	"slowreveal/core/reveal"
	"slowreveal/core/solid/simple"
	"slowreveal/core/space"
)

// crankCase is a crank of 20 × 4 × 4 mm that turns about the Z axis through the origin, and a block beside it.
func crankCase(t *testing.T, block float64) *product.Model {
	t.Helper()
	m := scene(t,
		part{"crank", simple.Block(20, 4, 4), space.Vec{X: -2, Y: -2, Z: -2}},
		part{"case", simple.Block(4, 4, 4), space.Vec{X: -2, Y: block, Z: -2}},
	)
	m.Assembly.Joints = []assembly.Joint{{
		ID: "shaft", Name: "Shaft", Kind: assembly.Revolute, Body: "crank", Base: "/",
		Axis: space.Vec3{0, 0, 1}, Point: space.Vec3{2, 2, 2},
	}}
	return m
}

func driving(t *testing.T, m *product.Model, length reveal.Micros, d reveal.Drive) *film.Film {
	t.Helper()
	d.Joint = "shaft"
	r := reveal.New("driven", reveal.Camera{Orientation: space.NoRotation, Distance: 200, FocalLength: 50})
	r.Steps = []reveal.Step{{ID: "s", Title: "s", Duration: length, Cues: []reveal.Cue{{
		ID: "c", Kind: reveal.KindDrive, Targets: []assembly.NodeID{"crank"}, Duration: length, Easing: reveal.Linear, Drive: &d,
	}}}}
	require.NoError(t, reveal.Validate(r, m.Assembly))
	return film.Compile(m.Assembly, r)
}

// A crank's corner is √(18² + 2²) from its axis: it hits a block nearer than that, and passes one that is farther, in
// every one of many turns.
func TestACrankThatHitsItsCaseIsFound(t *testing.T) {
	reach := math.Hypot(18, 2)
	for _, c := range []struct {
		block float64
		hits  bool
	}{{reach - 0.5, true}, {reach + 0.5, false}, {15, true}} {
		m := crankCase(t, c.block)
		f := driving(t, m, 10*s, reveal.Drive{Speed: new(60.0)})
		found, err := proof.Interference(context.Background(), f, m.Shapes, proof.Settings{})
		require.NoError(t, err)
		if !c.hits {
			assert.Empty(t, found.List, "at %v mm", c.block)
			continue
		}
		require.Len(t, found.List, 10, "one in each turn")
		for k, o := range found.List {
			assert.InDelta(t, 0.25+float64(k), float64(o.At)/float64(s), 0.05, "a quarter of a turn into it")
			assert.Equal(t, []reveal.CueID{"c"}, o.Cues)
		}
	}
}

func TestAJointBeyondItsLimitIsFound(t *testing.T) {
	m := crankCase(t, 100)
	m.Assembly.Joints[0].Max = new(30.0)
	run := func(d reveal.Drive) []proof.Finding {
		out, err := proof.Run(context.Background(), driving(t, m, 4*s, d), m.Shapes, nil, proof.Settings{}, nil)
		require.NoError(t, err)
		var list []proof.Finding
		for _, f := range out.Findings {
			if f.Check == "driven" {
				list = append(list, f)
			}
		}
		return list
	}
	assert.Empty(t, run(reveal.Drive{By: new(30.0)}))
	list := run(reveal.Drive{By: new(40.0)})
	require.Len(t, list, 1)
	assert.Equal(t, "“Shaft” comes to 40.0°, 10.0° beyond its limit.", list[0].Says)
	assert.InDelta(t, 3, float64(list[0].From)/float64(s), 0.06)
}
