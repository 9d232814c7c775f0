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

// styleOf is the style that has these amounts.
func styleOf(s Surface) reveal.Style {
	for _, style := range []reveal.Style{reveal.Shaded, reveal.EdgesOnly, reveal.SeeThrough} {
		if surfaceOf(style) == s {
			return style
		}
	}
	return reveal.ShadedEdges
}

// to goes from one way of being drawn to another, and no farther.
func (s Surface) to(o Surface, u float64) Surface {
	u = max(0, min(u, 1))
	return Surface{mix(s.Flat, o.Flat, u), mix(s.Faces, o.Faces, u), mix(s.Edges, o.Edges, u)}
}
