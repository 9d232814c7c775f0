package editor_test

import (
	"context"
	"encoding/json"
	"fmt"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/compose"
	"slowreveal/core/edit"
	"slowreveal/core/editor"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/core/survey"
	"slowreveal/demo"
)

// hand is an author at the example, with all that is known of its parts.
type hand struct {
	t    *testing.T
	d    *editor.Editor
	done int
}

// surveyed is what is known of the example's parts, found once.
var surveyed = sync.OnceValues(func() ([]byte, error) {
	m := demo.Pump()
	known, err := survey.Of(context.Background(), m.Assembly, m.Shapes)
	if err != nil {
		return nil, err
	}
	return json.Marshal(known)
})

func newHand(t *testing.T) *hand {
	t.Helper()
	d, _ := open(t)
	text, err := surveyed()
	require.NoError(t, err)
	require.NoError(t, d.OpenSurvey(text))
	d.At(0)
	return &hand{t: t, d: d}
}

// do performs an operation and carries it out, with what follows from it.
func (h *hand) do(o compose.Operation) (compose.Composed, *reveal.Reveal) {
	h.t.Helper()
	h.done++
	o.Fresh = fmt.Sprint("new", h.done)
	text, err := json.Marshal(map[string]any{"ask": "compose", "with": o})
	require.NoError(h.t, err)
	answer, err := h.d.Ask(text)
	require.NoError(h.t, err, "%s", o.Do)
	done := answer.(compose.Composed)
	command, err := json.Marshal(done.Command)
	require.NoError(h.t, err)
	_, err = h.d.Perform(command)
	require.NoError(h.t, err, "%s", o.Do)
	settled, err := h.d.Settle()
	require.NoError(h.t, err)
	return done, settled.Reveal
}

func cueOf(t *testing.T, r *reveal.Reveal, id reveal.CueID) *reveal.Cue {
	t.Helper()
	i, k := r.FindCue(id)
	require.GreaterOrEqual(t, i, 0, "there is no cue %s", id)
	return &r.Steps[i].Cues[k]
}

// Whatever a hand makes is made where the film is, in the step that runs then, with settings that show something; the
// document stays valid, and it can be taken back.
func TestEveryKindIsMadeAtThePlayhead(t *testing.T) {
	camera := demo.Teardown(demo.Pump().Assembly).Opening.Camera
	kinds := map[compose.OperationKind][]reveal.Kind{
		compose.AddPull: {
			reveal.KindPull,
		}, compose.AddTurn: {reveal.KindTurn}, compose.AddUnscrew: {reveal.KindUnscrew},
		compose.AddUnscrewOut: {reveal.KindUnscrew, reveal.KindPull}, compose.AddRoute: {reveal.KindRoute},
		compose.AddFade: {reveal.KindFade}, compose.AddHide: {reveal.KindFade}, compose.AddShow: {reveal.KindFade},
		compose.AddTint: {
			reveal.KindTint,
		}, compose.AddSurface: {reveal.KindSurface}, compose.AddNote: {reveal.KindNote},
		compose.AddCard: {reveal.KindCard}, compose.AddShot: {reveal.KindShot}, compose.AddOrbit: {reveal.KindOrbit},
	}
	for do, want := range kinds {
		h := newHand(t)
		o := compose.Operation{
			Do:    do,
			Time:  2 * reveal.Second,
			Nodes: []assembly.NodeID{"housing/hood-screw-m3-8"},
			Text:  "W",
		}
		if do == compose.AddShot {
			o.Camera = &camera
		}
		done, r := h.do(o)
		require.Len(t, done.Made, len(want), "%s", do)
		for k, id := range done.Made {
			i, at := r.FindCue(id)
			cue := r.Steps[i].Cues[at]
			assert.Equal(t, want[k], cue.Kind, "%s", do)
			assert.Equal(t, 0, i, "%s: the first step runs then", do)
			if k == 0 {
				assert.Equal(t, 2*reveal.Second, cue.Offset, "%s", do)
			} else {
				assert.Equal(t, cueOf(t, r, done.Made[0]).End(), cue.Offset, "%s: where the thread ends", do)
			}
		}
	}
}

// A screw comes out by its own thread: M3 has a lead of 0.5 mm (ISO 262, from memory), along its axis; a part without
// one by a guess along the way, and that is said.
func TestAnUnscrewTakesTheThreadOfThePart(t *testing.T) {
	h := newHand(t)
	done, r := h.do(compose.Operation{Do: compose.AddUnscrew, Nodes: []assembly.NodeID{"housing/hood-screw-m3-8"}})
	u := cueOf(t, r, done.Made[0]).Unscrew
	assert.InDelta(t, 0.5, u.Lead, 1e-9)
	assert.InDelta(t, 8/0.5, u.Turns, 0.51, "8 mm of thread")
	assert.False(t, h.guessed(done.Made[0]))
	h = newHand(t)
	way := &compose.Direction{Axes: reveal.AssemblyAxes, Along: space.Vec3{1, 0, 0}}
	done, r = h.do(compose.Operation{Do: compose.AddUnscrew, Nodes: []assembly.NodeID{"housing/hood"}, Way: way})
	u = cueOf(t, r, done.Made[0]).Unscrew
	assert.Equal(t, space.Vec3{1, 0, 0}, u.Along)
	assert.True(t, h.guessed(done.Made[0]))
}

