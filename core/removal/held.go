package removal

import (
	"math"

	"slowreveal/core/fastener"
)

// held reports whether a screw or a nut keeps a unit; none does where nothing else is left that could leave.
func (s *search) held(u *unit) bool { return !s.relaxed && s.heldBy(u) >= 0 }

// heldBy is a screw or a nut that keeps a unit: one that is not part of it and holds something of it, or one of it that
// holds something else as well; −1 for none. A fastener that the unit itself keeps from leaving does not count.
func (s *search) heldBy(u *unit) int {
	in := s.in(u)
	if len(u.parts) == 1 && len(s.joined[u.parts[0]]) > 0 {
		return s.nutOn(u.parts[0])
	}
	for f, joined := range s.joined {
		if len(joined) == 0 || !s.there[f] {
			continue
		}
		inside, outside := false, false
		for _, o := range joined {
			if s.there[o] && s.joined[o] == nil {
				inside, outside = inside || in[o], outside || !in[o]
			}
		}
		if in[f] && outside || !in[f] && inside && !s.keptBy(f, in) {
			return f
		}
	}
	return -1
}

// nutOn is a nut that sits on a screw and can leave, −1 for none.
func (s *search) nutOn(screw int) int {
	if s.fastener(screw).Kind != fastener.Screw {
		return -1
	}
	for _, t := range s.touching[screw] {
		g := s.fastener(t.node)
		if g == nil || g.Kind != fastener.Nut || !s.there[t.node] || s.kept[t.node] {
			continue
		}
		u := s.unitOf(t.node)
		for _, way := range s.waysFor(&u) {
			if _, blocked := s.blocked(&u, way); !blocked {
				return t.node
			}
		}
	}
	return -1
}

// keptBy reports whether a fastener cannot leave because of parts.
func (s *search) keptBy(f int, in []bool) bool {
	u := s.unitOf(f)
	for _, way := range s.waysFor(&u) {
		free := true
		for o, yes := range in {
			if yes && s.there[o] && !math.IsInf(s.far(f, o, way), 1) {
				free = false
				break
			}
		}
		if free {
			return false
		}
	}
	return true
}
