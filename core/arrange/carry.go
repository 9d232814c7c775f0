package arrange

import (
	"fmt"
	"slices"

	"slowreveal/core/assembly"
)

// Carry returns what of an arrangement can be done on another revision, and tells of what cannot: edits lose nodes that
// are not there any more, and are left out where nothing of them is left.
func Carry(imported *assembly.Assembly, edits []Edit) (kept []Edit, lost []string) {
	w := &work{sets: []PartSet{}}
	w.take(imported)
	kept = []Edit{}
	for _, i := range inOrder(edits) {
		e := edits[i]
		gone := w.without(&e)
		before := *w
		before.joints, before.couplings = slices.Clone(w.joints), slices.Clone(w.couplings)
		before.sets, before.variants = slices.Clone(w.sets), slices.Clone(w.variants)
		before.hazards = slices.Clone(w.hazards)
		if err := w.edit(&e); err != nil {
			w.joints, w.couplings, w.sets, w.variants = before.joints, before.couplings, before.sets, before.variants
			w.hazards = before.hazards
			lost = append(lost, fmt.Sprintf("%s: %v", edits[i].Label(), err))
			continue
		}
		for _, id := range gone {
			lost = append(lost, fmt.Sprintf("%s: %q is not there any more", edits[i].Label(), id))
		}
		kept = append(kept, e)
	}
	return kept, lost
}

// without takes nodes and joints that are not there out of an edit, and names them.
func (w *work) without(e *Edit) (gone []string) {
	there := func(id assembly.NodeID) bool { return w.byID[id] != nil }
	keep := func(list []assembly.NodeID) (kept []assembly.NodeID) {
		for _, id := range list {
			if there(id) {
				kept = append(kept, id)
			} else {
				gone = append(gone, string(id))
			}
		}
		return kept
	}
	e.Nodes = keep(e.Nodes)
	if e.Set != nil {
		set := *e.Set
		set.Nodes = keep(set.Nodes)
		e.Set = &set
	}
	if e.Colours != nil {
		colours := map[assembly.NodeID]int{}
		for id, c := range e.Colours {
			if there(id) {
				colours[id] = c
			}
		}
		e.Colours = colours
	}
	joints := map[assembly.JointID]bool{}
	for i := range w.joints {
		joints[w.joints[i].ID] = true
	}
	e.Joints = slices.DeleteFunc(slices.Clone(e.Joints), func(j assembly.Joint) bool {
		fits := there(j.Body) && there(j.Base)
		if joints[j.ID] = joints[j.ID] || fits; !fits {
			gone = append(gone, j.Name)
		}
		return !fits
	})
	e.Couplings = slices.DeleteFunc(slices.Clone(e.Couplings), func(c assembly.Coupling) bool {
		fits := joints[c.Joint] && joints[c.By]
		if !fits {
			gone = append(gone, c.Name)
		}
		return !fits
	})
	e.Poses = slices.DeleteFunc(slices.Clone(e.Poses), func(p assembly.NodePose) bool { return !there(p.Node) })
	e.Variants = slices.Clone(e.Variants)
	for i := range e.Variants {
		for _, id := range e.Variants[i].Keep(there) {
			gone = append(gone, string(id))
		}
	}
	return gone
}
