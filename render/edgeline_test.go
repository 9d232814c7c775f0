package render

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/solid"
	"slowreveal/demo"
)

func box(t *testing.T, lid bool) *solid.Shape {
	m := solid.Mesh{}
	for i := range 8 {
		m.Positions = append(m.Positions, float32(i&1), float32(i>>1&1), float32(i>>2&1))
	}
	m.Triangles = []uint32{0, 2, 1, 1, 2, 3, 4, 5, 6, 5, 7, 6, 0, 1, 4, 1, 5, 4, 2, 6, 3, 3, 6, 7, 0, 4, 2, 2, 4, 6}
	if lid {
		m.Triangles = append(m.Triangles, 1, 3, 5, 3, 7, 5)
	}
	s, _, err := solid.New(m)
	require.NoError(t, err)
	return s
}

// Counted on paper: of a cube's twelve edges one sees nine over a corner, seven when an edge
// is nearest, and four straight at a face.
func TestASolidPartHidesTheEdgesOnItsBack(t *testing.T) {
	closed := edgeLinesOf(box(t, true), true)
	seen := func(lines []edgeLine, e eyeOf) (n int) {
		for i := range lines {
			if e.meets(&lines[i]) {
				n++
			}
		}
		return n
	}
	assert.Equal(t, 9, seen(closed, eyeOf{at: [3]float32{5, 5, 5}}))
	assert.Equal(t, 7, seen(closed, eyeOf{at: [3]float32{5, 5, 0.5}}))
	assert.Equal(t, 4, seen(closed, eyeOf{at: [3]float32{5, 0.5, 0.5}}))
	assert.Equal(t, 9, seen(closed, eyeOf{back: [3]float32{1, 1, 1}, parallel: true}))
	open := edgeLinesOf(box(t, false), false)
	assert.Equal(t, 12, seen(open, eyeOf{at: [3]float32{5, 5, 5}}), "through an open side the back is seen")
}

func TestTheOrderOfDrawingHasEveryTriangleOnce(t *testing.T) {
	inner := 0
	for _, s := range demo.Pump().Shapes {
		o := orderOf(s)
		count := make([]int, len(s.Triangles)/3)
		for _, list := range [][]int32{o.outer, o.inner} {
			for _, i := range list {
				count[i]++
			}
		}
		for i, n := range count {
			require.Equal(t, 1, n, "triangle %d", i)
		}
		inner += len(o.inner)
	}
	assert.Positive(t, inner, "there are bores in it")
	assert.Empty(t, orderOf(box(t, true)).inner, "a cube has nothing inside")
}
