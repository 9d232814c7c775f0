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
	found := map[assembly.NodeID]bool{}
	index := a.Index()
	facts := func(id assembly.NodeID) *Facts { return &s.Shapes[a.Nodes[index[id]].Shape] }
	switch rule {
	case Like:
		type family struct {
			first    int
			mirrored bool
		}
		families := map[family]bool{}
		for id := range start {
			families[family{facts(id).Like, facts(id).Mirrored}] = true
		}
		for i := range a.Nodes {
			if n := &a.Nodes[i]; n.IsPart() && families[family{s.Shapes[n.Shape].Like, s.Shapes[n.Shape].Mirrored}] {
				found[n.ID] = true
			}
		}
	case Neighbours, Fasteners:
		reached := start
		for len(reached) > 0 {
			next := map[assembly.NodeID]bool{}
			for _, c := range s.Contacts {
				for _, pair := range [2][2]assembly.NodeID{{c.A, c.B}, {c.B, c.A}} {
					to := pair[1]
					if !reached[pair[0]] || start[to] || found[to] || rule == Fasteners && facts(to).Fastener == nil {
						continue
					}
					found[to], next[to] = true, true
				}
			}
			if reached = next; rule == Neighbours {
				break
			}
		}
	case Inside:
		s.inside(a, start, found)
	default:
		return nil, fmt.Errorf("there is no rule %q", rule)
	}
	list := []assembly.NodeID{}
	for i := range a.Nodes {
		if found[a.Nodes[i].ID] {
			list = append(list, a.Nodes[i].ID)
		}
	}
	return list, nil
}

// inside finds the parts whose boxes lie in the common box of the start.
func (s *Survey) inside(a *assembly.Assembly, start, found map[assembly.NodeID]bool) {
	worlds := a.Worlds()
	boxes := make([]space.Box, len(a.Nodes))
	all := space.Nothing
	for i := range a.Nodes {
		if n := &a.Nodes[i]; n.IsPart() {
			boxes[i] = a.Shapes[n.Shape].Bounds().Moved(&worlds[i])
			if start[n.ID] {
				all = all.Union(boxes[i])
			}
		}
	}
	const slack = 1e-3 // mm
	for i := range a.Nodes {
		b := &boxes[i]
		if a.Nodes[i].IsPart() && b.Min.X >= all.Min.X-slack && b.Min.Y >= all.Min.Y-slack && b.Min.Z >= all.Min.Z-slack &&
			b.Max.X <= all.Max.X+slack && b.Max.Y <= all.Max.Y+slack && b.Max.Z <= all.Max.Z+slack {
			found[a.Nodes[i].ID] = true
		}
	}
}

// below returns the parts at or below nodes.
func below(a *assembly.Assembly, from []assembly.NodeID) map[assembly.NodeID]bool {
	in := make([]bool, len(a.Nodes))
	index := a.Index()
	for _, id := range from {
		if i, ok := index[id]; ok {
			in[i] = true
		}
	}
	parts := map[assembly.NodeID]bool{}
	for i := range a.Nodes {
		n := &a.Nodes[i]
		in[i] = in[i] || n.Parent >= 0 && in[n.Parent]
		if in[i] && n.IsPart() {
			parts[n.ID] = true
		}
	}
	return parts
}
