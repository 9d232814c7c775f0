package solid

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/space"
)

// drilled is a square plate 20 × 20 × height with a hole of the given radius
// through its middle, in n sides.
func drilled(radius, height float64, n int) Mesh {
	var m Mesh
	point := func(r, angle, z float64) {
		s, c := math.Sincos(angle)
		m.Positions = append(m.Positions, float32(r*c), float32(r*s), float32(z))
	}
	square := func(angle float64) float64 {
		return 10 / math.Max(math.Abs(math.Cos(angle)), math.Abs(math.Sin(angle)))
	}
	for _, z := range []float64{0, height} {
		for k := range n {
			point(radius, 2*math.Pi*float64(k)/float64(n), z)
		}
		for k := range n {
			angle := 2 * math.Pi * float64(k) / float64(n)
			point(square(angle), angle, z)
		}
	}
	quad := func(a, b, c, d uint32) { m.Triangles = append(m.Triangles, a, b, c, a, c, d) }
	for k := range uint32(n) {
		l, u := (k+1)%uint32(n), uint32(n)
		quad(k, l, u+l, u+k)             // below
		quad(3*u+k, 3*u+l, 2*u+l, 2*u+k) // above
		quad(u+k, u+l, 3*u+l, 3*u+k)     // outside
		quad(2*u+k, 2*u+l, l, k)         // the bore
	}
	return m
}

func count(f Features, kind FeatureKind) (list []Feature) {
	for _, x := range f.List {
		if x.Kind == kind {
			list = append(list, x)
		}
	}
	return list
}

func TestADrilledPlateHasSixPlanesAndAHole(t *testing.T) {
	r := rand.New(rand.NewPCG(2, 2))
	for range 10 {
		by := anyMotion(r)
		s := shaped(t, moved(drilled(3, 5, 48), by, false))
		f := s.Features()
		planes, holes := count(f, Plane), count(f, Cylinder)
		require.Len(t, planes, 6)
		require.Len(t, holes, 1)
		h := holes[0]
		assert.True(t, h.Hole)
		assert.InDelta(t, 3, h.Radius, 1e-3)
		assert.InDelta(t, 5, h.Length, 1e-3)
		assert.InDelta(t, 1, h.Turn, 0.01)
		assert.InDelta(t, 1, math.Abs(r3.Dot(h.Axis.Vec(), by.R.Apply(space.Vec{Z: 1}))), 1e-6)
		assert.InDelta(t, 0, r3.Norm(r3.Sub(h.Centre.Vec(), by.Apply(space.Vec{Z: 2.5}))), 1e-3)
		for _, p := range planes {
			// A plane looks away from the middle.
			assert.Greater(t, r3.Dot(p.Axis.Vec(), r3.Sub(p.Centre.Vec(), h.Centre.Vec())), 1.0)
		}
		for tri, at := range f.Of {
			require.GreaterOrEqual(t, at, int32(0), "triangle %d belongs to something", tri)
		}
		lines := count(f, Line)
		require.NotEmpty(t, lines)
	}
}

func TestACubeHasPlanesAndTwelveLines(t *testing.T) {
	f := shaped(t, cube(10)).Features()
	assert.Len(t, count(f, Plane), 6)
	assert.Empty(t, count(f, Cylinder))
	lines := count(f, Line)
	require.Len(t, lines, 12)
	for _, l := range lines {
		assert.InDelta(t, 10, l.Length, 1e-6)
	}
}

func TestASphereIsNoCylinder(t *testing.T) {
	for _, c := range count(shaped(t, sphere(10, 24, 48)).Features(), Cylinder) {
		assert.Less(t, c.Length, 3.0, "a belt of it may pass for one, no more")
	}
}
