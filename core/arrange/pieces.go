package arrange

import "slowreveal/core/assembly"

// Divided has edits act on what was split off the parts that they act on, too.
func Divided(edits []Edit, p assembly.Pieces) {
	for i := range edits {
		e := &edits[i]
		e.Nodes = p.With(e.Nodes)
		if e.Set != nil {
			set := *e.Set
			set.Nodes = p.With(set.Nodes)
			e.Set = &set
		}
		for k := range e.Variants {
			e.Variants[k].Divided(p)
		}
	}
}
