package assembly

import "slices"

// Pieces are parts that were split off others by a revision, by the ids of what they were part of.
type Pieces map[NodeID][]NodeID

// With adds to a list what was split off the nodes in it.
func (p Pieces) With(list []NodeID) []NodeID {
	for _, id := range list { // what is added is no whole
		for _, piece := range p[id] {
			if !slices.Contains(list, piece) {
				list = append(slices.Clip(list), piece)
			}
		}
	}
	return list
}

// Divided has a variant leave out, and give a finish to, what was split off the parts of which it says so.
func (v *Variant) Divided(p Pieces) {
	v.Without = p.With(v.Without)
	for i := range v.Finishes {
		v.Finishes[i].Nodes = p.With(v.Finishes[i].Nodes)
	}
}
