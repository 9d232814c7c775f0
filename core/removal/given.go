package removal

import (
	"slowreveal/core/plan"
	"slowreveal/core/space"
)

// given carries out the moves that the author wants first. What one of them goes into is said, and it is done all the
// same.
func (s *search) given() {
	inside := map[int][]bool{} // by move, what it has taken along and is still together
	for i := range s.choices.Given {
		g := &s.choices.Given[i]
		in := make([]bool, len(s.nodes))
		n := 0
		for _, id := range g.Nodes {
			if node, ok := s.index[id]; ok {
				if u := (unit{node: node, parts: s.below[node]}); s.keeps(&u, -1) {
					continue
				}
				for _, p := range s.below[node] {
					in[p], n = true, n+1
				}
			}
		}
		carried, there := s.whereabouts(in, inside)
		if n == 0 || there == nil || s.ended() {
			continue
		}
		top := s.there
		s.there = there
		for p := range in {
			in[p] = in[p] && there[p]
		}
		r := s.givenMove(s.likesOver(in), g)
		r.carried = carried
		s.leave(r)
		s.there = top
		together := make([]bool, len(s.nodes))
		for _, u := range r.units {
			if len(u.parts) > 1 && !s.whole[u.node] {
				inside[len(s.moves)-1] = together
				for _, p := range u.parts {
					together[p] = true
				}
			}
		}
	}
	top := s.there
	for k := range len(s.moves) {
		there := inside[k]
		if there == nil || s.choices.Reach != "" {
			continue
		}
		first := len(s.moves)
		for _, u := range s.moves[k].units {
			s.there = s.in(&u)
			for p := range s.there {
				s.there[p] = s.there[p] && there[p]
			}
			s.takeApart(u.node, s.heaviest(s.unitOf(u.node).parts))
		}
		for _, m := range s.moves[first:] {
			if m.carried < 0 {
				m.carried = k
			}
		}
	}
	s.there = top
}

// whereabouts is what some parts are still together with: the assembly, or what an earlier move has taken along; nil
// where they have left all.
func (s *search) whereabouts(in []bool, inside map[int][]bool) (carried int, there []bool) {
	for p, yes := range in {
		if !yes {
			continue
		}
		if s.there[p] {
			return -1, s.there
		}
		for k := len(s.moves) - 1; k >= 0; k-- {
			if inside[k] != nil && inside[k][p] {
				return k, inside[k]
			}
		}
	}
	return -1, nil
}

// likesOver divides parts into likes that go each for itself, or else makes one unit of them.
func (s *search) likesOver(in []bool) (units []unit) {
	all := s.unitOver(in)
	for _, node := range all.nodes {
		units = append(units, s.unitOf(node))
	}
	for i := range units[1:] {
		if !s.alike(&units[0], &units[i+1]) {
			return []unit{all}
		}
	}
	return units
}

// givenMove is a move of units along a direction, or else along the one that suits each best.
func (s *search) givenMove(units []unit, g *plan.Given) *removal {
	r := &removal{carried: -1, hits: -1, given: true, units: units, why: []string{"You have put it here."}}
	if g.Along != nil {
		r.why = []string{"You have put it here, and chosen its direction."}
	}
	far := 0.0
	var ways []int
	for i := range units {
		way, free := s.wayGiven(&units[i], g)
		ways = append(ways, way)
		if !free {
			by, _ := s.blocked(&units[i], way)
			r.hits = by[1]
			r.why = append(r.why, "It goes into "+s.nodes[by[1]].Name+" there.")
		} else if f := s.heldBy(&units[i]); f >= 0 {
			r.hits = f
			r.why = append(r.why, s.nodes[f].Name+" still holds it there.")
		}
		far = max(far, s.out(&units[i], way))
	}
	for _, way := range ways {
		r.ways = append(r.ways, route{[]leg{{along: s.way(way), need: far, far: far}}})
	}
	r.others = s.others(&units[0], ways[0])
	return r
}

func (s *search) wayGiven(u *unit, g *plan.Given) (way int, free bool) {
	if g.Along != nil {
		if d, ok := space.Normalize(s.world[0].R.Apply(g.Along.Vec())); ok {
			way = s.wayOf(d)
			_, blocked := s.blocked(u, way)
			return way, !blocked
		}
	}
	s.relaxed = true
	c := s.try(*u, -1)
	s.relaxed = false
	if c.ok {
		return c.way, true
	}
	if ways := s.waysFor(u); len(ways) > 0 {
		return ways[0], false
	}
	up := s.wayOf(space.Vec{Y: 1}) // all directions are ruled out: it goes up, and what it goes into is said
	_, blocked := s.blocked(u, up)
	return up, !blocked
}
