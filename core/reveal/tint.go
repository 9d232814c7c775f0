package reveal

import (
	"slowreveal/core/assembly"
	"slowreveal/core/space"
)

// Tint takes the colour of the targets towards another one.
type Tint struct {
	Colour space.Vec3 `json:"colour"` // linear RGB
	// Amount is how far: 0 leaves the finish, 1 is the colour alone.
	Amount float64 `json:"amount"`
}

// Label is how far it goes.
func (t *Tint) Label() string { return Number(t.Amount*100) + " %" }

// AtOpening is the tint that a node begins with, none of the same colour where it has none.
func (t *Tint) AtOpening(o *Opening, node assembly.NodeID) Settings {
	for i := range o.Tints {
		if o.Tints[i].Node == node {
			return o.Tints[i].Tint.clone()
		}
	}
	return &Tint{Colour: t.Colour}
}

func (t *Tint) clone() Settings { own := *t; return &own }

func (t *Tint) validate(v *validator, path string) {
	inside := min(t.Colour[0], t.Colour[1], t.Colour[2]) >= 0 && max(t.Colour[0], t.Colour[1], t.Colour[2]) <= 1
	v.want(finite(t.Colour[:]...) && inside, path+".colour", "is not made of numbers from 0 to 1")
	v.want(t.Amount >= 0 && t.Amount <= 1, path+".amount", "%g is not between 0 and 1", t.Amount)
}
