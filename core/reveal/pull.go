package reveal

import (
	"math"

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
	// Clear, when set, is what the distance was found by: until the targets stand clear of everything on their way.
	Clear *Clear `json:"clear,omitempty"`
}

// Clear says that a pull goes until its targets are clear. It holds as long as the pull goes as far as was found: one
// that somebody has made longer or shorter since goes so far.
type Clear struct {
	// Margin is how much farther it goes, mm; Distance is that of the pull when it was found, mm.
	Margin   float64 `json:"margin"`
	Distance float64 `json:"distance"`
}

// IsClear reports whether the pull goes until its targets are clear.
func (p *Pull) IsClear() bool { return p.Clear != nil && p.Clear.Distance == p.Distance }

// GoClear has the pull go on the same way until its targets are clear, which they are after so many mm, and by a margin
// farther.
func (p *Pull) GoClear(after, margin float64) {
	p.Distance = math.Copysign(math.Round((after+margin)*100)/100, p.Distance)
	p.Clear = &Clear{Margin: margin, Distance: p.Distance}
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
	back.Distance, back.Clear = -back.Distance, nil
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
	if p.Clear != nil {
		clear := *p.Clear
		own.Clear = &clear
	}
	return &own
}

func (p *Pull) validate(v *validator, path string) {
	v.line(path, p.Axes, p.Along, space.Vec3{})
	v.distance(path+".distance", p.Distance)
	if p.Secondary != nil {
		v.leg(path+".secondary", p.Secondary)
	}
	if p.Clear != nil {
		v.distance(path+".clear.margin", p.Clear.Margin)
		v.distance(path+".clear.distance", p.Clear.Distance)
	}
}
