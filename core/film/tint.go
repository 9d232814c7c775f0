package film

import "slowreveal/core/space"

// Tint is a colour and how far a surface goes towards it, 0…1. Colour is linear
// RGB.
type Tint struct {
	Colour space.Vec3
	Amount float64
}

// to goes from one tint to another; the colour of none is that of the other.
func (t Tint) to(o Tint, u float64) Tint {
	if u == 0 {
		return t
	}
	for k := range t.Colour {
		if t.Amount == 0 {
			t.Colour[k] = o.Colour[k]
		} else {
			t.Colour[k] = max(0, min(mix(t.Colour[k], o.Colour[k], u), 1))
		}
	}
	t.Amount = max(0, min(mix(t.Amount, o.Amount, u), 1))
	return t
}

// Over returns what the tint makes of a colour.
func (t *Tint) Over(colour space.Vec3) space.Vec3 {
	for k := range colour {
		colour[k] = mix(colour[k], t.Colour[k], t.Amount)
	}
	return colour
}
