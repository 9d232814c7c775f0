package reveal

import (
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
