package look_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"

	"slowreveal/core/film"
	"slowreveal/core/look"
	"slowreveal/core/reveal"
	"slowreveal/demo"
)

func TestLightsHaveADirection(t *testing.T) {
	for _, d := range [][3]float64{look.Default.Key, look.Default.Fill} {
		assert.InDelta(t, 1, math.Sqrt(d[0]*d[0]+d[1]*d[1]+d[2]*d[2]), 1e-12)
	}
}

func TestEdgesArePulledFurtherInSmallPictures(t *testing.T) {
	assert.Equal(t, look.Default.EdgePull, look.Default.Pull(1080))
	assert.Equal(t, look.Default.EdgePull, look.Default.Pull(2160))
	assert.Equal(t, 2*look.Default.EdgePull, look.Default.Pull(540))
	assert.Equal(t, 4*look.Default.EdgePull, look.Default.Pull(10))
}

// The shadow lies under the pump, is gone a little way off, and weakens when
// the pump fades or is lifted.
func TestTheShadowLiesUnderThePump(t *testing.T) {
	a := demo.Pump().Assembly
	cast := func(change func(*film.Frame)) *look.Shadow {
		f := film.Compile(
			a,
			reveal.New("x", reveal.Camera{Orientation: [4]float64{0, 0, 0, 1}, Distance: 1, FocalLength: 50}),
		)
		fr := f.NewFrame()
		f.At(0, fr)
		change(fr)
		s := look.NewShadow(a.Bounds())
		s.Cast(a, fr)
		return s
	}
	s := cast(func(*film.Frame) {})
	under := s.At(20, -58)
	assert.Greater(t, under, float32(0.5))
	assert.Less(t, s.At(150, 60), under/4)
	assert.Zero(t, s.At(1e4, 0))
	assert.Zero(t, s.At(float32(math.NaN()), 0))
	faded := cast(func(fr *film.Frame) {
		for i := range fr.Opacity {
			fr.Opacity[i] = 0.5
		}
	})
	assert.InDelta(t, under/2, faded.At(20, -58), 0.02)
	lifted := cast(func(fr *film.Frame) {
		for i := range fr.World {
			fr.World[i].T.Y += 60
		}
	})
	assert.Less(t, lifted.At(20, -58), under/2)
}
