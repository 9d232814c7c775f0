package reveal

import (
	"fmt"
	"math"

	"slowreveal/core/assembly"
	"slowreveal/core/space"
)

// Note is a text that points at its one target for as long as the cue lasts.
type Note struct {
	Text string `json:"text"`
	// At is the point it points at, in the target's own frame, mm.
	At space.Vec3 `json:"at"`
}

// Label is what it says.
func (n *Note) Label() string { return n.Text }

func (n *Note) clone() Settings { own := *n; return &own }

func (n *Note) validate(v *validator, path string) {
	v.text(path+".text", n.Text, 1, MaxNote)
	v.want(finite(n.At[:]...) && within(n.At, MaxDistance), path+".at", "is not a point within 1,000 km")
}

// FollowFaces has notes point at their faces again on parts that have another shape. find returns where a point of a node
// is now, by how much it has gone, mm, and whether its face is there. It says which notes have gone along, and which
// point at nothing now.
func FollowFaces(
	r *Reveal,
	find func(assembly.NodeID, space.Vec3) (space.Vec3, float64, bool),
) (followed, lost []string) {
	for i := range r.Steps {
		for k := range r.Steps[i].Cues {
			c := &r.Steps[i].Cues[k]
			if c.Note == nil || c.Twin != "" || len(c.Targets) == 0 {
				continue
			}
			where := fmt.Sprintf("step %d: the note “%s”", i+1, c.Note.Text)
			switch now, moved, ok := find(c.Targets[0], c.Note.At); {
			case !ok:
				lost = append(lost, where+" points beside its part now, whose shape has changed: give it another point")
			case moved > 0:
				note := *c.Note
				note.At = now
				c.Note = &note
				followed = append(
					followed,
					where+" points at its face again, "+Number(math.Round(moved*10)/10)+" mm from where that was",
				)
			}
		}
	}
	return followed, lost
}
