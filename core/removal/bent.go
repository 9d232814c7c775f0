package removal

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/space"
)

const (
	// spare is how far before a touch a leg ends, mm.
	spare = 0.3
	// shortestLeg is the shortest leg that is worth trying, mm.
	shortestLeg = 1.0
	// mostLegs is how many legs a way has at most.
	mostLegs = 3
)

// along finds a unit that can leave along several legs: out, then aside. Those with two legs come before those with
// three, subassemblies before their parts.
func (s *search) along(node, stays int) *removal {
	for legs := 2; legs <= mostLegs; legs++ {
		level := s.children[node]
		for len(level) > 0 {
			for _, n := range level {
				u := s.unitOf(n)
				if len(u.parts) == 0 || s.keeps(&u, stays) || s.held(&u) || s.ended() || s.hopeless(legs, &u) {
					continue
				}
				s.begins()
				if found := s.bent(&u, space.Identity, -1, legs); found != nil {
					return &removal{
						carried: -1,
						hits:    -1,
						units:   []unit{u},
						ways:    []route{{found}},
						others:  s.others(&u, -1),
						why:     []string{"No straight way leads out: it goes as far as it can, and then aside."},
					}
				}
				s.fails(legs, &u)
			}
			level = s.deeper(level)
		}
	}
	return nil
}

// bent returns at most so many legs along which a unit leaves from where a motion has taken it, nil where none are found.
// before is the way it came by.
func (s *search) bent(u *unit, by space.Rigid, before, legs int) (best []leg) {
	shortest := math.Inf(1)
	for _, way := range s.waysFor(u) {
		d := s.way(way)
		if before >= 0 && math.Abs(r3.Dot(d, s.way(before))) > 0.99 {
			continue
		}
		far := s.farFrom(u, &by, d)
		if math.IsInf(far, 1) {
			if need := s.outAfter(u, &by, way); need < shortest {
				best, shortest = []leg{{along: d, need: need, far: need}}, need
			}
			continue
		}
		if legs < 2 || far < shortestLeg {
			continue
		}
		for _, share := range []float64{1, 0.5} {
			way1 := leg{along: d, need: share*far - spare, far: share*far - spare}
			if way1.far < shortestLeg {
				continue
			}
			next := space.Rigid{R: by.R, T: r3.Add(by.T, r3.Scale(way1.far, d))}
			rest := s.bent(u, next, way, legs-1)
			length := way1.far
			for _, l := range rest {
				length += l.far
			}
			if rest != nil && length < shortest {
				best, shortest = append([]leg{way1}, rest...), length
			}
		}
	}
	return best
}

// shifted is a motion that turns nothing.
func shifted(by space.Vec) space.Rigid { return space.Rigid{R: space.Identity.R, T: by} }

// farFrom is how far a unit goes along a direction of the world, from where a motion has taken it, before it touches
// anything, infinite where it does not.
func (s *search) farFrom(u *unit, by *space.Rigid, d space.Vec) float64 {
	in := s.in(u)
	far, first := math.Inf(1), -1
	way := -1
	if *by == space.Identity {
		way = s.wayOf(d)
	}
	for _, m := range u.parts {
		stands := by.Mul(&s.world[m])
		for o, there := range s.there {
			if !there || in[o] || s.ended() {
				continue
			}
			own := 0.0
			if way >= 0 {
				own = s.far(m, o, way)
			} else {
				own = s.between(m, o, &stands, d, 3*s.size)
			}
			if own >= far {
				continue
			}
			if far, first = own, o; far < shortestLeg {
				s.meet(o)
				return far
			}
		}
	}
	if first >= 0 {
		s.meet(first)
	}
	return far
}

// together finds the smallest set of parts that can leave as one, where none can leave alone: a part, all that is in
// its way, all that is in the way of that, and so on, along one direction.
func (s *search) together(node, stays int) *removal {
	var best unit
	bestWay, score := -1, math.Inf(1)
	for _, p := range s.below[node] {
		if !s.there[p] || p == stays || s.ended() {
			continue
		}
		first := s.unitOf(p)
		for _, way := range s.waysFor(&first) {
			u, ok := s.closure(p, way, stays)
			if !ok || len(u.parts) >= len(s.below[node]) {
				continue
			}
			if cost := float64(len(u.parts)) + s.cost(&u, way, 0); cost < score {
				best, bestWay, score = u, way, cost
			}
		}
	}
	if bestWay < 0 {
		return nil
	}
	need := s.out(&best, bestWay)
	why := "They hold one another: none of them can leave alone."
	if len(best.parts) == 1 {
		why = "What it is fastened to cannot leave before it."
	}
	return &removal{
		carried: -1,
		hits:    -1,
		units:   []unit{best},
		ways:    []route{{[]leg{{along: s.way(bestWay), need: need, far: need}}}},
		why:     []string{why},
		others:  s.others(&best, bestWay),
	}
}

// closure is a part with all that it takes along on a way.
func (s *search) closure(part, way, stays int) (u unit, ok bool) {
	in := make([]bool, len(s.nodes))
	in[part] = true
	list := []int{part}
	for k := 0; k < len(list); k++ {
		for o, there := range s.there {
			if !there || in[o] || math.IsInf(s.far(list[k], o, way), 1) {
				continue
			}
			in[o] = true
			list = append(list, o)
		}
		for _, p := range list {
			if p == stays || s.kept[p] {
				return u, false
			}
		}
	}
	u = s.unitOver(in)
	return u, !s.keeps(&u, stays) && !s.held(&u)
}

// unitOver is some parts as a unit: its nodes are the highest that hold nothing else that is there.
func (s *search) unitOver(in []bool) (u unit) {
	var visit func(node int) (all bool)
	visit = func(node int) bool {
		all := true
		for _, p := range s.below[node] {
			all = all && in[p] && s.there[p]
		}
		if all && len(s.below[node]) > 0 {
			u.nodes = append(u.nodes, node)
			return true
		}
		if s.nodes[node].IsPart() && in[node] {
			u.nodes = append(u.nodes, node)
		}
		for _, c := range s.children[node] {
			visit(c)
		}
		return false
	}
	visit(0)
	for p, yes := range in {
		if yes {
			u.parts = append(u.parts, p)
		}
	}
	u.node = u.nodes[0]
	for !s.holds(u.node, u.parts) {
		u.node = s.nodes[u.node].Parent
	}
	return u
}

// holds reports whether all parts are at or below a node.
func (s *search) holds(node int, parts []int) bool {
	for _, p := range parts {
		i := p
		for i >= 0 && i != node {
			i = s.nodes[i].Parent
		}
		if i < 0 {
			return false
		}
	}
	return true
}
