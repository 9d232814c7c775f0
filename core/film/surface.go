package film

import "slowreveal/core/reveal"

// Surface is how a node is drawn, as amounts that a change runs through smoothly.
type Surface struct {
	// Flat is how far the faces go from their finish to the flat colour, 0…1.
	Flat float64
	// Faces is the opacity of the faces, Edges the strength of the edges, 0…1.
	Faces, Edges float64
}

// UsualSurface is that of a part that nothing changes.
var UsualSurface = Surface{Faces: 1, Edges: 1}

// surfaceOf returns the amounts of a style.
func surfaceOf(s reveal.Style) Surface {
	switch s {
	case reveal.Shaded:
		return Surface{Faces: 1}
	case reveal.EdgesOnly:
		return Surface{Flat: 1, Faces: 1, Edges: 1}
	case reveal.SeeThrough:
		return Surface{Flat: 1, Edges: 1}
	}
	return UsualSurface
}

type surfacing struct {
	track int
	to    Surface
	style reveal.Style
}

// surfaceNode goes from what is above a node through the node's own changes.
func (f *Film) surfaceNode(i int32, fr *Frame) {
	now := UsualSurface
	if p := f.Assembly.Nodes[i].Parent; p >= 0 {
		now = fr.Surface[p]
	}
	if own := f.styles[i]; own != "" {
		now = surfaceOf(own)
	}
	for _, s := range f.surfaces[i] {
		u := max(0, min(fr.progress[s.track], 1))
		now = Surface{mix(now.Flat, s.to.Flat, u), mix(now.Faces, s.to.Faces, u), mix(now.Edges, s.to.Edges, u)}
	}
	fr.Surface[i] = now
}
