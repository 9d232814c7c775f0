package reveal

import (
	"slowreveal/core/space"
)

// Orbit circles the camera about what it looks at.
type Orbit struct {
	About space.Vec3 `json:"about"` // direction of the axis, in the world
	// Degrees may be more than a revolution; a positive angle turns as a Turn
	// does.
	Degrees float64 `json:"degrees"`
}

// Label is how far it goes round.
func (o *Orbit) Label() string { return Number(o.Degrees) + "°" }

func (o *Orbit) clone() Settings { own := *o; return &own }

func (o *Orbit) validate(v *validator, path string) {
	v.direction(path+".about", o.About)
	v.degrees(path+".degrees", o.Degrees)
}
