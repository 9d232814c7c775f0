package match_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/match"
	"slowreveal/core/space"
	"slowreveal/demo"
)

// A file that comes in once more, behind another revision, has all the ids that it had: nothing is in doubt, and what had
// gone is itself again. One of other names, shapes or places is another file.
func TestAFileThatWasThereBeforeIsKnown(t *testing.T) {
	first, second := demo.Pump(), demo.PumpB()
	before := match.Side{Assembly: first.Assembly, Shapes: first.Shapes}
	between := match.Of(before, match.Side{Assembly: second.Assembly, Shapes: second.Shapes})
	require.NotEmpty(t, between.Gone)
	kept := between.Kept(second.Assembly)

	again := demo.Pump()
	require.True(t, match.SameFile(first.Assembly, again.Assembly))
	ids := make([]assembly.NodeID, len(again.Assembly.Nodes))
	for i := range ids {
		ids[i] = first.Assembly.Nodes[i].ID
	}
	out := match.Again(
		match.Side{Assembly: kept, Shapes: second.Shapes},
		match.Side{Assembly: again.Assembly, Shapes: again.Shapes},
		ids,
	)
	for _, p := range out.Pairs {
		assert.True(t, p.Sure, p.Old)
	}
	back := out.Kept(again.Assembly)
	require.NoError(t, back.Check())
	for i := range ids {
		assert.Equal(t, ids[i], back.Nodes[i].ID)
	}
	assert.Len(t, out.Added, len(between.Gone), "what had gone")
	told := out.Comparison(kept, back)
	assert.Empty(t, told.Lost)

	for name, change := range map[string]func(r *revision){
		"name":  func(r *revision) { r.Nodes[3].Name += " 2" },
		"place": func(r *revision) { r.shift(5, space.Vec3{0, 0.5, 0}) },
		"shape": func(r *revision) { r.reshape(r.find("Hood"), 1, 1.01, 1) },
		"one":   func(r *revision) { r.remove(r.find("Shaft seal")) },
	} {
		other := newRevision()
		change(other)
		assert.False(t, match.SameFile(first.Assembly, &other.Assembly), "another %s", name)
	}
}
