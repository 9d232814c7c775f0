package editor_test

import (
	"encoding/json"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/compose"
	"slowreveal/core/editor"
	"slowreveal/core/reveal"
	"slowreveal/core/solid"
	"slowreveal/demo"
)

// Two features are related as their parts stand, also at rest without a reveal.
func TestFeaturesAreRelatedWhereTheirPartsStand(t *testing.T) {
	m := demo.Pump()
	text, err := assembly.Pack(m.Assembly)
	require.NoError(t, err)
	var d editor.Editor
	require.NoError(t, d.OpenAssembly(text))
	var screws []compose.Placed
	for i := range m.Assembly.Nodes {
		n := &m.Assembly.Nodes[i]
		if n.Name != "Cover screw M3 × 12" {
			continue
		}
		for _, f := range m.Shapes[n.Shape].Features().List {
			if f.Kind == solid.Cylinder {
				screws = append(screws, compose.Placed{Node: n.ID, Feature: f})
				break
			}
		}
	}
	require.Len(t, screws, 4)
	question, err := json.Marshal(
		map[string]any{"ask": "between", "with": map[string]any{"a": screws[0], "b": screws[1]}},
	)
	require.NoError(t, err)
	answer, err := d.Ask(question)
	require.NoError(t, err)
	r := answer.(solid.Relation)
	assert.False(t, r.Meet)
	assert.InDelta(t, 0, r.Degrees, 0.01)
	a, b := m.Assembly.Worlds(), m.Assembly.Index()
	p, q := a[b[screws[0].Node]].T, a[b[screws[1].Node]].T
	assert.InDelta(t, (p.X-q.X)*(p.X-q.X)+(p.Y-q.Y)*(p.Y-q.Y), r.Distance*r.Distance, 0.1)
	_, err = d.Ask([]byte(`{"ask":"between","with":{"a":{"node":"nobody"}}}`))
	assert.Error(t, err)
}

// A hole's axis as a direction and pivot of the whole assembly, wherever its part
// stands at the moment.
func TestAFeatureIsAReferenceForMovements(t *testing.T) {
	d, _ := open(t)
	m := demo.Pump()
	var hole compose.Placed
	for i := range m.Assembly.Nodes {
		if n := &m.Assembly.Nodes[i]; n.ID == "pump-head/rotor-cover" {
			for _, f := range m.Shapes[n.Shape].Features().List {
				if f.Kind == solid.Cylinder && f.Hole {
					hole = compose.Placed{Node: n.ID, Feature: f}
				}
			}
		}
	}
	ask := func(at reveal.Micros) compose.Offered {
		d.At(at)
		question, err := json.Marshal(map[string]any{"ask": "reference", "with": map[string]any{"by": hole}})
		require.NoError(t, err)
		answer, err := d.Ask(question)
		require.NoError(t, err)
		ways := answer.([]compose.Offered)
		require.Len(t, ways, 2)
		for k := range 3 {
			assert.InDelta(t, 0, ways[0].Along[k]+ways[1].Along[k], 1e-12, "both ways")
		}
		return ways[0]
	}
	rest, pulled := ask(0), ask(13*reveal.Second)
	assert.InDelta(t, 1, math.Abs(rest.Along[2]), 1e-6)
	assert.Equal(t, hole.Node, rest.Of)
	assert.Equal(t, rest.Pivot, pulled.Pivot, "in the cover's own axes: the pivot goes where the cover goes")
	// Towards a part and away from it, without pointing at anything of it.
	towards, err := d.Ask(
		[]byte(`{"ask":"reference","with":{"by":{"node":"pump-head/rotor-cover"},"nodes":["housing/hood"]}}`),
	)
	require.NoError(t, err)
	ways := towards.([]compose.Offered)
	require.Len(t, ways, 2)
	assert.Equal(t, "away", ways[0].Label)
	assert.Positive(t, ways[1].Along[2], "the head is in front of the hood")
	_, err = d.Ask([]byte(`{"ask":"reference","with":{"by":{"node":"nobody"}}}`))
	assert.Error(t, err)
}
