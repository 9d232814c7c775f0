package reveal

import (
	"slowreveal/core/space"
)

// Pull moves the targets straight.
type Pull struct {
	Axes Axes `json:"axes"`
	// Along is the direction; only its direction counts.
	Along space.Vec3 `json:"along"`
	// Distance is in mm; a negative one goes the other way.
	Distance float64 `json:"distance"`
	// Secondary, when set, goes along a second direction at the same time.
	Secondary *Leg `json:"secondary,omitempty"`
}

// Label is how far it goes.
func (p *Pull) Label() string { return Number(p.Distance) + " mm" }

// Motion goes along both directions.
func (p *Pull) Motion() Motion {
	way := directed(p.Along, p.Distance)
	if p.Secondary != nil {
		aside := p.Secondary.Way()
		way = space.Vec{X: way.X + aside.X, Y: way.Y + aside.Y, Z: way.Z + aside.Z}
	}
	return Motion{Axes: p.Axes, Way: way}
}

// TurnedRound goes the other way, aside too.
func (p *Pull) TurnedRound() Settings {
	back := p.clone().(*Pull)
	back.Distance = -back.Distance
	if back.Secondary != nil {
		back.Secondary.Distance = -back.Secondary.Distance
	}
	return back
}

func (p *Pull) axes() *Axes { return &p.Axes }

func (p *Pull) clone() Settings {
	own := *p
	if p.Secondary != nil {
		leg := *p.Secondary
		own.Secondary = &leg
	}
	return &own
}

func (p *Pull) validate(v *validator, path string) {
	v.line(path, p.Axes, p.Along, space.Vec3{})
	v.distance(path+".distance", p.Distance)
	if p.Secondary != nil {
		v.leg(path+".secondary", p.Secondary)
	}
}
