package editor_test

import (
	"encoding/json"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/edit"
	"slowreveal/core/edit/edittest"
	"slowreveal/core/reveal"
	"slowreveal/demo"
)

func told(t *testing.T, c any) []byte {
	t.Helper()
	text, err := json.Marshal(c)
	require.NoError(t, err)
	return text
}

// A step grows with its cues; one that is held does not; the last one keeps half a second behind them.
func TestAStepGrowsWithItsCues(t *testing.T) {
	d, s := open(t)
	step, last := &s.Reveal.Steps[1], len(s.Reveal.Steps)-1
	cue := step.Cues[0]
	cue.Duration = step.Duration + 2*reveal.Second - cue.Offset
	cue.Stagger = 0
	after, err := d.Perform(told(t, edit.Command{Op: edit.SetCue, Cue: &cue}))
	require.NoError(t, err)
	assert.Equal(t, []int{1}, after.Grown)
	assert.Equal(t, after.Schedule.Steps[1].Done, after.Reveal.Steps[1].Duration)
	assert.Equal(
		t,
		after.Schedule.Steps[1].Start+after.Reveal.Steps[1].Duration,
		after.Schedule.Steps[2].Start,
		"what comes later moves along",
	)

	held := after.Reveal.Steps[1]
	held.Held, held.Cues = true, nil
	_, err = d.Perform(told(t, edit.Command{Op: edit.SetStep, Step: &held}))
	require.NoError(t, err)
	cue.Duration += reveal.Second
	after, err = d.Perform(told(t, edit.Command{Op: edit.SetCue, Cue: &cue}))
	require.NoError(t, err)
	assert.Empty(t, after.Grown)
	assert.Equal(t, edit.SetCue, after.Command.Op, "nothing was added to it")

	_, err = d.Perform(
		told(
			t,
			edit.Command{
				Op:    edit.InsertStep,
				Index: last + 1,
				Step:  &reveal.Step{ID: "late", Title: "Late", Duration: reveal.Second},
			},
		),
	)
	require.NoError(t, err)
	turn := reveal.Cue{
		ID:       "turn-late",
		Kind:     reveal.KindFade,
		Targets:  []assembly.NodeID{"housing/base"},
		Duration: 3 * reveal.Second,
		Easing:   reveal.Linear,
		Fade:     &reveal.Fade{To: 0.5},
	}
	after, err = d.Perform(told(t, edit.Command{Op: edit.InsertCue, StepID: "late", Cue: &turn}))
	require.NoError(t, err)
	assert.Equal(t, 3*reveal.Second+reveal.Second/2, after.Reveal.Steps[last+1].Duration)
}

func TestStepsCalledByTheirNumberKeepToIt(t *testing.T) {
	d, s := open(t)
	for i, title := range []string{"Step 1", "Look inside", "Step 3"} {
		_, err := d.Perform(
			told(
				t,
				edit.Command{
					Op:    edit.InsertStep,
					Index: i,
					Step:  &reveal.Step{ID: reveal.StepID(fmt.Sprint("n", i)), Title: title, Duration: reveal.Second},
				},
			),
		)
		require.NoError(t, err)
	}
	after, err := d.Perform(told(t, edit.Command{Op: edit.MoveStep, StepID: "n2", Index: 0}))
	require.NoError(t, err)
	assert.Equal(
		t,
		[]string{"Step 1", "Step 2", "Look inside", s.Reveal.Steps[3].Title},
		[]string{
			after.Reveal.Steps[0].Title,
			after.Reveal.Steps[1].Title,
			after.Reveal.Steps[2].Title,
			after.Reveal.Steps[3].Title,
		},
	)
	assert.Equal(t, reveal.StepID("n2"), after.Reveal.Steps[0].ID)
}

// Whatever is done: what Do says that it has done gives the same document elsewhere, its inverse
// takes all of it back to the byte, and what has been put in ends within its step.
func TestGrowingIsPartOfTheEdit(t *testing.T) {
	a := demo.Pump().Assembly
	hand := edittest.New(7, a)
	d, s := open(t)
	other, _ := open(t)
	grown, edits := 0, 400
	if testing.Short() {
		edits = 120
	}
	for range edits {
		before := string(reveal.Write(s.Reveal))
		dones := map[reveal.StepID]reveal.Micros{}
		for _, x := range s.Schedule.Steps {
			dones[x.Step] = x.Done
		}
		c := hand.Command(s.Reveal, 0)
		done, err := d.Perform(told(t, c))
		if err != nil {
			continue
		}
		now, err := d.Settle()
		require.NoError(t, err)
		sent := &c
		if done.Command != nil {
			sent = done.Command
			grown++
		}
		_, err = other.Apply(told(t, sent))
		require.NoError(t, err)
		there, err := other.Settle()
		require.NoError(t, err)
		require.Equal(t, string(reveal.Write(now.Reveal)), string(reveal.Write(there.Reveal)))
		for i, x := range now.Schedule.Steps {
			step := &now.Reveal.Steps[i]
			if known, was := dones[x.Step]; was && x.Done > known && !step.Held && step.Retrace == nil {
				assert.LessOrEqual(t, x.Done, step.Duration)
			}
		}
		back, err := d.Apply(told(t, done.Inverse))
		require.NoError(t, err)
		now, err = d.Settle()
		require.NoError(t, err)
		require.Equal(t, before, string(reveal.Write(now.Reveal)))
		_, err = d.Apply(told(t, back.Inverse))
		require.NoError(t, err)
		s, err = d.Settle()
		require.NoError(t, err)
	}
	assert.Greater(t, grown, edits/80)
}
