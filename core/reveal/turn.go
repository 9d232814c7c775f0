package reveal

import (
	"math"

	"slowreveal/core/space"
)

// Turn rotates the targets about a line.
type Turn struct {
	Axes Axes `json:"axes"`
	// About is the direction of the line. Seen against it (its tip pointing
	// at the viewer) a positive angle runs anticlockwise.
	About space.Vec3 `json:"about"`
	// Pivot is a point of the line in the same axes, mm. The origin of own
	// axes is the target's, of parent axes the parent's.
	Pivot space.Vec3 `json:"pivot"`
	// Degrees may be more than a revolution: 1080 are three turns.
	Degrees float64 `json:"degrees"`
}

// Label is how far it turns.
func (t *Turn) Label() string { return Number(t.Degrees) + "°" }

// Motion turns about the line.
func (t *Turn) Motion() Motion {
	axis, _ := space.Normalize(t.About.Vec())
	return Motion{Axes: t.Axes, Axis: axis, Pivot: t.Pivot.Vec(), Degrees: t.Degrees}
}

// TurnedRound turns the other way.
func (t *Turn) TurnedRound() Settings {
	back := *t
	back.Degrees = -back.Degrees
	return &back
}

func (t *Turn) axes() *Axes { return &t.Axes }

func (t *Turn) clone() Settings { own := *t; return &own }

func (t *Turn) validate(v *validator, path string) {
	v.line(path, t.Axes, t.About, t.Pivot)
	v.degrees(path+".degrees", t.Degrees)
}

func (v *validator) degrees(path string, degrees float64) {
	v.want(math.Abs(degrees) <= MaxTurns*360, path, "%g° is more than %d turns", degrees, MaxTurns)
}
