package reveal

import (
	"fmt"
	"math"

	"slowreveal/core/assembly"
	"slowreveal/core/space"
)

// Faces finds again what was pointed at on parts that may have another shape: where it is now in the part's own frame,
// mm, by how much it has gone, mm, and whether it is there.
type Faces interface {
	// Point finds a point of a face, Axis a point of the axis of a bore or a shaft.
	Point(id assembly.NodeID, at space.Vec3) (now space.Vec3, moved float64, ok bool)
	Axis(id assembly.NodeID, point, axis space.Vec3) (now space.Vec3, moved float64, ok bool)
}

// FollowFaces has notes point at their faces again, and turns and threads, in their parts' own axes, run about their bores
// and shafts. It says what has gone along, and what points at nothing now.
func FollowFaces(r *Reveal, faces Faces) (followed, lost []string) {
	say := func(step int, what string, moved float64, ok bool) bool {
		what = fmt.Sprintf("step %d: %s", step+1, what)
		switch {
		case !ok:
			lost = append(
				lost,
				what+" has lost what it was at, in a part whose shape has changed: give it another point",
			)
		case moved > 0:
			followed = append(
				followed,
				what+" is at its face again, "+Number(math.Round(moved*10)/10)+" mm from where that was",
			)
		}
		return ok && moved > 0
	}
	for i := range r.Steps {
		for k := range r.Steps[i].Cues {
			c := &r.Steps[i].Cues[k]
			if c.Twin != "" || len(c.Targets) == 0 {
				continue
			}
			switch id := c.Targets[0]; {
			case c.Note != nil:
				if now, moved, ok := faces.Point(id, c.Note.At); say(i, "the note “"+c.Note.Text+"”", moved, ok) {
					c.Note = &Note{Text: c.Note.Text, At: now}
				}
			case c.Turn != nil && c.Turn.Axes == OwnAxes && c.Of == "":
				if now, moved, ok := faces.Axis(id, c.Turn.Pivot, c.Turn.About); say(
					i,
					"a turn by "+c.Turn.Label(),
					moved,
					ok,
				) {
					turn := *c.Turn
					turn.Pivot, c.Turn = now, &turn
				}
			case c.Unscrew != nil && c.Unscrew.Axes == OwnAxes && c.Of == "":
				if now, moved, ok := faces.Axis(id, c.Unscrew.Pivot, c.Unscrew.Along); say(i, "an unscrew", moved, ok) {
					unscrew := *c.Unscrew
					unscrew.Pivot, c.Unscrew = now, &unscrew
				}
			}
		}
	}
	return followed, lost
}
