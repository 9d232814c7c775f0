package compose_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/compose"
	"slowreveal/core/edit"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/demo"
)

func cueOf(t *testing.T, r *reveal.Reveal, id reveal.CueID) *reveal.Cue {
	t.Helper()
	s, k := r.FindCue(id)
	require.GreaterOrEqual(t, s, 0, "%s is there", id)
	return &r.Steps[s].Cues[k]
}

func TestTwinsKeepTheGapsOfWhatTheyShare(t *testing.T) {
	// The cover's unscrewing and pulling, on the hood's screws; a twin's twin is one of the first.
	before, after, _ := perform(
		t,
		compose.Operation{
			Do:     compose.MakeTwins,
			CueIDs: []reveal.CueID{"cue-5", "cue-4", "cue-29"},
			Nodes:  []assembly.NodeID{"housing/hood"},
			StepID: "step-6",
			At:     s,
			Fresh:  "t",
		},
	)
	gap := cueOf(t, before, "cue-5").Offset - cueOf(t, before, "cue-4").Offset
	pulled, unscrewed := cueOf(t, after, "t-1"), cueOf(t, after, "t-2")
	assert.Equal(t, gap, pulled.Offset-unscrewed.Offset)
	assert.Equal(t, reveal.CueID("cue-5"), pulled.Twin)
	assert.Equal(t, reveal.CueID("cue-28"), cueOf(t, after, "t-3").Twin)
	assert.Nil(t, pulled.Pull)
	_, err := command(
		before,
		compose.Operation{Do: compose.MakeTwins, CueIDs: []reveal.CueID{"cue-5"}, StepID: "step-6", Fresh: "t"},
	)
	assert.ErrorContains(t, err, "pick the parts")
}

func TestPartingATwinChangesNothingThatIsSeen(t *testing.T) {
	before, after, a := perform(t, compose.Operation{Do: compose.PartTwins, CueIDs: []reveal.CueID{"cue-29"}})
	alike(t, a, before, after)
	assert.Empty(t, cueOf(t, after, "cue-29").Twin)
	assert.Equal(t, cueOf(t, after, "cue-28").Duration, cueOf(t, after, "cue-29").Duration)
	_, err := command(after, compose.Operation{Do: compose.PartTwins, CueIDs: []reveal.CueID{"cue-29"}})
	assert.ErrorContains(t, err, "none of these")
}

// Where the cue goes that others share, they stay as they were.
func TestTwinsOutliveWhatTheyShare(t *testing.T) {
	a := demo.Pump().Assembly
	r := demo.Teardown(a)
	do := func(w compose.Operation) {
		c, err := command(r, w)
		require.NoError(t, err)
		_, err = edit.Do(r, a, c)
		require.NoError(t, err)
	}
	do(
		compose.Operation{
			Do:     compose.MakeTwins,
			CueIDs: []reveal.CueID{"cue-28"},
			Nodes:  []assembly.NodeID{"housing/hood"},
			StepID: "step-6",
			At:     s,
			Fresh:  "t",
		},
	)
	length := cueOf(t, r, "cue-28").Duration
	do(compose.Operation{Do: compose.RemoveCues, CueIDs: []reveal.CueID{"cue-28"}})
	heir := cueOf(t, r, "t-1") // the first that is left
	assert.Empty(t, heir.Twin)
	assert.Equal(t, length, heir.Duration)
	assert.Equal(t, heir.ID, cueOf(t, r, "cue-29").Twin)
	do(compose.Operation{Do: compose.RemoveStep, StepID: "step-6"})
	assert.Equal(t, length, cueOf(t, r, "cue-29").Duration)
	assert.NotContains(t, retrace(r).Steps, reveal.StepID("step-6"))
}

func TestAStepThatIsRunBackwardsCanBeRemoved(t *testing.T) {
	_, after, a := perform(t, compose.Operation{Do: compose.RemoveStep, StepID: "step-3"})
	assert.Len(t, after.Steps, 8)
	assert.Len(t, retrace(after).Steps, 6)
	for _, id := range []reveal.StepID{"step-1", "step-2", "step-4", "step-5", "step-6", "step-7"} {
		c, err := command(after, compose.Operation{Do: compose.RemoveStep, StepID: id})
		require.NoError(t, err)
		_, err = edit.Do(after, a, c)
		require.NoError(t, err)
	}
	assert.Nil(t, retrace(after), "with nothing left to run backwards it goes as well")
}

// One command makes the teardown a film that ends as it began.
func TestATeardownBecomesAWholeFilm(t *testing.T) {
	a := demo.Pump().Assembly
	r := demo.Teardown(a)
	r.Steps = r.Steps[:7]
	c, err := command(r, compose.Operation{Do: compose.BackTogether, Fresh: "w", By: s, Factor: 4})
	require.NoError(t, err)
	_, err = edit.Do(r, a, c)
	require.NoError(t, err)
	require.Len(t, r.Steps, 9)
	f := film.Compile(a, r)
	first, last := f.NewFrame(), f.NewFrame()
	f.At(0, first)
	f.At(f.Duration(), last)
	assert.Equal(t, first.World, last.World)
	assert.Equal(t, first.Opacity, last.Opacity)
	assert.Equal(t, first.Camera, last.Camera)
	way := reveal.Micros(0)
	for i := range r.Steps[:7] {
		way += reveal.Resolved(r).Steps[i].Extent()
	}
	assert.Equal(t, way/4, f.Schedule.Steps[8].Duration)
	_, err = command(r, compose.Operation{Do: compose.BackTogether, Fresh: "x"})
	assert.ErrorContains(t, err, "no step that could be run backwards")
}

// The length of twins is theirs together: a stretch of one is one of all.
func TestTwinsAreStretchedTogether(t *testing.T) {
	a := demo.Pump().Assembly
	r := demo.Teardown(a)
	before := string(reveal.Write(r))
	length, offset := cueOf(t, r, "cue-28").Duration, cueOf(t, r, "cue-29").Offset
	undo, err := edit.Do(
		r,
		a,
		edit.Command{Op: edit.StretchCue, CueIDs: []reveal.CueID{"cue-29", "cue-28"}, By: s / 2, Edge: edit.End},
	)
	require.NoError(t, err)
	assert.Equal(t, length+s/2, cueOf(t, r, "cue-28").Duration)
	assert.Zero(t, cueOf(t, r, "cue-29").Duration)
	_, err = edit.Do(r, a, undo)
	require.NoError(t, err)
	assert.Equal(t, before, string(reveal.Write(r)))
	_, err = edit.Do(
		r,
		a,
		edit.Command{Op: edit.StretchCue, CueIDs: []reveal.CueID{"cue-29"}, By: -s / 5, Edge: edit.Start},
	)
	require.NoError(t, err)
	assert.Equal(t, offset-s/5, cueOf(t, r, "cue-29").Offset)
	assert.Equal(t, length+s/5, cueOf(t, r, "cue-28").Duration)
}
