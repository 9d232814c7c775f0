package removal

import (
	"fmt"
	"math"
	"slices"

	"slowreveal/core/plan"
)

// mostChoices is how many choices of ways are tried while the least work is looked for, and mostLeast up to how many
// removals it is surely the least.
const (
	mostChoices = 60_000
	mostLeast   = 12
)

// reach finds the least work until a part or subassembly is out: the smallest set of units so that each has a way on
// which nothing is but what has left before.
func (s *search) reach() {
	node, ok := s.index[s.choices.Reach]
	target := s.unitOf(node)
	if !ok || len(target.parts) == 0 {
		s.stuck = append(s.stuck, plan.Stuck{Node: s.choices.Reach, Says: "It is not there."})
		return
	}
	if slices.Contains(target.parts, s.stays) { // what is to be got at does not stay
		var others []int
		for _, p := range s.below[0] {
			if s.there[p] && !slices.Contains(target.parts, p) {
				others = append(others, p)
			}
		}
		s.stays = s.heaviest(others)
	}
	best := s.least(node, true)
	if other := s.least(node, false); best == nil || other != nil && len(other) < len(best) {
		best = other
	}
	if best == nil {
		best = s.enough(node)
	}
	if best == nil {
		s.stuck = append(s.stuck, plan.Stuck{Node: s.choices.Reach, Says: s.stuckBecause(target.parts[0])})
		return
	}
	s.carryOut(best, node)
}

// enough is a set after which the target can leave, where the least is not found: all that leaves before it in a
// teardown, less what is not needed.
func (s *search) enough(target int) (set []int) {
	there := slices.Clone(s.there)
	kept := slices.Clone(s.kept)
	last, lastWay, freed := s.last, s.lastWay, s.freed
	for {
		if c := s.try(s.unitOf(target), s.stays); c.ok {
			break
		}
		s.kept[target] = true // it does not leave with others
		r := s.next(0, s.stays)
		copy(s.kept, kept)
		if r == nil || s.ended() {
			set = nil
			break
		}
		for _, u := range r.units {
			set = append(set, u.nodes...)
			for _, p := range u.parts {
				s.there[p] = false
			}
		}
	}
	copy(s.there, there)
	s.last, s.lastWay, s.freed = last, lastWay, freed
	q := &quest{s: s, target: target}
	for i := len(set) - 1; i >= 0; i-- {
		if less := slices.Delete(slices.Clone(set), i, i+1); q.works(less) {
			set = less
		}
	}
	return set
}

// carryOut lets the units of a set leave, those that it is about last.
func (s *search) carryOut(set []int, target int) {
	for !s.ended() {
		var level []int
		for _, n := range set {
			if n != target && len(s.unitOf(n).parts) > 0 {
				level = append(level, n)
			}
		}
		if t := s.try(s.unitOf(target), s.stays); t.ok || len(level) == 0 {
			if t.ok {
				r := s.likes(t, []candidate{t})
				r.why = []string{
					fmt.Sprintf("It is what is to be got at: after %d removals its way is free.", len(s.moves)),
				}
				s.leave(r)
			}
			return
		}
		list := s.able(level, s.stays)
		if len(list) == 0 {
			return
		}
		s.leave(s.likes(s.best(list), list))
	}
}

// quest is a search for the least set of nodes to remove.
type quest struct {
	s      *search
	target int
	whole  bool // what is in the way leaves with the largest subassembly that it belongs to, otherwise alone
	limit  int  // how many there may be
	best   []int
	left   int
	known  map[int][]option // by node, its ways
}

// option is what else has to leave before a node can leave along one of its ways.
type option struct{ more []int }

// least finds the smallest set of nodes that have to leave so that the target can, with it; nil where there is none.
// Sets are looked for by their size, so that the first is the smallest; what needs more than mostLeast is not surely
// so.
func (s *search) least(target int, whole bool) []int {
	q := &quest{s: s, target: target, whole: whole, left: mostChoices, known: map[int][]option{}}
	for q.limit = 1; q.limit <= mostLeast && q.best == nil && q.left > 0; q.limit++ {
		q.choose([]int{target}, 0)
	}
	if q.best == nil {
		q.left, q.limit = mostChoices/10, len(s.nodes)
		q.choose([]int{target}, 0)
	}
	return q.best
}

// choose goes through the ways of the nodes of a set from one on; all of the set has to leave.
func (q *quest) choose(set []int, at int) {
	if q.best != nil || len(set) > q.limit || q.left <= 0 || q.s.ended() {
		return
	}
	q.left--
	if at == len(set) {
		if q.works(set) {
			q.best = slices.Clone(set)
		}
		return
	}
	for _, o := range q.options(set[at]) {
		next := slices.Clone(set)
		for _, n := range o.more {
			if !slices.Contains(next, n) {
				next = append(next, n)
			}
		}
		q.choose(next, at+1)
	}
}

// options lists what has to leave before a node can, way by way, the least first.
func (q *quest) options(node int) []option {
	if known, ok := q.known[node]; ok {
		return known
	}
	u := q.s.unitOf(node)
	var list []option
	for _, way := range q.s.waysFor(&u) {
		more, ok := q.needs(&u, way)
		if ok && !slices.ContainsFunc(list, func(o option) bool { return slices.Equal(o.more, more) }) {
			list = append(list, option{more})
		}
	}
	slices.SortStableFunc(list, func(a, b option) int { return len(a.more) - len(b.more) })
	q.known[node] = list
	return list
}

// needs lists the nodes that have to leave before a unit can leave along a way, in the order of the tree; ok is false
// where that may not.
func (q *quest) needs(u *unit, way int) (more []int, ok bool) {
	s := q.s
	in := s.in(u)
	add := func(part int) bool {
		node := q.itemOf(part)
		if node >= 0 && !slices.Contains(more, node) {
			more = append(more, node)
		}
		return node >= 0
	}
	for _, m := range u.parts {
		for o, there := range s.there {
			if there && !in[o] && !math.IsInf(s.far(m, o, way), 1) && !add(o) {
				return nil, false
			}
		}
	}
	alone := len(u.parts) == 1 && len(s.joined[u.parts[0]]) > 0
	for f, joined := range s.joined {
		if alone || len(joined) == 0 || !s.there[f] || in[f] || s.keptBy(f, in) {
			continue
		}
		if slices.ContainsFunc(joined, func(o int) bool { return in[o] }) && !add(f) {
			return nil, false
		}
	}
	slices.Sort(more)
	return more, true
}

// itemOf is the node that leaves so that a part does, −1 where it may not.
func (q *quest) itemOf(part int) int {
	s := q.s
	alone := unit{node: part, parts: []int{part}}
	if s.keeps(&alone, s.stays) || s.holds(q.target, []int{part}) {
		return -1
	}
	node := part
	for q.whole {
		p := s.nodes[node].Parent
		if p <= 0 || s.holds(p, []int{q.target}) || s.holds(p, []int{s.stays}) {
			break
		}
		node = p
	}
	return node
}

// works reports whether the nodes of a set can leave one after the other, the target last.
func (q *quest) works(set []int) bool {
	s := q.s
	before := slices.Clone(s.there)
	defer func() { s.there = before }()
	for {
		u := s.unitOf(q.target)
		if c := s.try(u, s.stays); c.ok {
			return true
		}
		moved := false
		for _, n := range set {
			u := s.unitOf(n)
			if n == q.target || len(u.parts) == 0 {
				continue
			}
			if c := s.try(u, s.stays); c.ok {
				for _, p := range u.parts {
					s.there[p] = false
				}
				moved = true
			}
		}
		if !moved {
			return false
		}
	}
}
