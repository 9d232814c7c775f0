package compose_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/compose"
	"slowreveal/core/edit"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/demo"
)

// does performs an operation on a reveal of the example, which is changed.
func does(t *testing.T, r *reveal.Reveal, o compose.Operation) {
	t.Helper()
	c, err := command(r, o)
	require.NoError(t, err)
	_, err = edit.Do(r, demo.Pump().Assembly, c)
	require.NoError(t, err)
}

func TestAStepIsAsLongAsItsCues(t *testing.T) {
	r := demo.Teardown(demo.Pump().Assembly)
	done := reveal.Resolved(r).Steps[0].Done()
	r.Steps[0].Duration = done + 5*reveal.Second
	fit := compose.Operation{Do: compose.FitStep, StepID: r.Steps[0].ID}
	does(t, r, fit)
	assert.Equal(t, done, r.Steps[0].Duration)
	assert.NotEmpty(t, r.Steps[0].Cues, "its cues stay")
	_, err := command(r, fit)
	assert.ErrorContains(t, err, "nothing to change")

	r.Steps[0].Cues = nil
	r.Steps[0].Duration = 5 * reveal.Second
	does(t, r, fit)
	assert.Equal(t, reveal.Second/2, r.Steps[0].Duration, "an empty one can still be seen and picked")

	_, err = command(r, compose.Operation{Do: compose.FitStep, StepID: "step-8"})
	assert.ErrorContains(t, err, "change its speed")
	_, err = command(r, compose.Operation{Do: compose.FitStep, StepID: "nobody"})
	assert.ErrorIs(t, err, edit.ErrNoStep)
}

// A retrace that changes from one way of saying how long it lasts to the other lasts as long as before, but for the
// hundredth to which its speed is rounded.
func TestARetraceLastsAsLongByItsSpeedAsByItsLength(t *testing.T) {
	a := demo.Pump().Assembly
	for _, muted := range []bool{false, true} {
		r := demo.Teardown(a)
		back := &r.Steps[r.FindStep("step-8")]
		back.Muted, back.Retrace.Speed = muted, 2.5
		lasts := func() reveal.Micros {
			shown := *reveal.Resolved(r)
			shown.Steps = append([]reveal.Step(nil), shown.Steps...)
			shown.Steps[r.FindStep("step-8")].Muted = false
			return shown.Lasts(r.FindStep("step-8"))
		}
		before := lasts()
		does(t, r, compose.Operation{Do: compose.BySpeed, StepID: "step-8"})
		assert.Zero(t, back.Retrace.Speed)
		assert.Equal(t, before, back.Duration)
		assert.Equal(t, muted, back.Muted, "looking at how long it lasts does not switch it on")
		does(t, r, compose.Operation{Do: compose.BySpeed, StepID: "step-8", On: true})
		assert.InDelta(t, 2.5, back.Retrace.Speed, 0.005+1e-9)
		assert.InEpsilon(t, float64(before), float64(lasts()), 0.01)
	}
	_, err := command(demo.Teardown(a), compose.Operation{Do: compose.BySpeed, StepID: "step-1", On: true})
	assert.ErrorContains(t, err, "runs others backwards")
}

func TestAChangeTakesNoTimeOrThatOfATransition(t *testing.T) {
	a := demo.Pump().Assembly
	r := demo.Teardown(a)
	var fades, twins []reveal.CueID
	for _, s := range r.Steps {
		for _, c := range s.Cues {
			if c.Kind == reveal.KindFade {
				fades = append(fades, c.ID)
			}
			if c.Twin != "" {
				twins = append(twins, c.ID)
			}
		}
	}
	require.NotEmpty(t, fades)
	does(t, r, compose.Operation{Do: compose.AtOnce, CueIDs: fades, On: true})
	for _, id := range fades {
		assert.Equal(t, reveal.MinCueDuration, r.Original(cueOf(t, r, id)).Duration)
	}
	// The part is gone in the very frame in which it fades.
	f := film.Compile(a, r)
	fr := f.NewFrame()
	s, k := r.FindCue(fades[0])
	cue := &r.Steps[s].Cues[k]
	f.At(f.Schedule.Steps[s].Start+cue.Offset+1, fr)
	assert.InDelta(t, r.Original(cue).Fade.To, fr.Opacity[a.Index()[cue.Targets[0]]], 1e-9)

	does(t, r, compose.Operation{Do: compose.AtOnce, CueIDs: fades})
	for _, id := range fades {
		assert.Equal(t, reveal.Second, r.Original(cueOf(t, r, id)).Duration)
	}
	require.NotEmpty(t, twins)
	original := r.Original(cueOf(t, r, twins[0])).ID
	does(t, r, compose.Operation{Do: compose.AtOnce, CueIDs: twins[:1], On: true})
	assert.Equal(t, reveal.MinCueDuration, cueOf(t, r, original).Duration, "twins share their length")
}

// Without numbers the way back begins after a second, and is three times as fast as the way apart.
func TestBackTogetherHasUsualNumbers(t *testing.T) {
	r := demo.Teardown(demo.Pump().Assembly)
	r.Steps = r.Steps[:3]
	does(t, r, compose.Operation{Do: compose.BackTogether, Fresh: "w"})
	require.Len(t, r.Steps, 5)
	assert.Equal(t, reveal.Second, r.Steps[3].Duration)
	assert.Equal(t, 3.0, r.Steps[4].Retrace.Speed)
	assert.InDelta(t, float64(reveal.Resolved(r).Way(r.Steps[4].Retrace))/3, float64(reveal.Resolved(r).Lasts(4)), 1)
}