func (h *hand) guessed(id reveal.CueID) bool {
	answer, err := h.d.Ask([]byte(`{"ask":"threadGuessed","with":{"cue":"` + string(id) + `"}}`))
	require.NoError(h.t, err)
	return answer.(bool)
}

// Without a pick the next move is one of what the selected cues act on, right behind them.
func TestTheNextMoveFollowsTheSelectedCues(t *testing.T) {
	h := newHand(t)
	first, _ := h.do(compose.Operation{Do: compose.AddUnscrew, Nodes: []assembly.NodeID{"housing/hood-screw-m3-8"}})
	next, r := h.do(compose.Operation{Do: compose.AddFade, CueIDs: first.Made})
	fade := cueOf(t, r, next.Made[0])
	assert.Equal(t, cueOf(t, r, first.Made[0]).Targets, fade.Targets)
	assert.Equal(t, cueOf(t, r, first.Made[0]).End(), fade.Offset)
}

// Beside a movement a shot follows the parts; it is framed on them from where the author looks.
func TestAMovementCanHaveAShot(t *testing.T) {
	h := newHand(t)
	camera := demo.Teardown(demo.Pump().Assembly).Opening.Camera
	done, r := h.do(compose.Operation{
		Do: compose.AddPull, Nodes: []assembly.NodeID{"housing/hood"}, Camera: &camera, Text: "Hood",
	})
	require.Len(t, done.Made, 2)
	shot := cueOf(t, r, done.Made[0]).Shot
	require.NotNil(t, shot)
	assert.Equal(t, "Hood", shot.Name)
	assert.Equal(t, []assembly.NodeID{"housing/hood"}, shot.Follow.Nodes)
	assert.Equal(t, camera.Orientation, shot.Camera.Orientation)
	assert.NotEqual(t, camera.Distance, shot.Camera.Distance)
}

// The first thing in an empty reveal makes its first step.
func TestAnEmptyRevealGetsItsFirstStep(t *testing.T) {
	h := newHand(t)
	text := reveal.Write(reveal.New("Empty", demo.Teardown(demo.Pump().Assembly).Opening.Camera))
	_, err := h.d.OpenReveal(text)
	require.NoError(t, err)
	h.d.At(0)
	done, r := h.do(compose.Operation{Do: compose.AddPull, Nodes: []assembly.NodeID{"housing/hood"}})
	require.Len(t, r.Steps, 1)
	assert.Equal(t, "First step", r.Steps[0].Title)
	assert.Len(t, r.Steps[0].Cues, len(done.Made))
}

// Pulls become routes, routes go on, pulls go sideways: always along an axis that they do not run along already.
func TestMovementsGoOn(t *testing.T) {
	h := newHand(t)
	up := &compose.Direction{Axes: reveal.AssemblyAxes, Along: space.Vec3{0, 1, 0}}
	made, _ := h.do(
		compose.Operation{Do: compose.AddPull, Nodes: []assembly.NodeID{"housing/hood"}, Way: up, Distance: 80},
	)
	_, r := h.do(compose.Operation{Do: compose.Sideways, CueIDs: made.Made, On: true})
	assert.Equal(t, space.Vec3{0, 0, 1}, cueOf(t, r, made.Made[0]).Pull.Secondary.Along)
	_, r = h.do(compose.Operation{Do: compose.Sideways, CueIDs: made.Made})
	assert.Nil(t, cueOf(t, r, made.Made[0]).Pull.Secondary)
	before := cueOf(t, r, made.Made[0]).Duration
	_, r = h.do(compose.Operation{Do: compose.ThenOn, CueIDs: made.Made})
	cue := cueOf(t, r, made.Made[0])
	require.NotNil(t, cue.Route)
	assert.Equal(t, 2*before, cue.Duration)
	assert.InDelta(t, 20, cue.Route.Radius, 1e-9, "a quarter of the leg")
	_, r = h.do(compose.Operation{Do: compose.AddLeg, CueIDs: made.Made})
	legs := cueOf(t, r, made.Made[0]).Route.Legs
	require.Len(t, legs, 3)
	assert.Equal(t, space.Vec3{0, 1, 0}, legs[2].Along)
}

