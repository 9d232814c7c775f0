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

const s = reveal.Second

// perform carries an operation out on the example and takes it back: the document must
// be what it was, byte for byte.
func perform(t *testing.T, w compose.Operation) (before, after *reveal.Reveal, a *assembly.Assembly) {
	t.Helper()
	a = pump()
	after, before = demo.Teardown(a), demo.Teardown(a)
	c, err := command(after, w)
	require.NoError(t, err)
	undo, err := edit.Do(after, a, c)
	require.NoError(t, err)
	require.NoError(t, reveal.Validate(after, a))
	again := demo.Teardown(a)
	back, err := edit.Do(again, a, c)
	require.NoError(t, err)
	_, err = edit.Do(again, a, back)
	require.NoError(t, err)
	assert.Equal(t, string(reveal.Write(before)), string(reveal.Write(again)))
	_ = undo
	return before, after, a
}

// retrace is the example's step that runs the others backwards.
func retrace(r *reveal.Reveal) *reveal.Retrace {
	for i := range r.Steps {
		if t := r.Steps[i].Retrace; t != nil {
			return t
		}
	}
	return nil
}

// alike holds two reveals against each other as films: every frame the same.
func alike(t *testing.T, a *assembly.Assembly, x, y *reveal.Reveal) {
	t.Helper()
	f, g := film.Compile(a, x), film.Compile(a, y)
	require.Equal(t, f.Duration(), g.Duration())
	fr, gr := f.NewFrame(), g.NewFrame()
	for at := reveal.Micros(0); at <= f.Duration(); at += s / 4 {
		f.At(at, fr)
		g.At(at, gr)
		gr.Step = fr.Step // the steps are others, the picture is not
		require.Equal(t, fr.Digest(), gr.Digest(), "at %d", at)
	}
}

func TestASplitStepShowsTheSameFilm(t *testing.T) {
	// Step 2 is split where its second movement begins; the retrace runs both halves.
	before, after, a := perform(
		t,
		compose.Operation{Do: compose.SplitStep, StepID: "step-2", At: 3_500_000, Fresh: "new"},
	)
	assert.Len(t, after.Steps, len(before.Steps)+1)
	assert.Equal(t, 3_500_000*1, int(after.Steps[1].Duration))
	assert.NotEmpty(t, after.Steps[2].Cues)
	assert.Contains(t, retrace(after).Steps, reveal.StepID("new"))
	f, g := film.Compile(a, before), film.Compile(a, after)
	fr, gr := f.NewFrame(), g.NewFrame()
	for at := reveal.Micros(0); at <= 35*s; at += s / 4 {
		f.At(at, fr)
		g.At(at, gr)
		gr.Step = fr.Step
		require.Equal(t, fr.Digest(), gr.Digest(), "at %d", at)
	}
	f.At(f.Duration(), fr)
	g.At(g.Duration(), gr)
	assert.Equal(t, fr.World, gr.World, "home again")
}

func TestJoinedStepsShowTheSameFilm(t *testing.T) {
	before, after, a := perform(t, compose.Operation{Do: compose.JoinStep, StepID: "step-4"})
	assert.Len(t, after.Steps, len(before.Steps)-1)
	assert.Contains(t, after.Steps[3].Instruction, "draw the rotor off")
	assert.Equal(t, []string{"Hex key 3 mm"}, after.Steps[3].Tools)
	f, g := film.Compile(a, before), film.Compile(a, after)
	fr, gr := f.NewFrame(), g.NewFrame()
	for at := reveal.Micros(0); at <= 35*s; at += s / 4 {
		f.At(at, fr)
		g.At(at, gr)
		gr.Step = fr.Step
		require.Equal(t, fr.Digest(), gr.Digest(), "at %d", at)
	}
}

func TestSplittingAndJoiningIsNothing(t *testing.T) {
	a := pump()
	r := demo.Teardown(a)
	for _, w := range []compose.Operation{{Do: compose.SplitStep, StepID: "step-3", At: s, Fresh: "new"}, {Do: compose.JoinStep, StepID: "step-3"}} {
		c, err := command(r, w)
		require.NoError(t, err)
		_, err = edit.Do(r, a, c)
		require.NoError(t, err)
	}
	alike(t, a, demo.Teardown(a), r)
}

func TestADuplicateHasItsOwnIds(t *testing.T) {
	before, after, _ := perform(t, compose.Operation{Do: compose.DuplicateStep, StepID: "step-3", Fresh: "copy"})
	assert.Equal(t, before.Steps[2].Title, after.Steps[3].Title)
	assert.Len(t, after.Steps[3].Cues, len(before.Steps[2].Cues))
	assert.NotEqual(t, after.Steps[2].Cues[0].ID, after.Steps[3].Cues[0].ID)
}

