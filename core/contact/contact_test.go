package contact_test

import (
	"context"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/contact"
	"slowreveal/core/product"
	"slowreveal/core/solid"
	"slowreveal/core/solid/simple"
	"slowreveal/core/space"
	"slowreveal/demo"
	"slowreveal/formats"
)

// put makes an assembly of parts at places.
func put(t *testing.T, parts map[string]solid.Mesh, at map[string]space.Vec, order ...string) *product.Model {
	t.Helper()
	b := formats.NewBuilder(context.Background(), formats.Options{Name: "test"}, "computed")
	finish := b.Finish(formats.DefaultFinish)
	root := b.Node(-1, assembly.Node{Name: "test", Shape: -1, Pose: assembly.PoseOf(space.Identity)})
	for _, name := range order {
		shape, err := b.Mesh(name, parts[name])
		require.NoError(t, err)
		b.Node(
			root,
			assembly.Node{
				Name:     name,
				Shape:    shape,
				Finishes: []int{finish},
				Pose:     assembly.PoseOf(space.Translation(at[name])),
			},
		)
	}
	m, err := b.Model()
	require.NoError(t, err)
	return m
}

func find(t *testing.T, m *product.Model) []contact.Contact {
	t.Helper()
	c, err := contact.Find(context.Background(), m.Assembly, m.Shapes, contact.Tolerance)
	require.NoError(t, err)
	return c
}

// A disc of radius 5 that lies on one of radius 8 touches it over π·25 mm².
func TestADiscOnADisc(t *testing.T) {
	m := put(
		t,
		map[string]solid.Mesh{"base": simple.Sleeve(0, 8, 2, 180), "disc": simple.Sleeve(0, 5, 1, 180)},
		map[string]space.Vec{"disc": {Z: 2}},
		"base",
		"disc",
	)
	c := find(t, m)
	require.Len(t, c, 1)
	assert.Zero(t, c[0].Gap)
	assert.False(t, c[0].Crossing)
	assert.InEpsilon(t, math.Pi*25, c[0].Area, 2e-3)
	assert.InDelta(t, 1, c[0].Normal[2], 1e-6, "from the base to the disc")
}

// A pin of radius 4.96 in a bore of radius 5: a gap of 0.04 mm over the whole
// round, in every direction.
func TestAPinInABoreWithAKnownGap(t *testing.T) {
	m := put(
		t,
		map[string]solid.Mesh{"ring": simple.Sleeve(5, 9, 10, 120), "pin": simple.Sleeve(0, 4.96, 30, 120)},
		map[string]space.Vec{"pin": {Z: -10}},
		"ring",
		"pin",
	)
	c := find(t, m)
	require.Len(t, c, 1)
	assert.InDelta(t, 0.04, c[0].Gap, 2e-3)
	assert.InEpsilon(t, 2*math.Pi*5*10, c[0].Area, 2e-2)
	assert.Equal(t, space.Vec3{}, c[0].Normal, "no direction counts more than another")
	m = put(
		t,
		map[string]solid.Mesh{"ring": simple.Sleeve(5, 9, 10, 120), "pin": simple.Sleeve(0, 4.8, 30, 120)},
		map[string]space.Vec{"pin": {Z: -10}},
		"ring",
		"pin",
	)
	assert.Empty(t, find(t, m), "0.2 mm is no contact")
}

func TestARodThroughADiscCrossesIt(t *testing.T) {
	m := put(
		t,
		map[string]solid.Mesh{"disc": simple.Sleeve(0, 9, 3, 60), "rod": simple.Sleeve(0, 2, 20, 60)},
		map[string]space.Vec{"rod": {Z: -8}},
		"disc",
		"rod",
	)
	c := find(t, m)
	require.Len(t, c, 1)
	assert.True(t, c[0].Crossing)
}

// The example as it was drawn: every screw sits on something, nothing floats.
func TestEveryPartOfThePumpTouchesAnother(t *testing.T) {
	m := demo.Pump()
	touched := map[assembly.NodeID]bool{}
	for _, c := range find(t, m) {
		require.LessOrEqual(t, c.Gap, contact.Tolerance)
		touched[c.A], touched[c.B] = true, true
	}
	var floating []string
	for _, n := range m.Assembly.Nodes {
		if n.IsPart() && !touched[n.ID] {
			floating = append(floating, string(n.ID))
		}
	}
	assert.Empty(t, floating)
}
