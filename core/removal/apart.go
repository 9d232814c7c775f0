package removal

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/plan"
	"slowreveal/core/space"
)

// spacing is the usual gap between parts, as a share of the assembly's diagonal.
const spacing = 0.05

// mostFar is how far a part goes at most, as a multiple of the assembly's diagonal.
const mostFar = 12

// mostTries is how often a part is moved on to be clear of others.
const mostTries = 200

func (s *search) gap() float64 {
	if s.choices.Spacing > 0 {
		return s.choices.Spacing
	}
	return math.Max(1, math.Round(spacing*s.size))
}

// field is what a unit takes along: the boxes of its parts, and of all that is done with any of them later, as if it
// stood in its place; turning is where they are while they are turned, after which own is.
type field struct{ own, inner, turning []space.Box }

// setApart gives every move its distance, from the last one to the first: as far as it must go to be clear of what it
// leaves, and then on until it stands out of the way of all that leaves later, and, where that costs little, until
// neither covers the other from where their steps are seen.
func (s *search) setApart() {
	fields := make([][]field, len(s.moves)) // by move and unit
	resting := s.resting()
	c := s.newCover()
	for i := len(s.moves) - 1; i >= 0; i-- {
		m := s.moves[i]
		var later []space.Box
		for k := i + 1; k < len(s.moves); k++ {
			if s.moves[k].carried == m.carried {
				later = append(later, swept(s.moves[k], fields[k])...)
			}
		}
		for u := range m.units {
			fields[i] = append(fields[i], s.fieldOf(u, i))
		}
		all := append(slices.Clone(resting), later...)
		if s.choices.Fade && m.carried < 0 { // it is gone by then
			later = nil
		}
		clear := func(far float64) float64 { return s.clear(m, fields[i], later, all, far) }
		far := clear(s.mustGo(m))
		if !s.choices.Fade {
			far = c.best(i, far, clear)
		}
		s.goes(m, far)
		c.place(i)
	}
}

// resting lists the boxes of what never leaves, and of what has left before.
func (s *search) resting() (list []space.Box) {
	moves := make([]bool, len(s.nodes))
	for _, m := range s.moves {
		for _, u := range m.units {
			for _, p := range u.parts {
				moves[p] = true
			}
		}
	}
	for _, p := range s.below[0] {
		if !moves[p] {
			list = append(list, s.box[p])
		}
	}
	for _, p := range s.parked {
		list = append(list, s.box[p])
	}
	return list
}

// fieldOf is the field of a unit of a move.
func (s *search) fieldOf(of, number int) (f field) {
	m := s.moves[number]
	u, swing := &m.units[of], m.swing
	in := s.in(u)
	for _, p := range u.parts {
		own := s.box[p]
		if swing != nil {
			all := own
			own, all = s.swung(p, swing)
			before := route{m.ways[of].legs[:swing.After]}
			f.turning = append(append(f.turning, along(s.box[p], before)...), all.Shifted(total(before)))
		}
		f.own = append(f.own, own)
	}
	for k := number + 1; k < len(s.moves); k++ {
		for i, o := range s.moves[k].units {
			if !in[o.parts[0]] {
				continue
			}
			for _, p := range o.parts {
				f.inner = append(f.inner, along(s.box[p], s.moves[k].ways[i])...)
			}
		}
	}
	return f
}

// swung is the box of a part after a turn, and all that it reaches in it, as far as steps of 5° tell.
func (s *search) swung(part int, swing *plan.Swing) (after, all space.Box) {
	through, about := s.world[0].Apply(swing.Pivot.Vec()), s.world[0].R.Apply(swing.About.Vec())
	own := s.subject.Assembly.Shapes[s.nodes[part].Shape].Bounds()
	steps := math.Ceil(math.Abs(swing.Degrees) / 5)
	all = s.box[part]
	for k := 1.0; k <= steps; k++ {
		turn := space.TurnAbout(through, about, swing.Degrees*k/steps)
		at := turn.Mul(&s.world[part])
		after = own.Moved(&at)
		all = all.Union(after)
	}
	return after, all
}

