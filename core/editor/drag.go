package editor

import (
	"errors"
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// Reach is where a movement takes its first target, in the world at the playhead.
type Reach struct {
	From space.Vec3 `json:"from"`
	To   space.Vec3 `json:"to"`
}

// Reached is a cue at a time of the film.
type Reached struct {
	Cue  reveal.CueID  `json:"cue"`
	Time reveal.Micros `json:"time"`
}

// reach is nil for a cue that moves nothing, or is switched off.
func (d *Editor) reach(q Reached) (*Reach, error) {
	from, to, ok := d.film.Reach(q.Cue, d.evaluate(q.Time))
	if !ok {
		return nil, nil
	}
	return &Reach{space.Vec3Of(from), space.Vec3Of(to)}, nil
}

// Dragged is a line from a point, and the line of sight through the pointer (its origin and direction); in the world.
type Dragged struct {
	Point space.Vec3    `json:"point"`
	Along space.Vec3    `json:"along"`
	Ray   [2]space.Vec3 `json:"ray"`
}

// distance returns how far along the line, mm, the pointer has come: where the line passes nearest to the line of
// sight. It fails where the two run alike.
func (q *Dragged) distance() (float64, error) {
	along, ok := space.Normalize(q.Along.Vec())
	sight, seen := space.Normalize(q.Ray[1].Vec())
	if !ok || !seen {
		return 0, errors.New("a line needs a direction")
	}
	between := r3.Sub(q.Point.Vec(), q.Ray[0].Vec())
	b := r3.Dot(along, sight)
	if math.Abs(b) > 0.9999 {
		return 0, errors.New("the line is seen end on: look at it from the side")
	}
	return (b*r3.Dot(sight, between) - r3.Dot(along, between)) / (1 - b*b), nil
}
