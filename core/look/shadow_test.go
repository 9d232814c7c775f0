package look

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
)

// The blur against its definition: the mean of 5 × 5 cells, three times, in 64-bit floats.
func TestTheShadowIsBlurredAsDefined(t *testing.T) {
	const n = ShadowSize
	r := rand.New(rand.NewPCG(6, 1))
	s := &Shadow{Dark: make([]float32, n*n), cells: new(cellMap), sums: new(cellMap)}
	for range 3 { // the work space is used again
		var want [n][n]float64
		*s.cells = cellMap{}
		for range 400 {
			k, i, v := r.IntN(n), r.IntN(n/2), r.Float64()
			want[k][i], s.cells[k][i] = v, int32(v*darkest)
		}
		for range 3 {
			var mean [n][n]float64
			for k := 2; k < n-2; k++ {
				for i := 2; i < n-2; i++ {
					for dk := -2; dk <= 2; dk++ {
						for di := -2; di <= 2; di++ {
							mean[k][i] += want[k+dk][i+di] / 25
						}
					}
				}
			}
			want = mean
		}
		s.blur()
		for k := range n {
			for i := range n {
				assert.InDelta(t, want[k][i], s.Dark[k*n+i], 2.0/darkest)
				if i > n/2+6 {
					assert.Zero(t, s.Dark[k*n+i], "no shadow is none")
				}
			}
		}
	}
}
