package render

import (
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// Lines in any order and direction: two open curves, which meet in a point with a third line,
// and a ring. Every line is there once, and those that join begin where the one before ends.
func TestPiecesOfACurveFollowEachOther(t *testing.T) {
	at := func(x, y float32) [3]float32 { return [3]float32{x, y, 0} }
	line := func(a, b [3]float32) edgeLine { return edgeLine{DrawnEdge: solid.DrawnEdge{A: a, B: b}} }
	lines := []edgeLine{
		line(at(2, 0), at(1, 0)), line(at(0, 0), at(1, 0)), line(at(3, 0), at(2, 0)), // to the fork at 3, 0
		line(at(3, 0), at(4, 1)), line(at(3, 0), at(4, -1)), line(at(5, -1), at(4, -1)),
		line(at(0, 9), at(1, 9)), line(at(0, 9), at(0, 8)), line(at(1, 9), at(0, 8)), // a ring
		{DrawnEdge: solid.DrawnEdge{A: at(0, 0), B: at(7, 7), Shows: solid.OnlyBetween}},
	}
	order := chained(slices.Clone(lines))
	require.Len(t, order, len(lines))
	joins := 0
	for i, l := range order {
		back := l
		back.A, back.B = l.B, l.A
		l.joins, back.joins = false, false
		assert.True(t, slices.Contains(lines, l) || slices.Contains(lines, back), "%v", l)
		if order[i].joins {
			joins++
			assert.Equal(t, order[i-1].B, order[i].A)
		}
	}
	assert.Equal(t, 2+1+0+2, joins)
	assert.Equal(t, solid.OnlyBetween, order[len(order)-1].Shows)
}

// A ring of 90 pieces, seen from straight above in all sizes: small ones are drawn with far
// fewer strips, and every corner of the ring lies within a tenth of a pixel of one.
func TestSmallCurvesTakeFewStrips(t *testing.T) {
	const pieces = 90
	var m solid.Mesh
	for i := range pieces {
		s, c := math.Sincos(2 * math.Pi * float64(i) / pieces)
		m.Positions = append(m.Positions, float32(c), float32(s), 0)
		if i > 1 {
			m.Triangles = append(m.Triangles, 0, uint32(i-1), uint32(i))
		}
	}
	shape, _, err := solid.New(m)
	require.NoError(t, err)
	scene, err := NewScene(
		&assembly.Assembly{Nodes: []assembly.Node{{ID: "/", Parent: -1, Shape: -1}}, Shapes: []assembly.ShapeRef{{}}},
		[]*solid.Shape{shape},
	)
	require.NoError(t, err)
	r, err := NewRenderer(scene, 1000, 1000, 1)
	require.NoError(t, err)
	var counts []int
	for _, radius := range []float64{2, 10, 30, 400} {
		v := scene.NewView()
		v.Camera.tanH, v.Camera.tanV = 0.5, 0.5
		v.Camera.eye = space.Identity
		out := projected{toCamera: space.Identity}
		out.toCamera.T.Z = -1000 / radius
		out.forget()
		r.projectEdges(&out, &part{shape: 0}, v, 1, false)
		counts = append(counts, len(out.faces))
		for i := range pieces {
			s, c := math.Sincos(2 * math.Pi * float64(i) / pieces)
			x, y, off := 500+c*radius, 500-s*radius, math.Inf(1)
			for _, f := range out.faces {
				ax, ay, bx, by := float64(f.x[0]+f.x[2])/2/subPixel, float64(
					f.y[0]+f.y[2],
				)/2/subPixel, float64(f.x[1]+f.x[3])/2/subPixel, float64(f.y[1]+f.y[3])/2/subPixel
				dx, dy := bx-ax, by-ay
				u := min(max(((x-ax)*dx+(y-ay)*dy)/(dx*dx+dy*dy), 0), 1)
				off = min(off, math.Hypot(x-ax-u*dx, y-ay-u*dy))
			}
			assert.LessOrEqual(t, off, bendless+0.01, "radius %v", radius)
		}
	}
	assert.Less(t, counts[0], 15)
	assert.Less(t, counts[1], 31)
	assert.IsIncreasing(t, counts)
	assert.Equal(t, pieces, counts[3])
}
