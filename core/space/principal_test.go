package space

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/mat"
)

// The running reference is gonum's symmetric eigenvalue solver.
func TestPrincipalAgreesWithAnotherSolver(t *testing.T) {
	r := rand.New(rand.NewPCG(11, 12))
	for range 300 {
		var m Mat3
		for i := range 3 {
			for k := range i + 1 {
				v := r.NormFloat64() * math.Pow(10, float64(r.IntN(7)-3))
				m[3*i+k], m[3*k+i] = v, v
			}
		}
		values, axes := Principal(m)
		var other mat.EigenSym
		require.True(t, other.Factorize(mat.NewSymDense(3, m[:]), false))
		scale := math.Max(math.Abs(values[0]), math.Abs(values[2]))
		for i, want := range other.Values(nil) {
			require.InDelta(t, want, values[i], 1e-10*scale)
		}
		assert.InDelta(t, 1, axes.Det(), 1e-9, "a rotation")
		for i := range 3 { // M·v = λ·v
			v := axes.Column(i)
			got := m.Apply(v)
			require.InDelta(t, values[i]*v.X, got.X, 1e-9*scale)
			require.InDelta(t, values[i]*v.Y, got.Y, 1e-9*scale)
			require.InDelta(t, values[i]*v.Z, got.Z, 1e-9*scale)
		}
	}
}

func TestPrincipalOfWhatIsSortedAlready(t *testing.T) {
	values, axes := Principal(Mat3{1, 0, 0, 0, 2, 0, 0, 0, 3})
	assert.Equal(t, [3]float64{1, 2, 3}, values)
	assert.Equal(t, Identity3, axes)
	values, axes = Principal(Mat3{})
	assert.Equal(t, [3]float64{}, values)
	assert.Equal(t, Identity3, axes)
}
