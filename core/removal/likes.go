package removal

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/space"
)

// likes joins what is like a candidate, touches the same and can leave as well.
func (s *search) likes(best candidate, list []candidate) *removal {
	r := &removal{carried: -1, hits: -1}
	r.why = s.reasons(&best, list)
	r.others = s.others(&best.unit, best.way)
	together := []candidate{best}
	for _, c := range list {
		if c.unit.node != best.unit.node && s.alike(&best.unit, &c.unit) && s.sameSide(&best, &c) {
			together = append(together, c)
		}
	}
	together = s.crosswise(together)
	far := 0.0
	for _, c := range together {
		far = max(far, c.out)
	}
	for _, c := range together {
		r.units = append(r.units, c.unit)
		r.ways = append(r.ways, route{legs: []leg{{along: s.way(c.way), need: far, far: far, most: c.most}}})
	}
	return r
}

// alike reports whether two units are parts of one shape, or mirrored ones, or subassemblies of such parts in the same
// order.
func (s *search) alike(a, b *unit) bool {
	if len(a.parts) != len(b.parts) {
		return false
	}
	for i := range a.parts {
		x, y := s.nodes[a.parts[i]].Shape, s.nodes[b.parts[i]].Shape
		if shapes := s.subject.Survey.Shapes; shapes[x].Like != shapes[y].Like {
			return false
		}
	}
	return true
}

// related reports whether two nodes hang in one subassembly, or in two of one name that do.
func (s *search) related(a, b int) bool {
	p, q := s.nodes[a].Parent, s.nodes[b].Parent
	return p == q ||
		p > 0 && q > 0 && s.nodes[p].Parent == s.nodes[q].Parent &&
			unnumbered(s.nodes[p].Name) == unnumbered(s.nodes[q].Name)
}

// sameSide reports whether two likes leave in one move: fasteners that hold the same parts, or one of them more; other
// parts of one subassembly.
func (s *search) sameSide(a, b *candidate) bool {
	if len(s.joined[a.unit.parts[0]]) == 0 {
		return s.related(a.unit.node, b.unit.node)
	}
	x, y := s.beside(&a.unit), s.beside(&b.unit)
	if len(x) > len(y) {
		x, y = y, x
	}
	for _, o := range x {
		if !slices.Contains(y, o) {
			return false
		}
	}
	return len(x) > 0
}

// beside lists what a unit touches that is still there and no fastener, in the order of the tree.
func (s *search) beside(u *unit) (list []int) {
	in := s.in(u)
	for _, p := range u.parts {
		for _, t := range s.touching[p] {
			if s.there[t.node] && !in[t.node] && s.fastener(t.node) == nil {
				list = append(list, t.node)
			}
		}
	}
	slices.Sort(list)
	return slices.Compact(list)
}

// crosswise orders likes that stand around a middle as a mechanic takes them: each followed by the one opposite.
func (s *search) crosswise(list []candidate) []candidate {
	if len(list) < 3 {
		return list
	}
	var middle space.Vec
	at := make([]space.Vec, len(list))
	for i, c := range list {
		at[i] = s.box[c.unit.parts[0]].Centre()
		middle = r3.Add(middle, r3.Scale(1/float64(len(list)), at[i]))
	}
	way := s.way(list[0].way)
	u := r3.Sub(at[0], middle)
	u = r3.Sub(u, r3.Scale(r3.Dot(u, way), way))
	u, ok := space.Normalize(u)
	if !ok {
		return list
	}
	v := r3.Cross(way, u)
	angle := func(i int) float64 {
		d := r3.Sub(at[i], middle)
		a := math.Atan2(r3.Dot(d, v), r3.Dot(d, u))
		if a < -1e-6 {
			a += 2 * math.Pi
		}
		return a
	}
	around := make([]int, len(list))
	for i := range around {
		around[i] = i
	}
	slices.SortStableFunc(around, func(i, k int) int {
		switch a, b := angle(i), angle(k); {
		case a < b-1e-9:
			return -1
		case a > b+1e-9:
			return 1
		}
		return i - k
	})
	var out []candidate
	half := (len(list) + 1) / 2
	for i := range half {
		out = append(out, list[around[i]])
		if i+half < len(list) {
			out = append(out, list[around[i+half]])
		}
	}
	return out
}
