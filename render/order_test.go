package render

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"gonum.org/v1/gonum/spatial/r3"

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

// Counted by hand: of a cube's twelve edges one sees nine over a corner, seven when an edge
// is nearest, and four straight at a face.
func TestASolidPartHidesTheEdgesOnItsBack(t *testing.T) {
	closed := edgeLinesOf(box(t, true))
	seen := func(lines []edgeLine, e eyeOf) (n int) {
		for i := range lines {
			if shows, _ := e.meets(&lines[i].DrawnEdge); shows {
				n++
			}
		}
		return n
	}
	assert.Equal(t, 9, seen(closed, eyeOf{at: [3]float32{5, 5, 5}}))
	assert.Equal(t, 7, seen(closed, eyeOf{at: [3]float32{5, 5, 0.5}}))
	assert.Equal(t, 4, seen(closed, eyeOf{at: [3]float32{5, 0.5, 0.5}}))
	assert.Equal(t, 9, seen(closed, eyeOf{back: [3]float32{1, 1, 1}, orthographic: true}))
	open := edgeLinesOf(box(t, false))
	assert.Equal(t, 12, seen(open, eyeOf{at: [3]float32{5, 5, 5}}), "through an open side the back is seen")
}

// Every triangle is drawn once, alone or in a quadrangle, which lies where its triangles lie:
// the areas add up, and the fourth corner is where the facet says.
func TestTheOrderOfDrawingHasEveryTriangleOnce(t *testing.T) {
	inner, joined, all := 0, 0, 0
	for _, s := range demo.Pump().Shapes {
		o := orderOf(s)
		count := make([]int, len(s.Triangles)/3)
		for _, f := range slices.Concat(o.outer, o.inner) {
			count[f.first]++
			if f.second < 0 {
				continue
			}
			count[f.second]++
			joined++
			whole := areaOf(s, f.corner[0], f.corner[1], f.corner[2]) + areaOf(s, f.corner[1], f.corner[3], f.corner[2])
			a, b := s.Triangles[3*f.first:], s.Triangles[3*f.second:]
			require.InEpsilon(t, areaOf(s, a[0], a[1], a[2])+areaOf(s, b[0], b[1], b[2]), whole, 1e-6)
			other := areaOf(s, f.corner[0], f.corner[1], f.corner[3]) + areaOf(s, f.corner[0], f.corner[3], f.corner[2])
			require.InEpsilon(t, whole, other, 1e-3, "it is flat and has no dent")
		}
		for i, n := range count {
			require.Equal(t, 1, n, "triangle %d", i)
		}
		inner += len(o.inner)
		all += len(count)
	}
	assert.Positive(t, inner, "there are bores in it")
	assert.Greater(t, 2*joined, all/3, "many of the example's triangles are in quadrangles")
	cube := orderOf(box(t, true))
	assert.Len(t, cube.outer, 6)
	assert.Empty(t, cube.inner, "a cube has nothing inside")
}

func areaOf(s *solid.Shape, i, j, k uint32) float64 {
	a, b, c := vertexOf(s.Positions, i), vertexOf(s.Positions, j), vertexOf(s.Positions, k)
	return r3.Norm(r3.Cross(r3.Sub(b, a), r3.Sub(c, a))) / 2
}
