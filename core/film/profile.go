package film

import (
	"math"

	"slowreveal/core/reveal"
)

// profile is how what is driven goes, in its own units: it runs up from one speed to another and down again, or swings.
// One that only eases goes by times the share that the easing says.
type profile struct {
	times         float64
	runs          bool
	before, after float64 // speeds, units in a second
	speed         float64
	up, down      float64 // s
	long          float64 // s
	swings        float64
}

// newProfile is that of a drive that lasts some µs.
func newProfile(d *reveal.Drive, duration float64) *profile {
	p := &profile{long: duration / float64(reveal.Second)}
	if d.By != nil {
		p.times, p.swings = *d.By, float64(d.Swings)
		return p
	}
	p.runs, p.speed = true, d.Rate()
	p.up, p.down = float64(d.RunUp)/float64(reveal.Second), float64(d.RunDown)/float64(reveal.Second)
	if whole := p.up + p.down; whole > p.long {
		p.up, p.down = p.up*p.long/whole, p.down*p.long/whole
	}
	return p
}

// at is how far it has come after a share of its time, which is eased where it neither runs nor swings.
func (p *profile) at(x, eased float64) float64 {
	switch {
	case p.swings > 0:
		if x >= 1 {
			return 0
		}
		return p.times * (1 - math.Cos(2*math.Pi*p.swings*max(x, 0))) / 2
	case !p.runs:
		return p.times * eased
	}
	t := max(0, min(x, 1)) * p.long
	down := p.long - p.down
	way := p.speed * min(max(t-p.up, 0), down-p.up)
	if p.up > 0 {
		s := min(t, p.up)
		way += p.before*s + (p.speed-p.before)*s*s/(2*p.up)
	}
	if s := t - down; s > 0 && p.down > 0 {
		way += p.speed*s + (p.after-p.speed)*s*s/(2*p.down)
	}
	return way
}

// turn is the share of the time at which it turns back while it runs up; ok is false where it does not.
func (p *profile) turn() (share float64, ok bool) {
	turn := p.before / (p.before - p.speed)
	return turn * p.up / max(p.long, 1e-9), p.up > 0 && turn > 0 && turn < 1
}

// bounds are the least and the greatest that it comes to.
func (p *profile) bounds(eased float64) (least, most float64) {
	end := p.at(1, 1)
	least, most = min(0, end), max(0, end)
	if p.swings > 0 {
		least, most = min(0, p.times), max(0, p.times)
	}
	if p.runs { // it may turn back while it runs up or down
		for _, t := range []float64{p.up, p.long - p.down} {
			v := p.at(t/max(p.long, 1e-9), 0)
			least, most = min(least, v), max(most, v)
		}
		if turn, ok := p.turn(); ok {
			v := p.at(turn, 0)
			least, most = min(least, v), max(most, v)
		}
	}
	more := (most - least) * max(eased-1, 0)
	return least - more, most + more
}
