package reveal

import (
	"math"

	"slowreveal/core/space"
)

// Unscrew turns the targets and moves them along the same axis, one lead a
// revolution.
type Unscrew struct {
	Axes  Axes       `json:"axes"`
	Along space.Vec3 `json:"along"` // the way out of the thread
	Pivot space.Vec3 `json:"pivot"`
	// Turns is the number of revolutions.
	Turns float64 `json:"turns"`
	// Lead is the advance for one revolution, mm: the pitch of a thread with
	// one start (ISO 5408).
	Lead float64 `json:"lead"`
	// LeftHand says that the thread is a left-hand one.
	LeftHand bool `json:"leftHand,omitempty"`
}

// Label is how many turns it takes, of what lead.
func (u *Unscrew) Label() string { return Number(u.Turns) + " × " + Number(u.Lead) + " mm" }

// Motion goes along the axis by one lead in every revolution.
func (u *Unscrew) Motion() Motion {
	axis, _ := space.Normalize(u.Along.Vec())
	advance := u.Turns * u.Lead
	m := Motion{
		Axes: u.Axes, Axis: axis, Pivot: u.Pivot.Vec(), Degrees: 360 * u.Turns,
		Way: space.Vec{X: axis.X * advance, Y: axis.Y * advance, Z: axis.Z * advance},
	}
	if u.LeftHand {
		m.Degrees = -m.Degrees
	}
	return m
}

// TurnedRound screws it in again.
func (u *Unscrew) TurnedRound() Settings {
	back := *u
	back.Turns = -back.Turns
	return &back
}

func (u *Unscrew) axes() *Axes { return &u.Axes }

func (u *Unscrew) clone() Settings { own := *u; return &own }

func (u *Unscrew) validate(v *validator, path string) {
	v.line(path, u.Axes, u.Along, u.Pivot)
	v.want(math.Abs(u.Turns) <= MaxTurns, path+".turns", "%g is more than %d", u.Turns, MaxTurns)
	v.want(u.Lead > 0 && u.Lead <= 1000, path+".lead", "%g mm is not between 0 and 1000", u.Lead)
}
