package removal

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/space"
)

// candidate is a unit that can leave, and along which way best.
type candidate struct {
	unit  unit
	way   int
	out   float64 // how far until it is clear of the others, mm
	most  float64 // how far it may go, because of what has left before, mm; 0 for as far as it likes
	score float64 // the less, the sooner it leaves
	ok    bool
}

// takeApart moves all that can leave from below a node away from the part that stays, and then takes apart what has
// left as a whole.
func (s *search) takeApart(node, stays int) {
	for !s.ended() {
		r := s.next(node, stays)
		if r == nil {
			break
		}
		s.leave(r)
		s.within(r)
	}
	s.stay(node, stays)
}

// leave notes a move: what it moves is there no longer.
func (s *search) leave(r *removal) {
	s.moves = append(s.moves, r)
	var beside []int
	for i := range r.units {
		beside = append(beside, s.beside(&r.units[i])...)
	}
	slices.Sort(beside)
	for _, o := range slices.Compact(beside) {
		r.move.Beside = append(r.move.Beside, s.nodes[o].ID)
	}
	s.sayOne(r)
	all := space.EmptyBox
	for _, u := range r.units {
		for _, p := range u.parts {
			s.there[p] = false
			all = all.Union(s.box[p])
		}
	}
	s.last, s.lastWay, s.freed = all.Centre(), r.ways[0].legs[0].along, nil
	for _, u := range r.units {
		if len(u.parts) == 1 {
			s.freed = append(s.freed, s.joined[u.parts[0]]...)
		}
	}
	if s.found != nil {
		s.found(s.result())
	}
}

// within takes apart the units that have just left, each for itself: nothing else stands there.
func (s *search) within(r *removal) {
	number := len(s.moves) - 1
	for _, u := range r.units {
		if len(u.parts) < 2 || s.whole[u.node] {
			continue
		}
		there := s.there
		s.there = make([]bool, len(there))
		for _, p := range u.parts {
			s.there[p] = true
		}
		first := len(s.moves)
		s.takeApart(u.node, s.heaviest(u.parts))
		for _, m := range s.moves[first:] {
			if m.carried < 0 {
				m.carried = number
			}
		}
		s.there = there
	}
}

// next finds what leaves next, nil where nothing can.
func (s *search) next(node, stays int) *removal {
	for _, relaxed := range []bool{false, true} {
		s.relaxed = relaxed
		level := s.children[node]
		if s.nodes[node].IsPart() {
			level = append([]int{node}, level...)
		}
		for len(level) > 0 {
			list := s.able(level, stays)
			if len(list) > 0 {
				return s.likes(s.best(list), list)
			}
			level = s.deeper(level)
		}
		if r := s.along(node, stays); r != nil {
			return r
		}
		if r := s.together(node, stays); r != nil {
			return r
		}
	}
	if r := s.turned(node, stays); r != nil {
		return r
	}
	return s.wandering(node, stays)
}

// able lists the units of some nodes that can leave, with how they would.
func (s *search) able(level []int, stays int) (list []candidate) {
	for _, c := range each(level, func(node int) candidate { return s.try(s.unitOf(node), stays) }) {
		if c.ok {
			list = append(list, c)
		}
	}
	return list
}

// deeper lists the children of nodes that are no parts, and are not to stay whole.
func (s *search) deeper(level []int) (next []int) {
	for _, node := range level {
		if !s.whole[node] && !s.kept[node] {
			next = append(next, s.children[node]...)
		}
	}
	return next
}

// try asks whether a unit can leave, and along which way best.
func (s *search) try(u unit, stays int) (c candidate) {
	if len(u.parts) == 0 || s.keeps(&u, stays) || s.held(&u) {
		return c
	}
	c.unit, c.score = u, math.Inf(1)
	ways := s.waysFor(&u)
	open := 0.0
	for _, way := range ways {
		if _, blocked := s.blocked(&u, way); blocked {
			continue
		}
		open += 1 / float64(len(ways))
		out, room, most := s.out(&u, way), s.room(&u, way), 0.0
		if !math.IsInf(room, 1) {
			if most = room - spare; most < out+spare {
				continue
			}
		}
		score := s.cost(&u, way, out)
		if most > 0 { // what it could not go far enough on to be out of the way of others
			score += 0.5
		}
		if score < c.score {
			c.way, c.out, c.most, c.score, c.ok = way, out, most, score, true
		}
	}
	if c.ok {
		c.score += s.order(&u, open)
	}
	return c
}

// cost is how little a way of leaving suits a unit: how far it is, beside the size of all; sliding along what it
// touches instead of leaving it; down, where it would stand, and to the back, where nobody looks, and another direction
// than the last one.
func (s *search) cost(u *unit, way int, out float64) float64 {
	d := s.way(way)
	cost := out / s.size
	cost += 0.15*max(0, -d.Y) + 0.12*max(0, -d.Z) + 0.04*math.Abs(d.X)
	if away := s.away(u); away != (space.Vec{}) {
		cost += 0.4 * (1 - r3.Dot(away, d))
	}
	if s.lastWay != (space.Vec{}) {
		cost += 0.06 * (1 - r3.Dot(d, s.lastWay))
	}
	if !alongAny(&s.world[0].R, d) && !alongAny(&s.world[u.node].R, d) {
		cost += 0.25
	}
	for _, p := range s.choices.Prefer {
		if v, ok := space.Normalize(p.Vec()); ok && r3.Dot(v, d) > 0.999 {
			cost -= 0.5
		}
	}
	return cost
}

// alongAny reports whether a direction is that of one of a frame's axes.
func alongAny(frame *space.Mat3, d space.Vec) bool {
	for k := range 3 {
		if math.Abs(r3.Dot(frame.Column(k), d)) > 0.999 {
			return true
		}
	}
	return false
}

// away is the mean direction away from all that a unit touches and that is there, zero where there is none.
func (s *search) away(u *unit) space.Vec {
	var sum space.Vec
	in := s.in(u)
	for _, p := range u.parts {
		for _, t := range s.touching[p] {
			if !in[t.node] && s.there[t.node] && s.fastener(t.node) == nil {
				sum = r3.Sub(sum, r3.Scale(t.area, t.normal))
			}
		}
	}
	d, _ := space.Normalize(sum)
	return d
}

// order is how late a unit leaves among those that can: what is small first, what is near to what has left last, what
// is open to more sides; and what a fastener has set free before the next fasteners are undone.
func (s *search) order(u *unit, open float64) float64 {
	all := space.EmptyBox
	for _, p := range u.parts {
		all = all.Union(s.box[p])
	}
	score := 0.4*r3.Norm(all.Size())/s.size + 0.6*(1-open)
	if s.last != (space.Vec{}) {
		score += r3.Norm(r3.Sub(all.Centre(), s.last)) / s.size
	}
	if g := s.fastener(u.parts[0]); len(u.parts) == 1 && g != nil && len(s.joined[u.parts[0]]) > 0 {
		return score - 0.2
	}
	for _, p := range u.parts {
		if slices.Contains(s.freed, p) {
			return score - 0.6
		}
	}
	return score
}

func (s *search) best(list []candidate) candidate {
	best := list[0]
	for _, c := range list[1:] {
		if c.score < best.score-1e-9 {
			best = c
		}
	}
	return best
}
