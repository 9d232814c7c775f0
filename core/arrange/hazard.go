package arrange

import (
	"fmt"
	"slices"

	"slowreveal/core/assembly"
)

// mind says of nodes what has to be minded when they are taken off; without a hazard that there is nothing.
func (w *work) mind(s *Edit) error {
	nodes, err := w.all(s.Nodes)
	if err != nil {
		return err
	}
	if s.Hazard != "" && !slices.Contains(assembly.Hazards, s.Hazard) {
		return fmt.Errorf("%q is nothing that can be minded", s.Hazard)
	}
	w.hazards = slices.DeleteFunc(slices.Clone(w.hazards), func(h assembly.NodeHazard) bool {
		return slices.ContainsFunc(nodes, func(n *node) bool { return n.ID == h.Node })
	})
	if s.Hazard == "" {
		return nil
	}
	for _, n := range nodes {
		w.hazards = append(w.hazards, assembly.NodeHazard{Node: n.ID, Hazard: s.Hazard})
	}
	return nil
}

// mindedStill are the hazards of nodes that are there.
func (w *work) mindedStill() []assembly.NodeHazard {
	return slices.DeleteFunc(slices.Clone(w.hazards), func(h assembly.NodeHazard) bool { return w.byID[h.Node] == nil })
}
