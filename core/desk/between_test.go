package desk_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/desk"
	"slowreveal/core/solid"
	"slowreveal/demo"
)

// Two features are related as their parts stand, also at rest without a reveal.
func TestFeaturesAreRelatedWhereTheirPartsStand(t *testing.T) {
	m := demo.Pump()
	text, err := json.Marshal(m.Assembly)
	require.NoError(t, err)
	var d desk.Desk
	require.NoError(t, d.OpenAssembly(text))
	var screws []desk.PlacedFeature
	for i := range m.Assembly.Nodes {
		n := &m.Assembly.Nodes[i]
		if n.Name != "Cover screw M3 × 12" {
			continue
		}
		for _, f := range m.Shapes[n.Shape].Features().List {
			if f.Kind == solid.Cylinder {
				screws = append(screws, desk.PlacedFeature{Node: n.ID, Feature: f})
				break
			}
		}
	}
	require.Len(t, screws, 4)
	question, err := json.Marshal(map[string]any{"ask": "between", "features": screws[:2]})
	require.NoError(t, err)
	answer, err := d.Ask(question)
	require.NoError(t, err)
	r := answer.(solid.Relation)
	assert.False(t, r.Meet)
	assert.InDelta(t, 0, r.Degrees, 0.01)
	a, b := m.Assembly.Worlds(), m.Assembly.Index()
	p, q := a[b[screws[0].Node]].T, a[b[screws[1].Node]].T
	assert.InDelta(t, (p.X-q.X)*(p.X-q.X)+(p.Y-q.Y)*(p.Y-q.Y), r.Distance*r.Distance, 0.1)
	_, err = d.Ask([]byte(`{"ask":"between","features":[]}`))
	assert.Error(t, err)
}
