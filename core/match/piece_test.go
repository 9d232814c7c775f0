package match_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/match"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// block is a closed box from one corner to another.
func block(low, high space.Vec3) solid.Mesh {
	var m solid.Mesh
	for i := range 8 {
		for k := range 3 {
			v := low[k]
			if i>>k&1 == 1 {
				v = high[k]
			}
			m.Positions = append(m.Positions, float32(v))
		}
	}
	for _, q := range [][4]uint32{{0, 2, 3, 1}, {4, 5, 7, 6}, {0, 1, 5, 4}, {2, 6, 7, 3}, {0, 4, 6, 2}, {1, 3, 7, 5}} {
		m.Triangles = append(m.Triangles, q[0], q[1], q[2], q[0], q[2], q[3])
	}
	return m
}

// blocks is an assembly of boxes.
func blocks(named map[string][2]space.Vec3, order ...string) match.Side {
	r := &revision{
		Assembly: assembly.Assembly{
			Name:     "Blocks",
			Finishes: []assembly.Finish{{Name: "Plain"}},
			Nodes: []assembly.Node{
				{Name: "Blocks", Parent: -1, Shape: -1, Pose: assembly.PoseOf(space.Identity)},
			},
		},
	}
	for _, name := range order {
		r.Nodes = append(r.Nodes, assembly.Node{Name: name, Pose: assembly.PoseOf(space.Identity), Finishes: []int{0}})
		r.wear(len(r.Nodes)-1, block(named[name][0], named[name][1]))
	}
	r.name()
	return match.Side{Assembly: &r.Assembly, Shapes: r.shapes}
}

// A block that is cut in two, with faces where it is cut, is in two parts, whatever they are called; put together again
// it is one with both. What fills the place of a block that is gone, and has not its surface, is new.
func TestPartsAreSplitAndJoined(t *testing.T) {
	all := map[string][2]space.Vec3{
		"Plate": {
			{-60, -40, -10},
			{60, 40, 0},
		}, "Block": {{-40, -10, 0}, {40, 10, 20}}, "Post": {{-50, 20, 0}, {-44, 26, 60}},
		"Left jaw": {
			{-40, -10, 0},
			{5, 10, 20},
		}, "Right jaw": {{5, -10, 0}, {40, 10, 20}}, "Pad": {{-10, -10, 20}, {10, 10, 22}},
		"Low": {{-40, -10, 0}, {40, 10, 8}}, "High": {{-30, -10, 8}, {30, 10, 15}},
	}
	one := blocks(all, "Plate", "Block", "Post")
	two := blocks(all, "Post", "Right jaw", "Plate", "Pad", "Left jaw")

	out := match.Of(one, two)
	require.Len(t, out.Splits, 1)
	assert.EqualValues(t, "block", out.Splits[0].Old)
	assert.Equal(t, []assembly.NodeID{"left-jaw", "right-jaw"}, out.Splits[0].New)
	assert.Empty(t, out.Gone)
	kept := out.Kept(two.Assembly)
	require.NoError(t, kept.Check())
	told := out.Comparison(one.Assembly, kept)
	require.Len(t, told.Changed, 1)
	assert.Equal(t, "block", string(told.Changed[0].ID))
	assert.Contains(t, told.Changed[0].Says, "is in several parts now: “Left jaw” and “Right jaw”")
	assert.Equal(t, []match.Named{
		{ID: "right-jaw", Name: "Right jaw", Part: true, Of: "Left jaw"}, {ID: "pad", Name: "Pad", Part: true},
	}, told.Added)

	out = match.Of(two, one)
	assert.Equal(t, []match.Join{{Old: []assembly.NodeID{"left-jaw", "right-jaw"}, New: "block"}}, out.Joins)
	told = out.Comparison(two.Assembly, out.Kept(one.Assembly))
	assert.Equal(t, []match.Named{
		{ID: "right-jaw", Name: "Right jaw", Part: true, Of: "Block"}, {ID: "pad", Name: "Pad", Part: true},
	}, told.Gone)

	out = match.Of(one, blocks(all, "Plate", "Low", "High", "Post"))
	assert.Empty(t, out.Splits, "they have not its surface")

	// Once more behind the whole: a file that is known is split all the same.
	one, two = blocks(all, "Plate", "Block", "Post"), blocks(all, "Post", "Right jaw", "Plate", "Left jaw")
	ids := []assembly.NodeID{assembly.Root, "post", "right-jaw", "plate", "block"}
	out = match.Again(one, two, ids)
	require.Len(t, out.Splits, 1)
	kept = out.Kept(two.Assembly)
	for i, id := range ids {
		assert.Equal(t, id, kept.Nodes[i].ID)
	}
	assert.Equal(t, assembly.Pieces{"block": {"right-jaw"}}, out.Comparison(one.Assembly, kept).Pieces)
}
