package solid_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/solid"
	"slowreveal/core/solid/simple"
	"slowreveal/core/space"
	"slowreveal/demo"
)

func shapeOf(t *testing.T, m solid.Mesh) *solid.Shape {
	t.Helper()
	s, _, err := solid.New(m)
	require.NoError(t, err)
	return s
}

func TestABlockCutInTheMiddle(t *testing.T) {
	s := shapeOf(t, simple.Block(10, 20, 30))
	cut, ok := s.Cut(space.Vec{Z: 1}, 12)
	require.True(t, ok)
	assert.True(t, cut.Rest.Closed())
	assert.InEpsilon(t, 10*20*12, cut.Rest.Volume(), 1e-6)
	require.Len(t, cut.Outlines, 1)
	last := cut.Rest.Submeshes[len(cut.Rest.Submeshes)-1]
	assert.Len(t, cut.Rest.Submeshes, len(s.Submeshes)+1)
	assert.InEpsilon(t, 10*20, facesOf(cut.Rest, last), 1e-6, "what the plane has cut open")
	for _, at := range []float64{-1, 31} {
		_, ok = s.Cut(space.Vec{Z: 1}, at)
		assert.False(t, ok)
	}
	// Through its corners, through a face, and along the diagonal.
	for _, n := range []space.Vec{{Z: 1}, {X: 1}, r3.Unit(space.Vec{X: 20, Y: -10})} {
		if cut, ok = s.Cut(n, 0); ok && cut.Rest != nil {
			assert.True(t, cut.Rest.Closed())
		}
	}
}

// facesOf is the area of a submesh, mm².
func facesOf(s *solid.Shape, m solid.Submesh) (sum float64) {
	for t := m.First; t < m.First+m.Count; t++ {
		a, b, c := s.Point(s.Triangles[3*t]), s.Point(s.Triangles[3*t+1]), s.Point(s.Triangles[3*t+2])
		sum += r3.Norm(r3.Cross(r3.Sub(b, a), r3.Sub(c, a))) / 2
	}
	return sum
}

// A pipe cut across has a ring, cut lengthwise two strips.
func TestAPipeCutAcrossAndLengthwise(t *testing.T) {
	s := shapeOf(t, simple.Sleeve(6, 10, 40, 96))
	cut, ok := s.Cut(space.Vec{Z: 1}, 15)
	require.True(t, ok)
	require.Len(t, cut.Outlines, 2)
	assert.True(t, cut.Rest.Closed())
	assert.InEpsilon(t, math.Pi*(100-36), facesOf(cut.Rest, cut.Rest.Submeshes[len(cut.Rest.Submeshes)-1]), 2e-3)
	cut, ok = s.Cut(space.Vec{X: 1}, 0.001)
	require.True(t, ok)
	require.Len(t, cut.Outlines, 2)
	assert.InEpsilon(t, 2*4*40, facesOf(cut.Rest, cut.Rest.Submeshes[len(cut.Rest.Submeshes)-1]), 2e-3)
}

// All parts of the example, cut by planes of chance: both sides are closed, and together as large as the whole.
func TestBothSidesOfACutAreTheWhole(t *testing.T) {
	random := rand.New(rand.NewPCG(24, 1))
	cuts := 0
	for k, s := range demo.Pump().Shapes {
		for range 4 {
			n := r3.Unit(space.Vec{X: random.NormFloat64(), Y: random.NormFloat64(), Z: random.NormFloat64()})
			middle := s.Bounds.Centre()
			at := r3.Dot(n, middle) + (random.Float64()-0.5)*0.5*r3.Norm(s.Bounds.Size())
			below, ok := s.Cut(n, at)
			if !ok {
				continue
			}
			above, ok := s.Cut(r3.Scale(-1, n), -at)
			require.True(t, ok)
			cuts++
			require.Len(t, above.Outlines, len(below.Outlines))
			volume := 0.0
			for _, rest := range []*solid.Shape{below.Rest, above.Rest} {
				if rest != nil {
					assert.True(t, rest.Closed(), "shape %d", k)
					volume += rest.Volume()
				}
			}
			assert.InEpsilon(t, s.Volume(), volume, 1e-4, "shape %d", k)
		}
	}
	assert.Greater(t, cuts, 100)
}
