package reveal_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"slowreveal/core/assembly"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// moved has all faces of the lid 4 mm higher and all bores 3 mm aside; those of the tray are gone.
type moved struct{}

func (moved) Point(id assembly.NodeID, at space.Vec3) (space.Vec3, float64, bool) {
	switch id {
	case "lid":
		at[2] += 4
		return at, 4, true
	case "tray":
		return at, 0, false
	}
	return at, 0, true
}

func (moved) Axis(id assembly.NodeID, point, _ space.Vec3) (space.Vec3, float64, bool) {
	switch id {
	case "lid":
		point[0] += 3
		return point, 3, true
	case "tray":
		return point, 0, false
	}
	return point, 0, true
}

// Notes, turns and threads go with their faces and bores, in words; what is along other axes stays, and what is lost is
// left as it is and told.
func TestCuesGoWithTheirFaces(t *testing.T) {
	on := func(id, part string) reveal.Cue {
		return reveal.Cue{ID: reveal.CueID(id), Targets: []assembly.NodeID{assembly.NodeID(part)}}
	}
	note := func(id, part string) reveal.Cue {
		c := on(id, part)
		c.Kind, c.Note = reveal.KindNote, &reveal.Note{Text: "Latch of the " + part, At: space.Vec3{1, 2, 3}}
		return c
	}
	turn := func(id, part string, axes reveal.Axes) reveal.Cue {
		c := on(id, part)
		c.Kind, c.Turn = reveal.KindTurn, &reveal.Turn{
			Axes:    axes,
			About:   space.Vec3{0, 0, 1},
			Pivot:   space.Vec3{5, 0, 0},
			Degrees: 90,
		}
		return c
	}
	screw := on("screw", "lid")
	screw.Kind, screw.Unscrew = reveal.KindUnscrew, &reveal.Unscrew{
		Axes: reveal.OwnAxes, Along: space.Vec3{0, 0, 1}, Pivot: space.Vec3{7, 0, 0}, Turns: 4, Lead: 0.5,
	}
	borrowed := turn("borrowed", "lid", reveal.OwnAxes)
	borrowed.Of = "foot"
	r := reveal.New("Made", reveal.Camera{})
	r.Steps = []reveal.Step{{ID: "one", Cues: []reveal.Cue{
		note(
			"a",
			"lid",
		), note("b", "foot"), turn("c", "lid", reveal.OwnAxes), turn("d", "lid", reveal.AssemblyAxes), screw, borrowed,
	}}, {ID: "two", Cues: []reveal.Cue{note("e", "tray"), turn("f", "tray", reveal.OwnAxes)}}}
	before := reveal.Clone(r)

	followed, lost := reveal.FollowFaces(r, moved{})
	assert.Equal(t, []string{
		"step 1: the note “Latch of the lid” is at its face again, 4 mm from where that was",
		"step 1: a turn by 90° is at its face again, 3 mm from where that was",
		"step 1: an unscrew is at its face again, 3 mm from where that was",
	}, followed)
	assert.Len(t, lost, 2)
	assert.Contains(t, lost[0], "step 2: the note “Latch of the tray” has lost what it was at")
	cues := r.Steps[0].Cues
	assert.Equal(t, space.Vec3{1, 2, 7}, cues[0].Note.At)
	assert.Equal(t, space.Vec3{8, 0, 0}, cues[2].Turn.Pivot)
	assert.Equal(t, space.Vec3{10, 0, 0}, cues[4].Unscrew.Pivot)
	for _, k := range []int{1, 3, 5} {
		assert.Equal(t, before.Steps[0].Cues[k], cues[k])
	}
	assert.Equal(t, before.Steps[1], r.Steps[1])
	assert.Equal(t, space.Vec3{1, 2, 3}, before.Steps[0].Cues[0].Note.At, "the document of before is its own")
}
