package reveal

import (
	"slowreveal/core/assembly"
)

// Fade takes the opacity of the targets to a value.
type Fade struct {
	To float64 `json:"to"` // 0 gone, 1 solid
}

// Label is the opacity that it leads to.
func (f *Fade) Label() string { return Number(f.To*100) + " %" }

// AtOpening is the opacity that a node begins with.
func (f *Fade) AtOpening(o *Opening, node assembly.NodeID) Settings {
	for _, n := range o.Opacities {
		if n.Node == node {
			return &Fade{To: n.Opacity}
		}
	}
	return &Fade{To: 1}
}

func (f *Fade) clone() Settings { own := *f; return &own }

func (f *Fade) validate(v *validator, path string) {
	v.want(f.To >= 0 && f.To <= 1, path+".to", "%g is not between 0 and 1", f.To)
}
