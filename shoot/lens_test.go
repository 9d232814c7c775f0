package shoot

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// Behind a thin lens of diameter D, focused at a, a point at b spreads over the angle
// D·|1/a − 1/b| (geometrical optics; derived, no source): what is looked at stays sharp.
func TestThingsOutOfFocusSpreadAsBehindAThinLens(t *testing.T) {
	c := reveal.Camera{Target: space.Triple{10, 20, 30}, Orientation: space.Quat{0.1, 0.3, -0.2, 0.9}.Unit(), Distance: 600, Lens: 50}
	const aperture, n = 2.8, 400
	axis := film.Eye(c)
	for _, b := range []float64{300, 500, 600, 900, 2000} {
		point := axis.Apply(space.Vec{Z: -b})
		widest, sum := 0.0, [2]float64{}
		for i := range n {
			turned := through(c, aperture, i, n)
			assert.InDelta(t, 1, turned.Orientation.Norm(), 1e-12)
			eye := film.Eye(turned)
			inverse := eye.Inverse()
			seen := inverse.Apply(point)
			x, y := -seen.X/seen.Z, -seen.Y/seen.Z
			widest = max(widest, 2*math.Hypot(x, y))
			sum[0], sum[1] = sum[0]+x/n, sum[1]+y/n
		}
		want := 50 / aperture * math.Abs(1/600.0-1/b)
		assert.InDelta(t, want, widest, 0.01*want+1e-5, "at %g mm", b)
		assert.InDelta(t, 0, math.Hypot(sum[0], sum[1]), 0.02*want+1e-5, "it spreads evenly")
	}
}

// Every point of the lens is looked through once, whatever a frame is the mean of.
func TestEveryPointOfTheLensIsLookedThrough(t *testing.T) {
	for _, blur := range []int{0, 8, MaxBlur} {
		p := &Plan{Order: Order{Aperture: 4, Blur: blur, Speed: 1}, Rate: film.RateOf(30, false), Spans: []Span{{0, 10 * reveal.Second}}}
		seen := map[int]bool{}
		list := p.exposure(90)
		for _, i := range list {
			seen[i.lens] = true
			if blur < 2 {
				assert.Equal(t, 3*reveal.Second, i.at)
			}
		}
		assert.Len(t, seen, len(list))
		assert.GreaterOrEqual(t, len(list), lensPictures)
	}
}
