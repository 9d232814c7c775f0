package solid_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/solid"
	"slowreveal/core/solid/simple"
	"slowreveal/core/space"
	"slowreveal/demo"
)

// A sleeve of 256 sides: what is left lies within the distance of its two cylinders, by the closed form, and between its
// ends; it needs as many sides as that distance asks for, and not many more.
func TestASimplifiedSleeveIsStillASleeve(t *testing.T) {
	const inner, outer, height, within = 6.0, 10.0, 15.0, 0.1
	s := shapeOf(t, simple.Sleeve(inner, outer, height, 256))
	out := s.Simplified(within)
	sides := 2 * math.Pi / (2 * math.Acos(1-2*within/outer)) // of a polygon that lies within to both sides
	assert.Less(t, len(out.Triangles)/3, int(8*6*sides))
	assert.Less(t, len(out.Triangles), len(s.Triangles)/4)
	assert.True(t, out.Closed())
	assert.Greater(t, out.Volume(), 0.98*s.Volume())
	assert.Less(t, out.Volume(), 1.02*s.Volume())
	box := out.Bounds.Size()
	assert.InDelta(t, height, min(box.X, box.Y, box.Z), 1e-5, "its faces stay plane")
	for v := range uint32(len(out.Positions) / 3) {
		p := out.Point(v)
		r := math.Min(math.Abs(off(p, s)-inner), math.Abs(off(p, s)-outer))
		assert.LessOrEqual(t, r, within+1e-4, "%v", p)
	}
}

// off is how far a point is from the axis of a body that is shortest along it.
func off(p space.Vec, s *solid.Shape) float64 {
	p = r3.Sub(p, s.Bounds.Centre())
	size := s.Bounds.Size()
	switch min(size.X, size.Y, size.Z) {
	case size.X:
		return math.Hypot(p.Y, p.Z)
	case size.Y:
		return math.Hypot(p.X, p.Z)
	}
	return math.Hypot(p.X, p.Y)
}

// A block has nothing that could be left out, and a face of many triangles becomes two.
func TestWhatIsPlaneCostsNothing(t *testing.T) {
	block := shapeOf(t, simple.Block(3, 4, 5))
	assert.Same(t, block, block.Simplified(0.5))
	const n = 12
	var sheet solid.Mesh
	for i := range n + 1 {
		for k := range n + 1 {
			sheet.Positions = append(sheet.Positions, float32(i), float32(k), 0)
		}
	}
	for i := range uint32(n) {
		for k := range uint32(n) {
			a := i*(n+1) + k
			sheet.Triangles = append(sheet.Triangles, a, a+n+1, a+n+2, a, a+n+2, a+1)
		}
	}
	out := shapeOf(t, sheet).Simplified(0.01)
	assert.Len(t, out.Triangles, 2*3)
	assert.InDelta(t, n*n, r3.Norm(r3.Cross(r3.Sub(out.Point(out.Triangles[1]), out.Point(out.Triangles[0])),
		r3.Sub(out.Point(out.Triangles[2]), out.Point(out.Triangles[0])))), 1e-6, "all of it is still covered")
}

// The example's shapes stay closed, turned outwards and of their volume; every corner that was there lies near the simpler
// surface, and the other way round.
func TestTheExamplesShapesAreSimplified(t *testing.T) {
	const within = 0.1
	all, left := 0, 0
	for i, s := range demo.Pump().Shapes {
		out := s.Simplified(within)
		all, left = all+len(s.Triangles)/3, left+len(out.Triangles)/3
		assert.Equal(t, s.Closed(), out.Closed(), "shape %d", i)
		assert.InEpsilon(t, s.Volume(), out.Volume(), 0.06, "shape %d", i)
		assert.Len(t, out.Submeshes, len(s.Submeshes))
		assert.Equal(t, out, s.Simplified(within), "the same each time")
		if i%6 > 0 { // each point is held against all faces: of some
			continue
		}
		far := max(farFrom(s, out), farFrom(out, s))
		assert.Less(t, far, 2*within, "shape %d", i)
	}
	t.Logf("%d of %d triangles are left", left, all)
	assert.Less(t, left, all*3/4)
}

// farFrom is how far a corner of one shape is from the surface of another at most.
func farFrom(s, surface *solid.Shape) (most float64) {
	for v := range uint32(len(s.Positions) / 3) {
		p := s.Point(v)
		point := solid.Triangle{p, p, p}
		least := math.Inf(1)
		for k := 0; k < len(surface.Triangles) && least > 0; k += 3 {
			face := solid.Triangle{
				surface.Point(
					surface.Triangles[k],
				), surface.Point(surface.Triangles[k+1]), surface.Point(surface.Triangles[k+2]),
			}
			least = min(least, solid.Gap(&point, &face))
		}
		most = max(most, least)
	}
	return most
}
