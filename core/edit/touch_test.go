package edit_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/edit"
	"slowreveal/core/edit/edittest"
	"slowreveal/core/reveal"
	"slowreveal/demo"
)

// Two commands that were made on one document and do not clash come to the same in either order, and
// where they do not, they are said to clash. Made by chance: nobody chose the commands.
func TestCommandsThatDoNotClashComeToTheSameInEitherOrder(t *testing.T) {
	a := demo.Pump().Assembly
	h := edittest.New(7, a)
	base := demo.Teardown(a)
	h.Change(base, 20)
	free, clashes := 0, 0
	n := 1500
	if testing.Short() {
		n = 400
	}
	for range n {
		one, two := reveal.Clone(base), reveal.Clone(base)
		first, second := h.Command(base, 0), h.Command(base, 0)
		undoFirst, err := edit.Do(one, a, first)
		if err != nil {
			continue
		}
		undoSecond, err := edit.Do(two, a, second)
		if err != nil {
			continue
		}
		if edit.Touches(first, undoFirst).Clashes(edit.Touches(second, undoSecond)) {
			clashes++
			assert.True(
				t,
				edit.Touches(second, undoSecond).Clashes(edit.Touches(first, undoFirst)),
				"it does not matter who asks",
			)
			continue
		}
		_, errOne := edit.Do(one, a, second)
		_, errTwo := edit.Do(two, a, first)
		if errOne != nil || errTwo != nil {
			continue // what is not possible any more is found by trying it
		}
		free++
		require.Equal(t, edittest.Sorted(one), edittest.Sorted(two), "%+v\n%+v", first, second)
	}
	assert.Greater(t, free, n/10)
	assert.Greater(t, clashes, n/75)
}

func TestWhatClashes(t *testing.T) {
	a := demo.Pump().Assembly
	base := demo.Teardown(a)
	base.Steps = base.Steps[:3] // without what runs them backwards: their steps can go
	step, cue := base.Steps[1], base.Steps[1].Cues[1]
	text := "x"
	words := step
	words.Title, words.Cues = "Other words", nil
	named := words
	named.Duration = 0
	longer := edit.Command{Op: edit.ChangeDuration, StepID: step.ID, By: reveal.Second}
	fresh := cue
	fresh.ID = "fresh"
	other := fresh
	other.ID = "other"
	shift := edit.Command{Op: edit.ShiftCues, CueIDs: []reveal.CueID{cue.ID}, By: reveal.Second / 10}
	set := edit.Command{Op: edit.SetCue, Cue: &cue}
	remove := edit.Command{Op: edit.RemoveStep, StepID: step.ID}
	limit := 2.0
	accept := func(check, reason string) edit.Command {
		return edit.Command{
			Op:       edit.Accept,
			Accepted: &reveal.Accepted{Check: check, Cues: []reveal.CueID{cue.ID}, Reason: reason},
		}
	}
	insert := edit.Command{Op: edit.InsertCue, StepID: step.ID, Cue: &fresh}
	for _, c := range []struct {
		name     string
		one, two edit.Command
		want     bool
	}{
		{"one cue, twice", shift, set, true},
		{"a cue and the step that it is in", shift, remove, true},
		{"a cue and the words of its step", shift, edit.Command{Op: edit.SetStep, Step: &words}, false},
		{"two new cues of a step", insert, edit.Command{Op: edit.InsertCue, StepID: step.ID, Cue: &other}, false},
		{"a new cue and the end of its step", insert, remove, true},
		{"the words of a step and its place", edit.Command{Op: edit.SetStep, Step: &words}, edit.Command{Op: edit.MoveStep, StepID: step.ID}, false},
		{"the words of a step and its growing", edit.Command{Op: edit.SetStep, Step: &named}, longer, false},
		{"the length of a step and its growing", edit.Command{Op: edit.SetStep, Step: &words}, longer, true},
		{"a step that grows twice", longer, longer, false},
		{"two findings", accept("held", "rubber"), accept("frame", "meant so"), false},
		{"one finding, for two reasons", accept("held", "rubber"), accept("held", "meant so"), true},
		{"two limits", edit.Command{Op: edit.SetLimit, Check: "frame", Limit: &limit}, edit.Command{Op: edit.SetLimit, Check: "pace", Limit: &limit}, false},
		{"the title and a cue", edit.Command{Op: edit.SetTitle, Title: &text}, shift, false},
		{"everything and a cue", edit.Command{Op: edit.Replace, Reveal: base}, shift, true},
		{"a batch with the same cue in it", edit.Command{Op: edit.Batch, Commands: []edit.Command{{Op: edit.SetTitle, Title: &text}, set}}, shift, true},
	} {
		undoOne, err := edit.Do(reveal.Clone(base), a, c.one)
		require.NoError(t, err, c.name)
		undoTwo, err := edit.Do(reveal.Clone(base), a, c.two)
		require.NoError(t, err, c.name)
		assert.Equal(t, c.want, edit.Touches(c.one, undoOne).Clashes(edit.Touches(c.two, undoTwo)), c.name)
	}
}
