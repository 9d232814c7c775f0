package film

import (
	"math"
	"slices"
)

// drivenStep is how far a driver goes between two looks, degrees or mm.
const drivenStep = 30

// pieces are those into which the period of the only driver of a mechanism is cut.
type pieces struct {
	stride float64   // degrees; 0 where there are several drivers, or it does not repeat
	count  float64   // in a period
	times  []float64 // film times at which the driver comes to a whole number of strides, or its motion changes
}

// findPieces follows the only driver. Between two changes of its motion it has to go one way: where cues overlap, or an
// easing overshoots, nothing is known of it.
func (f *Film) findPieces() (p pieces) {
	m := f.drive.mechanism
	if len(m.Drivers) != 1 || len(f.drive.chains) > 1 { // what is left of it repeats otherwise
		return p
	}
	acts := f.drive.joints[0].acts
	for i, a := range acts {
		if b := &f.tracks[a.track]; b.curve.overshoots() || slices.ContainsFunc(acts[:i], func(o drivenBy) bool {
			return f.tracks[o.track].overlaps(b)
		}) {
			return p
		}
	}
	period, ok := m.Period(0)
	if !ok {
		return p
	}
	p.count = math.Ceil(period / drivenStep)
	p.stride = period / p.count
	p.times = f.strides(p.stride)
	return p
}

// overlaps reports whether two tracks change at one time, be it forwards or backwards.
func (b *track) overlaps(o *track) bool {
	const touching = 1 // µs
	for _, x := range b.spans() {
		for _, y := range o.spans() {
			if min(x[1], y[1])-max(x[0], y[0]) > touching {
				return true
			}
		}
	}
	return false
}

// spans are the film times in which a track changes.
func (b *track) spans() [][2]float64 {
	list := [][2]float64{{b.start, b.start + b.duration}}
	if b.back != nil {
		list = append(list, [2]float64{b.back.at, b.backAt(b.start)})
	}
	return list
}

// backAt is when what is run backwards shows again what it showed at a film time.
func (b *track) backAt(t float64) float64 { return b.back.at + (b.back.forward-t)/b.back.speed }

// bends are the shares of its time between which what a track drives goes one way.
func (b *track) bends() []float64 {
	if b.curve.profile != nil {
		return b.curve.profile.corners()
	}
	return []float64{0, 1}
}

// drivenTurns are film times between which the drivers go less than some degrees. Where all of it repeats, they are the
// same places of each period.
func (f *Film) drivenTurns() (list []float64) {
	if p := f.drive.pieces(); p.stride > 0 {
		return p.times
	}
	list = f.spinTurns(list)
	for i := range f.drive.joints {
		for _, a := range f.drive.joints[i].acts {
			b := &f.tracks[a.track]
			bends := b.bends()
			for k := 1; k < len(bends); k++ {
				x, y := bends[k-1], bends[k]
				way := math.Abs(b.curve.at(y) - b.curve.at(x))
				if a.to != nil {
					way = 360
				}
				n := max(1, math.Ceil(way/drivenStep))
				for j := 0.0; j <= n; j++ {
					list = f.looks(list, b, x+(y-x)*j/n)
				}
			}
		}
	}
	return list
}

// looks adds the film times at which a track is at a share of its time, and at which it turns back.
func (f *Film) looks(list []float64, b *track, x float64) []float64 {
	end := float64(f.Duration())
	at := b.start + x*b.duration
	list = append(list, max(0, min(at, end)))
	if b.back != nil {
		list = append(list, max(0, min(b.back.at, end)), max(0, min(b.backAt(at), end)))
	}
	return list
}

// strides are the film times at which the only driver comes to a whole number of strides.
func (f *Film) strides(stride float64) (list []float64) {
	stops := []float64{0, float64(f.Duration())}
	for _, a := range f.drive.joints[0].acts {
		b := &f.tracks[a.track]
		for _, x := range b.bends() {
			stops = f.looks(stops, b, x)
		}
	}
	slices.Sort(stops)
	for i := 1; i < len(stops); i++ {
		from, to := stops[i-1], stops[i]
		a, b := f.driverAt(from), f.driverAt(to)
		for k := math.Ceil(min(a, b) / stride); k*stride <= max(a, b); k++ {
			low, high := from, to
			for range 60 {
				if middle := (low + high) / 2; (f.driverAt(middle) < k*stride) == (a < b) {
					low = middle
				} else {
					high = middle
				}
			}
			list = append(list, high)
		}
	}
	return append(list, stops...)
}

// driverAt is what the only driver stands at, from rest.
func (f *Film) driverAt(t float64) float64 {
	j := &f.drive.joints[0]
	v := 0.0
	for _, a := range j.acts {
		if u := f.tracks[a.track].progress(t); a.to != nil {
			v = mix(v, *a.to-j.rest, u)
		} else {
			v += u
		}
	}
	return v
}

// Place names the piece of a period that the two go through between two film times: where nothing else moves one against
// the other they go the same way in every piece of one name. ok is false where that is not known.
func (g *Against) Place(from, to float64) (name int, ok bool) {
	if g.driven == nil || !g.driven.moves || len(g.relative) > 0 {
		return 0, false
	}
	p := g.film.drive.pieces()
	if p.stride == 0 {
		return 0, false
	}
	a, b := g.film.driverAt(from)/p.stride, g.film.driverAt(to)/p.stride
	const near = 1e-6
	if math.Abs(a-math.Round(a)) > near || math.Abs(b-math.Round(b)) > near || math.Abs(math.Abs(b-a)-1) > 2*near {
		return 0, false
	}
	low := math.Round(min(a, b))
	return int(low - p.count*math.Floor(low/p.count)), true
}

// corners are the shares of the time between which what is driven goes one way and changes its speed evenly.
func (p *profile) corners() []float64 {
	list := []float64{0, 1}
	if p.long > 0 && p.runs {
		list = append(list, p.up/p.long, 1-p.down/p.long)
		if turn, ok := p.turn(); ok {
			list = append(list, turn)
		}
	}
	for k := range int(2 * p.swings) {
		list = append(list, float64(k)/(2*p.swings))
	}
	slices.Sort(list)
	return slices.Compact(list)
}

// spinTurns adds the film times at which parts leave and come back, and between which what goes on by itself turns by less
// than some degrees.
func (f *Film) spinTurns(list []float64) []float64 {
	end := float64(f.Duration())
	for i := range f.drive.chains[1:] {
		c := &f.drive.chains[i+1]
		until := end
		if i+2 < len(f.drive.chains) {
			until = min(end, f.drive.chains[i+2].from)
		}
		list = append(list, min(c.from, end), until)
		for b := range c.stands {
			s := &c.stands[b].spin
			if s.rate == 0 {
				continue
			}
			last, speed := min(until, s.from+s.stop), 1.0
			if s.back != nil {
				last, speed = until, max(1, s.back.speed)
				list = append(list, min(until, s.back.at), min(until, s.from+s.stop))
			}
			for t := c.from; t < last; t += drivenStep / (math.Abs(s.rate) * speed) {
				list = append(list, t)
			}
			list = append(list, last)
		}
	}
	return list
}
