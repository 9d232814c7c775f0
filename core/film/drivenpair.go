package film

import (
	"hash/maphash"
	"math"
	"slices"

	"slowreveal/core/reveal"
)

// drivenPair is what a mechanism does to two nodes. Where it moves one against the other, a point goes along what its
// joints' coordinates do, each alone a circle or a line; how far a coordinate strays from a straight line over the time is
// judged by its value in the middle, twice that being allowed for.
type drivenPair struct {
	progress      []float64
	values        []float64
	from, mid, to *running
	now           *running
	between       [][]int // by chain: coordinates that move one against the other
	moves         bool
}

// drivenPair tells what the film's mechanism does to two nodes; nil where it moves neither of the nodes that lead to them.
func (f *Film) drivenPair(still, moving int, shared map[int32]bool, nodes []int32) *drivenPair {
	m := f.drive.mechanism
	if m == nil || !slices.ContainsFunc(nodes, func(n int32) bool { return !shared[n] && f.drive.bodies[n] != 0 }) {
		return nil
	}
	d := &drivenPair{
		progress: make([]float64, len(f.tracks)), values: make([]float64, len(m.Drivers)),
		from: f.newRunning(), mid: f.newRunning(), to: f.newRunning(), now: f.newRunning(),
	}
	a, b := m.Body(still), m.Body(moving)
	meshing := m.Meshing(a, b) // teeth that mesh are no interference
	for i := range f.drive.chains {
		c := &f.drive.chains[i]
		d.between = append(d.between, c.m.Between(c.m.Body(still), c.m.Body(moving)))
		d.moves = d.moves || len(d.between[i])+len(c.spinning(a, b)) > 0 && !meshing
	}
	return d
}

// bring brings a state of the mechanism to film time t.
func (g *Against) bring(t float64, s *running) { g.bringIn(g.film.chainAt(t), t, s) }

// driveArc adds to an arc what the mechanism does in its time. It returns how many coordinates act.
func (g *Against) driveArc(a *Arc, from, to float64) (acting int) {
	f, d := g.film, g.driven
	middle := (from + to) / 2
	g.bring(middle, d.mid)
	c := &f.drive.chains[d.mid.chain]
	for _, k := range d.between[d.mid.chain] {
		x, y, z := d.from.part().Coordinate(k), d.mid.part().Coordinate(k), d.to.part().Coordinate(k)
		way := math.Abs(y-x) + math.Abs(z-y)
		if way == 0 {
			continue
		}
		acting++
		uneven := min(1, 2*math.Abs(y-(x+z)/2)/way)
		l := leg{factor: 1, uneven: uneven}
		if c.m.Turning(k) {
			l.turn(a, way*math.Pi/180)
		}
		d.now.copyFrom(d.from)
		c.m.Set(d.now.part(), k, x+math.Copysign(way, z-x))
		if c.stands != nil {
			f.show(from, d.now)
		}
		l.to = g.placeWith(g.now, d.now)
		a.alone = append(a.alone, l)
	}
	return acting + g.spinArc(a, c, from, to)
}

// turn has a leg turn by an angle, rad.
func (l *leg) turn(a *Arc, angle float64) {
	l.angle = angle
	a.Angle += angle
	if angle > 0 {
		l.factor = angle / 2 / math.Sin(min(angle/2, math.Pi/2))
	}
}

// spinArc adds what goes on by itself after it has left.
func (g *Against) spinArc(a *Arc, c *chain, from, to float64) (acting int) {
	f, d := g.film, g.driven
	m := f.drive.mechanism
	for _, b := range c.spinning(m.Body(int(g.nodes[g.still])), m.Body(int(g.nodes[g.moving]))) {
		s := &c.stands[b].spin
		x, y, z := s.way(from), s.way((from+to)/2), s.way(to)
		if z == x {
			continue
		}
		acting++
		l := leg{factor: 1, uneven: min(1, 2*math.Abs(y-(x+z)/2)/(z-x))}
		l.turn(a, math.Abs(s.rate)*(z-x)*math.Pi/180)
		d.now.copyFrom(d.from)
		f.show(to, d.now)
		l.to = g.placeWith(g.now, d.now)
		a.alone = append(a.alone, l)
	}
	return acting
}

// bringIn brings a state to film time t as a chain has it.
func (g *Against) bringIn(k int, t float64, r *running) {
	f, d := g.film, g.driven
	t = max(0, min(t, float64(f.Duration())))
	for i := range f.drive.joints {
		for _, a := range f.drive.joints[i].acts {
			d.progress[a.track] = f.tracks[a.track].progress(t)
		}
	}
	f.driverValues(d.progress, d.values)
	f.runIn(k, t, d.values, r)
}

// cuesDriving adds the cues that drive in a time.
func (g *Against) cuesDriving(from, to float64, list []reveal.CueID) []reveal.CueID {
	f := g.film
	if g.driven == nil || !g.driven.moves {
		return list
	}
	for i := range f.drive.joints {
		for _, a := range f.drive.joints[i].acts {
			if b := &f.tracks[a.track]; b.progress(from) == b.progress(to) {
				continue
			}
			for cue, r := range f.ran {
				if a.track >= r.first && a.track < r.first+r.count && !slices.Contains(list, cue) {
					list = append(list, cue)
				}
			}
		}
	}
	return list
}

// writeDriven adds to a hash what the mechanism does to the two.
func (g *Against) writeDriven(h *maphash.Hash) (last float64) {
	w := hashed{h}
	for _, l := range g.film.drive.leavers {
		w.numbers(float64(l.node), l.from, min(l.to, math.MaxFloat64), l.coasts)
		h.WriteString(string(l.how))
		last = max(last, l.from+l.coasts, float64(g.film.Duration()))
	}
	for i := range g.film.drive.joints {
		j := &g.film.drive.joints[i]
		h.WriteString(string(j.joint))
		for _, a := range j.acts {
			b := &g.film.tracks[a.track]
			w.track(b)
			last = max(last, b.start+b.duration)
			if b.back != nil {
				last = max(last, b.back.at+(b.back.forward-b.start)/b.back.speed)
			}
			if a.to != nil {
				w.numbers(*a.to)
			}
			if p := b.curve.profile; p != nil {
				w.numbers(p.times, p.before, p.after, p.speed, p.up, p.down, p.long, p.swings)
			}
		}
	}
	return last
}
