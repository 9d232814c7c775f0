package reveal

import (
	"slowreveal/core/assembly"
)

// Style is a way in which parts are drawn.
type Style string

// The styles.
const (
	ShadedEdges Style = "shaded-edges" // the usual one
	Shaded      Style = "shaded"       // without edges
	EdgesOnly   Style = "edges"        // ink on the background; what is behind stays hidden
	SeeThrough  Style = "see-through"  // all edges, also those behind, and no faces
)

// Surface changes how the targets are drawn.
type Surface struct {
	Style Style `json:"style"`
}

// Label is the style in words.
func (s *Surface) Label() string { return styleNames[s.Style] }

var styleNames = map[Style]string{
	ShadedEdges: "shaded, edges",
	Shaded:      "shaded",
	EdgesOnly:   "edges only",
	SeeThrough:  "see-through edges",
}

// AtOpening is the style that a node begins with.
func (s *Surface) AtOpening(o *Opening, node assembly.NodeID) Settings {
	for _, n := range o.Surfaces {
		if n.Node == node {
			return &Surface{Style: n.Style}
		}
	}
	return &Surface{Style: ShadedEdges}
}

func (s *Surface) clone() Settings { own := *s; return &own }

func (s *Surface) validate(v *validator, path string) { v.style(path, s.Style) }

func (v *validator) style(path string, s Style) {
	_, known := styleNames[s]
	v.want(known, path+".style", "%q is not shaded-edges, shaded, edges or see-through", s)
}
