package look_test

import (
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"

	"slowreveal/core/look"
)

func TestEveryThresholdOfTheNoiseIsThereOnce(t *testing.T) {
	sorted := slices.Sorted(slices.Values(look.Noise()[:]))
	for i, v := range sorted {
		require.InDelta(t, (float64(i)+0.5)/float64(len(sorted)), v, 1e-6)
	}
}

// What a value between two steps becomes in sixteen by sixteen pixels is that value on the mean.
func TestRoundingByTheNoiseKeepsTheMean(t *testing.T) {
	noise := look.Noise()
	for _, value := range []float64{0.03, 0.21, 0.5, 0.77, 0.96} {
		for y := 0; y < look.NoiseSide; y += 16 {
			for x := 0; x < look.NoiseSide; x += 16 {
				up := 0
				for i := range 256 {
					if value+float64(noise[(y+i/16)*look.NoiseSide+x+i%16]) >= 1 {
						up++
					}
				}
				require.InDelta(t, value, float64(up)/256, 0.03)
			}
		}
	}
}

// Blue means that slow waves are missing: those longer than eight pixels have less than a tenth of the power
// that they would have in white noise (the spectra in Ulichney 1993 fall off likewise).
func TestTheNoiseIsBlue(t *testing.T) {
	noise, n := look.Noise(), look.NoiseSide
	power := func(u, v int) float64 {
		re, im := 0.0, 0.0
		for i, value := range noise {
			s, c := math.Sincos(2 * math.Pi * float64(u*(i%n)+v*(i/n)) / float64(n))
			re, im = re+(float64(value)-0.5)*c, im+(float64(value)-0.5)*s
		}
		return (re*re + im*im) / float64(n*n)
	}
	white, slow, waves := 1.0/12, 0.0, 0
	for v := -7; v <= 7; v++ {
		for u := 0; u <= 7; u++ {
			if (u != 0 || v > 0) && u*u+v*v < 64 {
				slow += power(u, v)
				waves++
			}
		}
	}
	require.Less(t, slow/float64(waves), white/10)
}
