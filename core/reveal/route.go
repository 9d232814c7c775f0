package reveal

import (
	"fmt"
	"slices"
	"strconv"

	"slowreveal/core/space"
)

// Leg is a straight way.
type Leg struct {
	Along    space.Vec3 `json:"along"`    // only the direction counts
	Distance float64    `json:"distance"` // mm; a negative one goes the other way
	// Share weighs how much of a route's time the leg takes, beside the others;
	// 0 counts as 1.
	Share float64 `json:"share,omitempty"`
}

// Way is how far the leg goes, mm.
func (l *Leg) Way() space.Vec { return directed(l.Along, l.Distance) }

// directed is so far along a direction, whatever its length.
func directed(along space.Vec3, distance float64) space.Vec {
	d, _ := space.Normalize(along.Vec())
	return space.Vec{X: d.X * distance, Y: d.Y * distance, Z: d.Z * distance}
}

// Route takes the targets along several legs, one after the other.
type Route struct {
	Axes Axes  `json:"axes"`
	Legs []Leg `json:"legs"`
	// Radius rounds the corners: so far before a corner the way leaves its leg,
	// and so far behind it it joins the next, mm. It is cut to half of a leg.
	Radius float64 `json:"radius,omitempty"`
}

// Label is how many legs it has, or how far the one goes.
func (r *Route) Label() string {
	if len(r.Legs) == 1 {
		return Number(r.Legs[0].Distance) + " mm"
	}
	return strconv.Itoa(len(r.Legs)) + " legs"
}

// Motion goes along the legs.
func (r *Route) Motion() Motion { return Motion{Axes: r.Axes, Route: r} }

// TurnedRound goes leg by leg from the other end.
func (r *Route) TurnedRound() Settings {
	back := r.clone().(*Route)
	slices.Reverse(back.Legs)
	for i := range back.Legs {
		back.Legs[i].Distance = -back.Legs[i].Distance
	}
	return back
}

func (r *Route) axes() *Axes { return &r.Axes }

func (r *Route) clone() Settings {
	own := *r
	own.Legs = slices.Clone(r.Legs)
	return &own
}

func (r *Route) validate(v *validator, path string) {
	v.axes(path, r.Axes)
	n := len(r.Legs)
	v.want(n > 0 && n <= MaxLegs, path+".legs", "there are %d; a route has 1 to %d", n, MaxLegs)
	v.want(r.Radius >= 0 && r.Radius <= MaxDistance, path+".radius", "%g mm is not between 0 and 1,000 km", r.Radius)
	for i := range r.Legs {
		v.leg(fmt.Sprintf("%s.legs[%d]", path, i), &r.Legs[i])
	}
}
