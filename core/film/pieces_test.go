package film

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"

	"slowreveal/core/reveal"
)

// Between two corners a proof takes what is driven to go one way. Held against the profile itself, looked at closely.
func TestBetweenCornersADriveGoesOneWay(t *testing.T) {
	random := rand.New(rand.NewPCG(25, 1))
	turned := 0
	for range 400 {
		speed := random.Float64()*400 - 200
		d := &reveal.Drive{
			Speed:   &speed,
			RunUp:   reveal.Micros(random.Float64() * 3 * float64(reveal.Second)),
			RunDown: reveal.Micros(random.Float64() * 3 * float64(reveal.Second)),
		}
		p := newProfile(d, (1+random.Float64()*9)*float64(reveal.Second))
		p.before = random.Float64()*400 - 200
		if _, ok := p.turn(); ok {
			turned++
		}
		corners := p.corners()
		for k := 1; k < len(corners); k++ {
			up, down := 0.0, 0.0
			const looks = 50
			for i := range looks {
				x, y := float64(i)/looks, float64(i+1)/looks
				way := corners[k] - corners[k-1]
				step := p.at(corners[k-1]+way*y, 0) - p.at(corners[k-1]+way*x, 0)
				up, down = max(up, step), max(down, -step)
			}
			assert.Less(t, min(up, down), 1e-9, "%+v between %v and %v", *p, corners[k-1], corners[k])
		}
	}
	assert.Greater(t, turned, 50, "profiles that turn back while they run up")
}

func TestTracksOverlapWhereBothChange(t *testing.T) {
	const s = float64(reveal.Second)
	first := &track{start: 0, duration: 2 * s}
	next := &track{start: 2 * s, duration: 2 * s}
	assert.False(t, first.overlaps(next), "one follows the other")
	assert.True(t, first.overlaps(&track{start: 1 * s, duration: 2 * s}))
	first.back = &reversal{at: 5 * s, forward: 2 * s, speed: 2} // shows its beginning again at 6 s
	assert.Equal(t, [][2]float64{{0, 2 * s}, {5 * s, 6 * s}}, first.spans())
	assert.True(t, first.overlaps(&track{start: 5.5 * s, duration: s}), "while it runs backwards")
	assert.False(t, first.overlaps(&track{start: 6 * s, duration: s}))
}
