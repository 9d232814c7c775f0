package desk

import (
	"errors"
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/space"
)

// Reach is where a movement takes its first target, in the world at the playhead.
type Reach struct {
	From space.Triple `json:"from"`
	To   space.Triple `json:"to"`
}

// reach is nil for a cue that moves nothing, or is switched off.
func (d *Desk) reach(q *Question) *Reach {
	from, to, ok := d.film.Reach(q.Cue, d.evaluate(q.Time))
	if !ok {
		return nil
	}
	return &Reach{space.TripleOf(from), space.TripleOf(to)}
}

// drag returns how far along a line from a point (Point, Along; in the world, mm)
// the pointer has come: where the line passes nearest to the line of sight. It
// fails where the two run alike.
func drag(q *Question) (float64, error) {
	along, ok := space.Unit(q.Along.Vec())
	sight, seen := space.Unit(q.Ray[1].Vec())
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
