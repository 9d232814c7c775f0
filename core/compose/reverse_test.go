package compose_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/compose"
	"slowreveal/core/edit"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/demo"
)

// The teardown, derived backwards, is the teardown film shown backwards: every part
// stands where it stood, as solid and as tinted as it was.
func TestAReversedRevealIsTheFilmBackwards(t *testing.T) {
	a := demo.Pump().Assembly
	r := demo.Teardown(a)
	r.Steps = r.Steps[:7]
	f := film.Compile(a, r)
	back := compose.Reversed(r, f.Opening(f.Duration()))
	require.NoError(t, reveal.Validate(back, a))
	g := film.Compile(a, back)
	require.Equal(t, f.Duration(), g.Duration())
	fr, gr := f.NewFrame(), g.NewFrame()
	for at := reveal.Micros(0); at <= f.Duration(); at += s / 10 {
		f.At(f.Duration()-at, fr)
		g.At(at, gr)
		for i := range fr.World {
			require.LessOrEqual(t, r3.Norm(r3.Sub(fr.World[i].T, gr.World[i].T)), 0.02, "%s at %d", a.Nodes[i].ID, at)
			require.InDelta(t, fr.Opacity[i], gr.Opacity[i], 0.02, "%s at %d", a.Nodes[i].ID, at)
			require.InDelta(t, fr.Tint[i].Amount, gr.Tint[i].Amount, 0.02)
		}
	}
	assert.Equal(t, r.Steps[0].Title, back.Steps[6].Title)
	for _, step := range back.Steps {
		for _, c := range step.Cues {
			assert.NotEqual(t, reveal.KindNote, c.Kind)
		}
	}
}

// What cues did is taken back by copies of them: home to rounding, looks as before.
func TestACopiedSpanIsPastedBackwards(t *testing.T) {
	before, after, a := perform(
		t,
		compose.Operation{
			Do:     compose.PasteBack,
			StepID: "step-3",
			At:     10 * s,
			CueIDs: []reveal.CueID{"cue-4", "cue-5", "cue-7", "cue-8"},
			Fresh:  "b",
		},
	)
	f := film.Compile(a, after)
	fr, rest := f.NewFrame(), film.Compile(a, before).NewFrame()
	// The copies end at 14.4 s of step 3, long after it: look there.
	f.At(f.Schedule.Steps[2].Start+20*s, fr)
	i := a.Index()["pump-head/cover-screw-m3-12"]
	assert.LessOrEqual(t, r3.Norm(r3.Sub(fr.World[i].T, rest.World[i].T)), 1e-9)
	assert.Equal(t, 1.0, fr.Opacity[i])
	first := cueOf(t, after, "b-1")
	assert.Equal(t, reveal.KindFade, first.Kind, "the last comes back first")
	assert.Equal(t, 10*s, first.Offset)
	assert.Equal(t, reveal.Out, cueOf(t, after, "b-4").Easing, "what gathered speed comes to rest")
	_, err := command(
		before,
		compose.Operation{Do: compose.PasteBack, StepID: "step-3", CueIDs: []reveal.CueID{"cue-6"}, Fresh: "b"},
	)
	assert.ErrorContains(t, err, "notes are not run backwards")
}

// Turned round, a movement goes the other way in all that it is: what goes aside, too, and a route from its
// other end. Turned round twice it is what it was. Twins turn with the one that they share.
func TestTurningAMovementRound(t *testing.T) {
	a := demo.Pump().Assembly
	r := demo.Teardown(a)
	step := &r.Steps[3]
	pull := reveal.Cue{
		ID:       "aside",
		Kind:     reveal.KindPull,
		Targets:  step.Cues[3].Targets,
		Duration: reveal.Second,
		Easing:   reveal.Smooth,
		Pull: &reveal.Pull{
			Axes:      reveal.ParentAxes,
			Along:     space.Vec3{0, 0, 1},
			Distance:  30,
			Secondary: &reveal.Leg{Along: space.Vec3{1, 0, 0}, Distance: -12},
		},
	}
	step.Cues = append(step.Cues, pull)
	first := string(reveal.Write(r))
	w := compose.Operation{Do: compose.TurnRound, CueIDs: []reveal.CueID{"aside", "cue-12", "cue-10", "cue-4"}}
	turn := func() {
		c, err := command(r, w)
		require.NoError(t, err)
		_, err = edit.Do(r, a, c)
		require.NoError(t, err)
	}
	find := func(id reveal.CueID) *reveal.Cue {
		s, k := r.FindCue(id)
		return &r.Steps[s].Cues[k]
	}
	route := *find("cue-12").Route
	turn()
	assert.Equal(t, -30.0, find("aside").Pull.Distance)
	assert.Equal(t, 12.0, find("aside").Pull.Secondary.Distance)
	legs := find("cue-12").Route.Legs
	require.Len(t, legs, len(route.Legs))
	assert.Equal(t, route.Legs[0].Along, legs[len(legs)-1].Along)
	assert.Equal(t, -route.Legs[0].Distance, legs[len(legs)-1].Distance)
	assert.Equal(t, 240.0, find("cue-10").Turn.Degrees)
	assert.Equal(t, -16.0, find("cue-4").Unscrew.Turns)
	turn()
	assert.Equal(t, first, string(reveal.Write(r)))
	_, err := command(r, compose.Operation{Do: compose.TurnRound, CueIDs: []reveal.CueID{"cue-14"}})
	assert.ErrorContains(t, err, "select one of them")
}
