package arrange

import (
	"errors"
	"fmt"

	"slowreveal/core/assembly"
)

// swap says of two nodes that each is what the other one was taken for: they exchange their ids, and with them all that
// was made of either.
func (w *work) swap(s *Edit) error {
	nodes, err := w.all(s.Nodes)
	if err != nil {
		return err
	}
	if len(nodes) != 2 {
		return errors.New("two nodes are wanted, which were taken for one another")
	}
	a, b := nodes[0], nodes[1]
	if a.IsPart() != b.IsPart() || a.within(b) || b.within(a) {
		return fmt.Errorf("%q and %q cannot have been taken for one another", a.Name, b.Name)
	}
	a.ID, b.ID = b.ID, a.ID
	w.byID[a.ID], w.byID[b.ID] = a, b
	return nil
}

// part says of a node that it is another one than that of the revision before for which it was taken: it gets an id of
// its own, and what was said of the other one in joints goes.
func (w *work) part(s *Edit) error {
	n, err := w.find(s.Node)
	if err != nil {
		return err
	}
	if n == w.root {
		return errors.New("the whole assembly is what it is")
	}
	before := n.ID
	for k := 1; ; k++ {
		id := assembly.NodeID(fmt.Sprintf("%s~other-%d", before, k))
		if w.byID[id] == nil {
			n.ID = id
			break
		}
	}
	delete(w.byID, before)
	w.byID[n.ID] = n
	w.joints, w.couplings = assembly.JointsThat(w.joints, w.couplings, func(j *assembly.Joint) bool {
		return j.Body != before && j.Base != before
	})
	return nil
}

// inOrder is the order in which edits are applied, by index: those of identity first.
func inOrder(edits []Edit) []int {
	var first, others []int
	for i := range edits {
		if edits[i].Do == Swap || edits[i].Do == Part {
			first = append(first, i)
		} else {
			others = append(others, i)
		}
	}
	return append(first, others...)
}
