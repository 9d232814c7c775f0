package film

import "slowreveal/core/space"

// Tint is a colour and how far a surface goes towards it, 0…1. Colour is linear
// RGB.
type Tint struct {
	Colour space.Vec3
	Amount float64
}

type tint struct {
	track int
	to    Tint
}

// tintNode mixes what is above a node with the node's own tints.
func (f *Film) tintNode(i int32, fr *Frame) {
	var now Tint
	if p := f.Assembly.Nodes[i].Parent; p >= 0 {
		now = fr.Tint[p]
	}
	if own := f.opened[i]; own != nil {
		now = *own
	}
	for _, t := range f.tints[i] {
		u := fr.progress[t.track]
		if u == 0 {
			continue
		}
		for k := range now.Colour {
			if now.Amount == 0 {
				now.Colour[k] = t.to.Colour[k]
			} else {
				now.Colour[k] = max(0, min(mix(now.Colour[k], t.to.Colour[k], u), 1))
			}
		}
		now.Amount = max(0, min(mix(now.Amount, t.to.Amount, u), 1))
	}
	fr.Tint[i] = now
}

// Over returns what the tint makes of a colour.
func (t *Tint) Over(colour space.Vec3) space.Vec3 {
	for k := range colour {
		colour[k] = mix(colour[k], t.Colour[k], t.Amount)
	}
	return colour
}