// Staggered cues come a fifth of their time apart, and at once again; muted ones are heard again when all are off.
func TestWhatIsDoneTwiceIsTakenBack(t *testing.T) {
	h := newHand(t)
	ids := []reveal.CueID{"cue-8"} // fades the cover and its screws at once
	_, r := h.do(compose.Operation{Do: compose.Stagger, CueIDs: ids})
	cue := cueOf(t, r, ids[0])
	assert.InDelta(t, float64(cue.Duration)/5, float64(cue.Stagger), 10_000)
	_, r = h.do(compose.Operation{Do: compose.Stagger, CueIDs: ids})
	assert.Zero(t, cueOf(t, r, ids[0]).Stagger)
	both := []reveal.CueID{"cue-8", "cue-7"}
	h.do(compose.Operation{Do: compose.Mute, CueIDs: ids})
	_, r = h.do(compose.Operation{Do: compose.Mute, CueIDs: both})
	assert.True(t, cueOf(t, r, "cue-7").Muted && cueOf(t, r, "cue-8").Muted, "one was on: both are off")
	_, r = h.do(compose.Operation{Do: compose.Mute, CueIDs: both})
	assert.False(t, cueOf(t, r, "cue-7").Muted || cueOf(t, r, "cue-8").Muted)
}

// A cue always acts on something; what was suppressed or opened faded is there again.
func TestTargetsAndTheOpening(t *testing.T) {
	h := newHand(t)
	ids := []reveal.CueID{"cue-23"}
	_, r := h.do(compose.Operation{Do: compose.SetTargets, CueIDs: ids, Nodes: []assembly.NodeID{"drive"}, On: true})
	assert.Equal(t, []assembly.NodeID{"housing/hood", "drive"}, cueOf(t, r, ids[0]).Targets)
	_, r = h.do(compose.Operation{Do: compose.SetTargets, CueIDs: ids, Nodes: []assembly.NodeID{"housing/hood"}})
	assert.Equal(t, []assembly.NodeID{"drive"}, cueOf(t, r, ids[0]).Targets)
	_, err := compose.Apply(&compose.Subject{Reveal: r}, compose.Operation{
		Do: compose.SetTargets, CueIDs: ids, Nodes: []assembly.NodeID{"drive"},
	})
	assert.ErrorContains(t, err, "nothing to change")
	drive := []assembly.NodeID{"drive"}
	_, r = h.do(compose.Operation{Do: compose.Suppress, Nodes: drive, On: true})
	assert.Equal(t, drive, r.Opening.Suppressed)
	_, r = h.do(compose.Operation{Do: compose.Suppress, Nodes: drive})
	assert.Empty(t, r.Opening.Suppressed)
	_, r = h.do(compose.Operation{Do: compose.OpenFaded, Nodes: drive, Opacity: 0.4})
	assert.Equal(t, []reveal.NodeOpacity{{Node: "drive", Opacity: 0.4}}, r.Opening.Opacities)
	_, r = h.do(compose.Operation{Do: compose.OpenFaded, Nodes: drive, Opacity: 1})
	assert.Empty(t, r.Opening.Opacities)
}

// Each operation has an effect or says why not; none of them leaves a document that would be refused.
func TestEveryOperationAnswersWhateverItIsAsked(t *testing.T) {
	h := newHand(t)
	pump := demo.Pump().Assembly
	doc := demo.Teardown(pump)
	for _, do := range compose.Kinds() {
		for _, o := range []compose.Operation{
			{}, {StepID: "step-2", CueIDs: []reveal.CueID{"cue-4", "nobody"}, Nodes: []assembly.NodeID{"nobody"}},
			{Time: -5, By: -1 << 50, Factor: -1, CueIDs: []reveal.CueID{"cue-4"}, Nodes: []assembly.NodeID{"drive"}},
			{Time: 1 << 60, Distance: -1e9, StepID: "step-8", Nodes: []assembly.NodeID{"drive", "housing"}},
		} {
			o.Do, o.Fresh = do, "x"
			text, err := json.Marshal(map[string]any{"ask": "compose", "with": o})
			require.NoError(t, err)
			answer, err := h.d.Ask(text)
			if err != nil {
				assert.NotEmpty(t, err.Error())
				continue
			}
			r := reveal.Clone(doc)
			if _, err := edit.Do(r, pump, answer.(compose.Composed).Command); err != nil {
				assert.Equal(t, string(reveal.Write(doc)), string(reveal.Write(r)), "%s: refused, and as it was", do)
			}
		}
	}
}

// A new marker is told by its step, which is no new one, and its place there, the first of all too.
func TestAMarkerIsSetWhereTheFilmIs(t *testing.T) {
	h := newHand(t)
	done, r := h.do(compose.Operation{Do: compose.AddMarker, Time: 2 * reveal.Second})
	assert.Empty(t, done.Step)
	assert.Equal(t, r.Steps[0].ID, done.Marked)
	assert.Equal(t, reveal.Marker{Offset: 2 * reveal.Second, Text: "Marker 1"}, r.Steps[0].Markers[done.Marker])
	done, r = h.do(compose.Operation{Do: compose.AddMarker, Time: 3 * reveal.Second})
	assert.Equal(t, 1, done.Marker)
	assert.Equal(t, "Marker 2", r.Steps[0].Markers[1].Text)
	assert.Len(t, r.Steps[0].Cues, len(demo.Teardown(demo.Pump().Assembly).Steps[0].Cues), "its cues stay")
}
