package survey

import (
	"fmt"

	"slowreveal/core/assembly"
	"slowreveal/core/space"
)

// Rule is a way to come from some parts to others.
type Rule string

// The rules.
const (
	Like       Rule = "like"       // the same shape, wherever it is; mirror images do not count
	Fasteners  Rule = "fasteners"  // the fasteners that hold them, by way of washers and nuts too
	Neighbours Rule = "neighbours" // what they touch
	Inside     Rule = "inside"     // what lies wholly in their common box
)

// Pick returns the parts that a rule finds from the parts at or below the given
// nodes, in the order of the tree.
func (s *Survey) Pick(a *assembly.Assembly, rule Rule, from []assembly.NodeID) ([]assembly.NodeID, error) {
	start := below(a, from)
	found := make([]bool, len(a.Nodes))
	switch rule {
	case Like:
		s.like(a, start, found)
	case Neighbours, Fasteners:
		s.touching(a, rule, start, found)
	case Inside:
		s.inside(a, start, found)
	default:
		return nil, fmt.Errorf("there is no rule %q", rule)
	}
	list := []assembly.NodeID{}
	for i := range a.Nodes {
		if found[i] {
			list = append(list, a.Nodes[i].ID)
		}
	}
	return list, nil
}

// like finds the parts whose shape is that of a part of the start.
func (s *Survey) like(a *assembly.Assembly, start, found []bool) {
	type family struct {
		first    int
		mirrored bool
	}
	of := func(i int) family { f := &s.Shapes[a.Nodes[i].Shape]; return family{f.Like, f.Mirrored} }
	families := map[family]bool{}
	for i, in := range start {
		if in {
			families[of(i)] = true
		}
	}
	for i := range a.Nodes {
		found[i] = a.Nodes[i].IsPart() && families[of(i)]
	}
}

// touching finds what the parts of the start touch; of fasteners also those that touch a fastener that has been found.
func (s *Survey) touching(a *assembly.Assembly, rule Rule, start, found []bool) {
	index := a.Index()
	reached := start
	for again := true; again; again = again && rule == Fasteners {
		again = false
		next := make([]bool, len(found))
		for _, c := range s.Contacts {
			for _, pair := range [2][2]int{{index[c.A], index[c.B]}, {index[c.B], index[c.A]}} {
				to := pair[1]
				if !reached[pair[0]] || start[to] || found[to] ||
					rule == Fasteners && s.Shapes[a.Nodes[to].Shape].Fastener == nil {
					continue
				}
				found[to], next[to], again = true, true, true
			}
		}
		reached = next
	}
}

// inside finds the parts whose boxes lie in the common box of the start.
func (s *Survey) inside(a *assembly.Assembly, start, found []bool) {
	worlds := a.Worlds()
	boxes := make([]space.Box, len(a.Nodes))
	all := space.EmptyBox
	for i := range a.Nodes {
		if n := &a.Nodes[i]; n.IsPart() {
			boxes[i] = a.Shapes[n.Shape].Bounds().Moved(&worlds[i])
			if start[i] {
				all = all.Union(boxes[i])
			}
		}
	}
	const slack = 1e-3 // mm
	for i := range a.Nodes {
		b := &boxes[i]
		if a.Nodes[i].IsPart() && b.Min.X >= all.Min.X-slack && b.Min.Y >= all.Min.Y-slack &&
			b.Min.Z >= all.Min.Z-slack &&
			b.Max.X <= all.Max.X+slack &&
			b.Max.Y <= all.Max.Y+slack &&
			b.Max.Z <= all.Max.Z+slack {
			found[i] = true
		}
	}
}

// below marks the parts at or below nodes.
func below(a *assembly.Assembly, from []assembly.NodeID) []bool {
	named := make(map[assembly.NodeID]bool, len(from))
	for _, id := range from {
		named[id] = true
	}
	in, parts := make([]bool, len(a.Nodes)), make([]bool, len(a.Nodes))
	for i := range a.Nodes {
		n := &a.Nodes[i]
		in[i] = n.Parent >= 0 && in[n.Parent] || named[n.ID]
		parts[i] = in[i] && n.IsPart()
	}
	return parts
}
