package look

import (
	"math"
	"sync"
)

// NoiseSide is the number of rows and of columns after which the noise repeats.
const NoiseSide = 64

// Noise returns the thresholds at which display values are rounded up to the next step of what they are written
// in, row by row from 0 to 1, both excluded: each as often as any other, and neighbours far apart, so that a
// picture has on the mean the value that was drawn and nothing coarse is seen of the rounding. It is always the
// same, for it belongs to the place on the screen. Blue noise by void and cluster: Ulichney 1993, "The
// void-and-cluster method for dither array generation".
func Noise() *[NoiseSide * NoiseSide]float32 { return noise() }

// NoiseBytes is the noise in 256 steps.
func NoiseBytes() []byte {
	out := make([]byte, NoiseSide*NoiseSide)
	for i, v := range Noise() {
		out[i] = byte(v * 256)
	}
	return out
}

var noise = sync.OnceValue(func() *[NoiseSide * NoiseSide]float32 {
	const n = NoiseSide * NoiseSide
	p := newPattern()
	// A tenth of the places by a plain sequence, moved about until they are even.
	seed := uint32(1)
	for range n / 10 {
		seed = seed*1664525 + 1013904223 // a generator of Numerical Recipes, from memory
		if at := int(seed >> 20); !p.on[at] {
			p.turn(at)
		}
	}
	for {
		out := p.tightest()
		p.turn(out)
		in := p.emptiest()
		p.turn(in)
		if in == out {
			break
		}
	}
	ranks := new([n]float32)
	first := *p
	for k := p.count - 1; k >= 0; k-- {
		at := p.tightest()
		p.turn(at)
		ranks[at] = float32(k)
	}
	for k := first.count; k < n; k++ {
		at := first.emptiest()
		first.turn(at)
		ranks[at] = float32(k)
	}
	for i := range ranks {
		ranks[i] = (ranks[i] + 0.5) / n
	}
	return ranks
})

// pattern is a set of places on a square whose sides meet, with how crowded it is around each place.
type pattern struct {
	on    [NoiseSide * NoiseSide]bool
	crowd [NoiseSide * NoiseSide]float64
	near  *[2*noiseReach + 1][2*noiseReach + 1]float64
	count int
}

const (
	noiseReach = 7
	noiseSigma = 1.5 // pixels, as Ulichney has it
)

func newPattern() *pattern {
	p := &pattern{near: new([2*noiseReach + 1][2*noiseReach + 1]float64)}
	for y := range p.near {
		for x := range p.near[y] {
			dx, dy := float64(x-noiseReach), float64(y-noiseReach)
			p.near[y][x] = math.Exp(-(dx*dx + dy*dy) / (2 * noiseSigma * noiseSigma))
		}
	}
	return p
}

// turn takes a place in, or out.
func (p *pattern) turn(at int) {
	sign := 1.0
	if p.on[at] {
		sign = -1
	}
	p.on[at] = !p.on[at]
	p.count += int(sign)
	x0, y0 := at%NoiseSide-noiseReach+NoiseSide, at/NoiseSide-noiseReach+NoiseSide
	for y := range p.near {
		row := (y0 + y) % NoiseSide * NoiseSide
		for x, share := range p.near[y] {
			p.crowd[row+(x0+x)%NoiseSide] += sign * share
		}
	}
}

// tightest is the place in the set that is most crowded, emptiest the one outside that is least.
func (p *pattern) tightest() int { return p.extreme(true, 1) }
func (p *pattern) emptiest() int { return p.extreme(false, -1) }

func (p *pattern) extreme(on bool, sign float64) int {
	best, at := math.Inf(-1), 0
	for i, crowd := range p.crowd {
		// Sums that differ by rounding alone are ties, and the first of them is taken.
		if p.on[i] == on && sign*crowd > best+1e-9 {
			best, at = sign*crowd, i
		}
	}
	return at
}
