package formats_test

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/solid"
	"slowreveal/core/space"
	"slowreveal/formats"
)

func triangle(size float32) *solid.Shape {
	s, _, err := solid.New(
		solid.Mesh{Positions: []float32{0, 0, 0, size, 0, 0, 0, size, 0}, Triangles: []uint32{0, 1, 2}},
	)
	if err != nil {
		panic(err)
	}
	return s
}

func TestEqualShapesAreKeptOnceAndNamesMakeIds(t *testing.T) {
	b := formats.NewBuilder(context.Background(), formats.Options{Name: "Product"}, "test")
	still := assembly.PoseOf(space.Identity)
	root := b.Node(-1, assembly.Node{Name: "Product", Shape: -1, Pose: still})
	plain := b.Finish(formats.DefaultFinish)
	part := func(parent int, name string, size float32) int {
		return b.Node(
			parent,
			assembly.Node{Name: name, Shape: b.Shape(triangle(size)), Finishes: []int{plain}, Pose: still},
		)
	}
	group := b.Node(root, assembly.Node{Name: "Übersetzung 3:1 / links", Shape: -1, Pose: still})
	part(group, "Screw M3 × 12", 1)
	part(group, "Screw M3 × 12", 1)
	part(root, "***", 2)
	b.Ignored("%d lights", 3)
	m, err := b.Model()
	require.NoError(t, err)
	assert.Len(t, m.Shapes, 2)
	var ids []assembly.NodeID
	for i := range m.Assembly.Nodes {
		ids = append(ids, m.Assembly.Nodes[i].ID)
	}
	assert.Equal(
		t,
		[]assembly.NodeID{
			"/",
			"übersetzung-3-1-links",
			"übersetzung-3-1-links/screw-m3-12",
			"übersetzung-3-1-links/screw-m3-12~2",
			"part",
		},
		ids,
	)
	assert.Equal(t, 3, m.Report.Parts)
	assert.Equal(t, 3, m.Report.Triangles)
	assert.Equal(t, []string{"3 lights"}, m.Report.Ignored)
}

func TestAModelWithoutAPartIsRefused(t *testing.T) {
	b := formats.NewBuilder(context.Background(), formats.Options{Name: "Empty"}, "test")
	b.Node(-1, assembly.Node{Name: "Empty", Shape: -1, Pose: assembly.PoseOf(space.Identity)})
	_, err := b.Model()
	assert.ErrorContains(t, err, "no part with a surface")
}

// Names come as they come; what cannot be seen is taken out of them, the ids stay those of the file's names.
func TestNamesCanBeRead(t *testing.T) {
	rest := assembly.Pose{Turn: space.NoRotation}
	b := formats.NewBuilder(context.Background(), formats.Options{}, "test")
	shape := b.Shape(triangle(1))
	root := b.Node(-1, assembly.Node{Name: " hall\t7 ", Shape: -1, Pose: rest})
	for _, name := range []string{" ", "nut\n(copy)", "\u202eabc", "\u200b", "a\u00adb"} {
		b.Node(
			root,
			assembly.Node{
				Name:     name,
				Shape:    shape,
				Pose:     rest,
				Finishes: []int{b.Finish(assembly.Finish{Name: "Grey", Opacity: 1})},
			},
		)
	}
	m, err := b.Model()
	require.NoError(t, err)
	var names []string
	for _, n := range m.Assembly.Nodes {
		names = append(names, n.Name)
	}
	assert.Equal(t, []string{"hall 7", "Part", "nut (copy)", "abc", "Part", "ab"}, names)
	assert.Equal(t, assembly.NodeID("part~2"), m.Assembly.Nodes[4].ID)
}