// along is where a box goes on a way, leg by leg.
func along(b space.Box, w route) (list []space.Box) {
	for _, l := range w.legs {
		to := b.Shifted(r3.Scale(l.far, l.along))
		list = append(list, b.Union(to))
		b = to
	}
	return list
}

// swept is where a move goes, with all that it takes along.
func swept(m *removal, fields []field) (list []space.Box) {
	for i, f := range fields {
		list = append(list, f.turning...)
		for _, b := range f.own {
			list = append(list, along(b, m.ways[i])...)
		}
		by := total(m.ways[i])
		for _, b := range f.inner { // where they stand by then
			list = append(list, b.Shifted(by))
		}
	}
	return list
}

func total(w route) (sum space.Vec) {
	for _, l := range w.legs {
		sum = r3.Add(sum, r3.Scale(l.far, l.along))
	}
	return sum
}

// mustGo is how far a move goes at least in its last legs.
func (s *search) mustGo(m *removal) float64 {
	gap := s.gap()
	far := gap
	for _, w := range m.ways {
		far = max(far, w.legs[len(w.legs)-1].need+gap)
	}
	return far
}

// goes sets how far a move goes in its last legs.
func (s *search) goes(m *removal, far float64) {
	for i := range m.ways {
		last := &m.ways[i].legs[len(m.ways[i].legs)-1]
		if last.far = math.Ceil(far); last.most > 0 && last.far > last.most {
			last.far = math.Floor(10*last.most) / 10
		}
	}
}

// clear is how far a move goes in its last legs, from a distance on, so that it is clear of what it leaves by the gap,
// and stands out of the way of what leaves later; what is done with its own parts later is clear also of what rests.
func (s *search) clear(m *removal, fields []field, later, all []space.Box, far float64) float64 {
	gap := s.gap()
	for range mostTries {
		next := far
		for i := range m.ways {
			last := &m.ways[i].legs[len(m.ways[i].legs)-1]
			last.far = far
			by := total(m.ways[i])
			beyond := func(boxes, others []space.Box) {
				for _, b := range boxes {
					own := grown(b.Shifted(by), gap/2)
					for _, o := range others {
						if overlaps(own, o) {
							next = max(next, far+past(own, o, last.along))
						}
					}
				}
			}
			beyond(fields[i].own, later)
			beyond(fields[i].inner, all)
		}
		if next <= far || next > mostFar*s.size {
			break
		}
		far = next
	}
	return far
}

func grown(b space.Box, by float64) space.Box {
	d := space.Vec{X: by, Y: by, Z: by}
	return space.Box{Min: r3.Sub(b.Min, d), Max: r3.Add(b.Max, d)}
}

func overlaps(a, b space.Box) bool {
	return a.Min.X < b.Max.X && b.Min.X < a.Max.X && a.Min.Y < b.Max.Y && b.Min.Y < a.Max.Y && a.Min.Z < b.Max.Z &&
		b.Min.Z < a.Max.Z
}

// past is how far a box has to go along a direction until it has left another one that it overlaps, mm.
func past(own, other space.Box, d space.Vec) float64 {
	far := math.Inf(1)
	for _, k := range [3][5]float64{{d.X, own.Min.X, own.Max.X, other.Min.X, other.Max.X}, {d.Y, own.Min.Y, own.Max.Y, other.Min.Y, other.Max.Y}, {d.Z, own.Min.Z, own.Max.Z, other.Min.Z, other.Max.Z}} {
		switch {
		case k[0] > 1e-6:
			far = min(far, (k[4]-k[1])/k[0])
		case k[0] < -1e-6:
			far = min(far, (k[3]-k[2])/k[0])
		}
	}
	return far + 1e-6
}
