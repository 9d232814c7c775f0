package reveal

import "slowreveal/core/assembly"

// Divided has what acts on a part act on what was split off it, too: cues, what shots follow, and the opening. It reports
// whether there was anything of the kind. A drive moves what its joint moves.
func Divided(r *Reveal, p assembly.Pieces) bool {
	if len(p) == 0 {
		return false
	}
	before := r.named()
	r.Opening.Suppressed = p.With(r.Opening.Suppressed)
	r.Opening.Opacities = alike(r.Opening.Opacities, p, func(o *NodeOpacity) *assembly.NodeID { return &o.Node })
	r.Opening.Tints = alike(r.Opening.Tints, p, func(o *NodeTint) *assembly.NodeID { return &o.Node })
	r.Opening.Surfaces = alike(r.Opening.Surfaces, p, func(o *NodeSurface) *assembly.NodeID { return &o.Node })
	for i := range r.Steps {
		for k := range r.Steps[i].Cues {
			c := &r.Steps[i].Cues[k]
			if c.Drive == nil {
				c.Targets = p.With(c.Targets)
			}
			if c.Shot != nil && c.Shot.Follow != nil {
				c.Shot.Follow.Nodes = p.With(c.Shot.Follow.Nodes)
			}
		}
	}
	return r.named() != before
}

// named counts how often a reveal names nodes.
func (r *Reveal) named() int {
	o := &r.Opening
	n := len(o.Suppressed) + len(o.Opacities) + len(o.Tints) + len(o.Surfaces)
	for i := range r.Steps {
		for k := range r.Steps[i].Cues {
			c := &r.Steps[i].Cues[k]
			if n += len(c.Targets); c.Shot != nil && c.Shot.Follow != nil {
				n += len(c.Shot.Follow.Nodes)
			}
		}
	}
	return n
}

// alike gives pieces what is said of the part that they were split off.
func alike[T any](list []T, p assembly.Pieces, node func(*T) *assembly.NodeID) []T {
	said := map[assembly.NodeID]bool{}
	for i := range list {
		said[*node(&list[i])] = true
	}
	for i := range list {
		for _, piece := range p[*node(&list[i])] {
			if !said[piece] {
				other := list[i]
				*node(&other) = piece
				list, said[piece] = append(list, other), true
			}
		}
	}
	return list
}