func TestInsertedTimeMovesWhatIsLater(t *testing.T) {
	before, after, _ := perform(t, compose.Operation{Do: compose.InsertTime, StepID: "step-2", At: 2 * s, By: 3 * s})
	assert.Equal(t, before.Steps[1].Duration+3*s, after.Steps[1].Duration)
	for k := range before.Steps[1].Cues {
		was, is := before.Steps[1].Cues[k].Offset, after.Steps[1].Cues[k].Offset
		if was >= 2*s {
			was += 3 * s
		}
		assert.Equal(t, was, is)
	}
	_, after, _ = perform(t, compose.Operation{Do: compose.InsertTime, StepID: "step-2", At: 2 * s, By: -2 * s})
	for _, c := range after.Steps[1].Cues {
		assert.GreaterOrEqual(t, c.Offset, reveal.Micros(0))
	}
}

func TestCuesAreAlignedDistributedAndScaled(t *testing.T) {
	ids := []reveal.CueID{}
	for _, c := range demo.Teardown(pump()).Steps[5].Cues[:4] {
		ids = append(ids, c.ID)
	}
	cues := func(r *reveal.Reveal) []reveal.Cue { return r.Steps[5].Cues[:4] }
	before, after, _ := perform(t, compose.Operation{Do: compose.AlignStarts, CueIDs: ids})
	for _, c := range cues(after) {
		assert.Equal(t, cues(before)[0].Offset, c.Offset)
	}
	_, after, _ = perform(t, compose.Operation{Do: compose.AlignEnds, CueIDs: ids})
	for i := range cues(after) {
		assert.Equal(t, cues(after)[0].End(), cues(after)[i].End())
	}
	_, after, _ = perform(t, compose.Operation{Do: compose.Distribute, CueIDs: ids})
	gap := cues(after)[1].Offset - cues(after)[0].Offset
	for i := 1; i < 4; i++ {
		assert.InDelta(t, float64(gap), float64(cues(after)[i].Offset-cues(after)[i-1].Offset), 1)
	}
	_, after, _ = perform(t, compose.Operation{Do: compose.SameLength, CueIDs: ids})
	for _, c := range cues(after) {
		assert.Equal(t, cues(before)[0].Duration, c.Duration)
	}
	_, after, _ = perform(t, compose.Operation{Do: compose.ScaleTime, CueIDs: ids, Factor: 0.5})
	for i, c := range cues(after) {
		assert.InDelta(t, float64(cues(before)[i].Duration)/2, float64(c.Duration), 1)
		assert.InDelta(
			t,
			float64(cues(before)[i].Offset-cues(before)[0].Offset)/2,
			float64(c.Offset-cues(before)[0].Offset),
			1,
		)
	}
}

func TestPastedCuesBeginAtThePlayhead(t *testing.T) {
	a := pump()
	copied := demo.Teardown(a).Steps[5].Cues[1:3]
	before, after, _ := perform(
		t,
		compose.Operation{Do: compose.Paste, StepID: "step-3", At: s, Cues: copied, Fresh: "p"},
	)
	n := len(before.Steps[2].Cues)
	require.Len(t, after.Steps[2].Cues, n+2)
	assert.Equal(t, s, after.Steps[2].Cues[n].Offset)
	assert.Equal(t, copied[1].Offset-copied[0].Offset, after.Steps[2].Cues[n+1].Offset-s)
}

func TestOperationsThatCannotBePerformedSayWhy(t *testing.T) {
	r := demo.Teardown(pump())
	for want, w := range map[string]compose.Operation{
		"just deleted this step": {Do: compose.SplitStep, StepID: "nowhere"},
		"inside the step":        {Do: compose.SplitStep, StepID: "step-2", At: 0, Fresh: "x"},
		"cannot be split":        {Do: compose.SplitStep, StepID: "step-8", At: s, Fresh: "x"},
		"cannot be joined":       {Do: compose.JoinStep, StepID: "step-7"},
		"no step behind":         {Do: compose.JoinStep, StepID: "step-9"},
		"cannot be duplicated":   {Do: compose.DuplicateStep, StepID: "step-8", Fresh: "x"},
		"no time left":           {Do: compose.InsertTime, StepID: "step-2", By: -100 * s},
		"nothing was copied":     {Do: compose.Paste, StepID: "step-2"},
		"at least two":           {Do: compose.AlignStarts, CueIDs: []reveal.CueID{"cue-1"}},
		"just deleted this cue":  {Do: compose.AlignStarts, CueIDs: []reveal.CueID{"cue-1", "nobody"}},
		"cannot be stretched":    {Do: compose.ScaleTime, CueIDs: []reveal.CueID{"cue-3", "cue-4"}, Factor: -1},
		"is no operation":        {Do: "dance"},
	} {
		_, err := command(r, w)
		assert.ErrorContains(t, err, want)
	}
}

// command is what an operation on steps and cues alone comes to.
func command(r *reveal.Reveal, o compose.Operation) (edit.Command, error) {
	done, err := compose.Apply(&compose.Subject{Reveal: r}, o)
	return done.Command, err
}
