package proof_test

import (
	"context"
	"os"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/edit"
	"slowreveal/core/film"
	"slowreveal/core/product"
	"slowreveal/core/proof"
	"slowreveal/core/reveal"
	"slowreveal/core/solid/simple"
	"slowreveal/core/space"
	"slowreveal/demo"
)

// blocks are three of 10 mm side by side, the middle one at the origin, and one that touches it on top.
func blocks(t *testing.T) *product.Model {
	t.Helper()
	return scene(
		t,
		part{"left", simple.Block(10, 10, 10), space.Vec{X: -30}},
		part{"middle", simple.Block(10, 10, 10), space.Vec{}},
		part{
			"right",
			simple.Block(10, 10, 10),
			space.Vec{X: 30},
		},
		part{"top", simple.Block(10, 10, 10), space.Vec{Y: 10}},
	)
}

// shown is a reveal of one step of four seconds, seen along −Z from 300 mm: 24 · 300 / 50 = 144 mm high, of which the
// frame of 16 : 9 shows 36/50·300·9/16 = 121.5.
func shown(cues ...reveal.Cue) *reveal.Reveal {
	r := reveal.New("test", reveal.Camera{Orientation: space.NoRotation, Distance: 300, FocalLength: 50})
	r.Captions = &reveal.Captions{Show: reveal.NoWords, Place: reveal.LowerLeft, Size: 1}
	r.Steps = []reveal.Step{{ID: "a", Title: "a", Duration: 4 * s, Cues: cues}}
	return r
}

func outcome(t *testing.T, m *product.Model, r *reveal.Reveal) proof.Outcome {
	t.Helper()
	require.NoError(t, reveal.Validate(r, m.Assembly))
	o, err := proof.Run(t.Context(), film.Compile(m.Assembly, r), m.Shapes, nil, proof.Settings{}, nil)
	require.NoError(t, err)
	assert.Equal(t, []string{"hidden", "contrast", "crowded"}, o.Left, "nobody has eyes here")
	return o
}

// of are the findings of a check.
func of(o proof.Outcome, check string) (list []proof.Finding) {
	for _, f := range o.Findings {
		if f.Check == check {
			list = append(list, f)
		}
	}
	return list
}

// A block that goes 100 mm to the right within two seconds leaves a frame that is 36/50·300 = 216 mm wide at its
// distance, by what is told in shares of its height, 121.5 mm; the face in front is nearer to the eye by 10 mm of 300.
func TestWhatLeavesTheFrameIsFound(t *testing.T) {
	m := blocks(t)
	r := shown(pull("out", s, 2*s, space.Vec3{1, 0, 0}, 100, "right"))
	list := of(outcome(t, m, r), "frame")
	require.Len(t, list, 1)
	f := list[0]
	near := 300.0 - 10
	beyond := (140*300/near - 108) / 121.5 // its right side stands at 140 mm in the end
	assert.InDelta(t, 100*beyond, f.Worse, 0.1)
	assert.Equal(t, 3*s, f.At)
	assert.Equal(t, 3*s, f.To)
	begins := 1 + 2*(108*near/300-40)/100 // it is linear
	assert.InDelta(t, begins, float64(f.From)/1e6, 0.1, "moments are a tenth of a second apart")
	assert.Contains(t, f.Says, "on the right")
	assert.Equal(t, []assembly.NodeID{"right"}, f.Parts)
	r.Opening.Suppressed = []assembly.NodeID{"right"}
	assert.Empty(t, of(outcome(t, m, r), "frame"), "what is not there leaves nothing")
	r.Opening.Suppressed = nil
	r.Proof = &reveal.Proof{Limits: map[string]float64{"frame": 50}}
	assert.Empty(t, of(outcome(t, m, r), "frame"), "less than the limit")
}

// Time to read: 20 characters or 3 words a second, whichever takes longer (broadcast practice, no source). A note of 60
// characters in 12 words takes 4 s.
func TestTooLittleTimeToReadIsFound(t *testing.T) {
	m := blocks(t)
	note := func(id string, at, length reveal.Micros) reveal.Cue {
		return reveal.Cue{
			ID:       reveal.CueID(id),
			Kind:     reveal.KindNote,
			Targets:  []assembly.NodeID{"middle"},
			Offset:   at,
			Duration: length,
			Easing:   reveal.Linear,
			Note:     &reveal.Note{Text: "Four more words here, four more words here, four more words"},
		}
	}
	list := of(outcome(t, m, shown(note("n", 0, 3*s))), "reading")
	require.Len(t, list, 1)
	assert.InDelta(t, 11.0/3-3, list[0].Worse, 0.01, "eleven words")
	assert.Empty(t, of(outcome(t, m, shown(note("n", 0, 4*s))), "reading"))

	// Two that stand together have to be read one after the other.
	r := shown(note("n", 0, 6*s), note("o", 0, 6*s))
	r.Steps[0].Duration = 6 * s
	list = of(outcome(t, m, r), "reading")
	require.Len(t, list, 1)
	assert.InDelta(t, 2*11.0/3-6, list[0].Worse, 0.01)
	assert.Contains(t, list[0].Says, "beside")

	// So has what a step says itself, where it is shown.
	r = shown()
	r.Captions = nil
	r.Steps[0].Instruction = "one two three four five six seven eight nine ten eleven twelve thirteen"
	list = of(outcome(t, m, r), "reading")
	require.Len(t, list, 1)
	assert.InDelta(t, 14.0/3-4, list[0].Worse, 0.01)
}

// An orbit of 360° in four seconds turns by 90° a second.
func TestCamerasThatTurnTooFastOrGoThroughPartsAreFound(t *testing.T) {
	m := blocks(t)
	orbit := reveal.Cue{
		ID:       "o",
		Kind:     reveal.KindOrbit,
		Duration: 4 * s,
		Easing:   reveal.Linear,
		Orbit:    &reveal.Orbit{About: space.Vec3{0, 1, 0}, Degrees: 360},
	}
	list := of(outcome(t, m, shown(orbit)), "camera")
	require.Len(t, list, 1)
	assert.InDelta(t, 90, list[0].Worse, 0.2)
	orbit.Orbit.Degrees = 200
	assert.Empty(t, of(outcome(t, m, shown(orbit)), "camera"))

	shot := func(id string, at reveal.Micros, camera reveal.Camera) reveal.Cue {
		return reveal.Cue{
			ID:       reveal.CueID(id),
			Kind:     reveal.KindShot,
			Offset:   at,
			Duration: s,
			Easing:   reveal.Linear,
			Shot:     &reveal.Shot{Camera: camera},
		}
	}
	through := reveal.Camera{
		Orientation: space.NoRotation,
		Target:      space.Vec3{0, 0, -400},
		Distance:    300,
		FocalLength: 50,
	}
	list = of(outcome(t, m, shown(shot("c", 0, through))), "camera")
	require.Len(t, list, 1)
	assert.Contains(t, list[0].Says, "goes through middle")
	through.Target = space.Vec3{0, 100, -400}
	assert.Empty(t, of(outcome(t, m, shown(shot("c", 0, through))), "camera"), "past it")

	aside := space.AxisAngle(space.Vec{Y: 1}, 40)
	there, back := reveal.Camera{
		Orientation: aside.Quat(),
		Distance:    300,
		FocalLength: 50,
	}, reveal.Camera{
		Orientation: space.NoRotation,
		Distance:    300,
		FocalLength: 50,
	}
	list = of(outcome(t, m, shown(shot("c", 0, there), shot("d", s+s/2, back))), "camera")
	require.Len(t, list, 1)
	assert.Equal(t, proof.Hint, list[0].Level)
	assert.Contains(t, list[0].Says, "at once back")
	assert.Empty(
		t,
		of(outcome(t, m, shown(shot("c", 0, there), shot("d", 2*s+s/2, back))), "camera"),
		"a second and a half later",
	)
}

// 40 mm in a quarter of a second are 160 mm a second: 1.3 heights of a frame of 121.5 mm.
func TestPaceIsFound(t *testing.T) {
	m := blocks(t)
	list := of(
		outcome(
			t,
			m,
			shown(
				pull("p", 0, s/4, space.Vec3{0, 1, 0}, 29, "top"),
				pull("q", s, 2*s, space.Vec3{0, 1, 0}, 30, "left"),
			),
		),
		"pace",
	)
	require.Len(t, list, 0, "one second and its end are no wait")
	r := shown(
		pull("p", 0, s/4, space.Vec3{0, 1, 0}, 40, "top"),
		pull("q", s/2, 3*s+s/2, space.Vec3{0, 1, 0}, 30, "left"),
	)
	list = of(outcome(t, m, r), "pace")
	require.Len(t, list, 1)
	assert.InDelta(t, 160*300.0/295/121.5, list[0].Worse, 0.002, "its middle is 5 mm nearer")
	list = of(
		outcome(
			t,
			m,
			shown(
				pull("p", 0, s/10, space.Vec3{0, 1, 0}, 5, "top"),
				pull("q", 0, 4*s, space.Vec3{0, 1, 0}, 5, "left"),
			),
		),
		"pace",
	)
	require.Len(t, list, 1)
	assert.Contains(t, list[0].Says, "over in 0.10 s")
	r = shown(pull("p", 0, s, space.Vec3{0, 1, 0}, 30, "top"))
	r.Steps[0].Duration = 10 * s
	list = of(outcome(t, m, r), "pace")
	require.Len(t, list, 1)
	assert.InDelta(t, 9, list[0].Worse, 1e-6)
	assert.Equal(t, [2]reveal.Micros{s, 10 * s}, [2]reveal.Micros{list[0].From, list[0].To})
}

// A block is moved between two steps that a retrace runs back: it does not come home. One that touches the moved ones,
// What goes back a little faster than it came off is looked at as it came off; what is wound back at a glance, more than
// three times as fast, is not.
func TestARetraceAtAGlanceIsNotJudgedByItsMovements(t *testing.T) {
	m := blocks(t)
	r := shown(pull("out", 0, 4*s, space.Vec3{1, 0, 0}, 60, "right")) // half a frame's height: calm
	r.Steps = append(r.Steps, reveal.Step{
		ID: "back", Title: "back", Duration: s / 2, Retrace: &reveal.Retrace{Steps: []reveal.StepID{"a"}},
	})
	r.Proof = &reveal.Proof{Limits: map[string]float64{"pace": 0.2}}
	assert.Empty(t, of(outcome(t, m, r), "pace"), "eight times as fast")
	r.Steps[1].Duration = 2 * s
	list := of(outcome(t, m, r), "pace")
	require.Len(t, list, 1, "twice as fast")
	assert.GreaterOrEqual(t, list[0].From, 4*s)
}

// and none of whose neighbours stays, is alone; the largest part may be.
func TestLooseEndsAreFound(t *testing.T) {
	m := scene(
		t,
		part{"middle", simple.Block(10, 10, 10), space.Vec{}},
		part{"top", simple.Block(10, 10, 10), space.Vec{Y: 10}},
	)
	r := shown(pull("p", 0, s, space.Vec3{0, 1, 0}, 30, "top"))
	r.Steps = append(
		r.Steps,
		reveal.Step{ID: "b", Title: "b", Duration: 2 * s, Cues: []reveal.Cue{turn("t", 0, s, space.Vec3{}, 90, "top")}},
		reveal.Step{ID: "back", Title: "back", Duration: 4 * s, Retrace: &reveal.Retrace{Steps: []reveal.StepID{"a"}}},
	)
	list := of(outcome(t, m, r), "ends")
	assert.Empty(t, list, "what else has moved it is left aside")
	r.Steps[2].Retrace.Steps = []reveal.StepID{"a", "b"}
	assert.Empty(t, of(outcome(t, m, r), "ends"))

	flow := pull("p", 0, s, space.Vec3{0, 1, 0}, 30, "top")
	flow.Flow = &reveal.FlowLine{Of: reveal.FlowEach}
	r = shown(flow)
	assert.Empty(t, of(outcome(t, m, r), "ends"))
	r.Opening.Suppressed = []assembly.NodeID{"top"}
	list = of(outcome(t, m, r), "ends")
	require.Len(t, list, 1)
	assert.Contains(t, list[0].Says, "flow line")

	tower := scene(
		t,
		part{"base", simple.Block(40, 40, 10), space.Vec{Z: -10}},
		part{"ring", simple.Block(10, 10, 10), space.Vec{}},
		part{"lid", simple.Block(10, 10, 10), space.Vec{Z: 10}},
	)
	r = shown(pull("p", 0, s, space.Vec3{0, 0, 1}, 30, "lid"), pull("q", 0, s, space.Vec3{0, 0, -1}, 30, "base"))
	list = of(outcome(t, tower, r), "ends")
	assert.Empty(t, list, "one has to stay")
	tower = scene(
		t,
		part{"base", simple.Block(40, 40, 10), space.Vec{Z: -10}},
		part{"ring", simple.Block(10, 10, 10), space.Vec{}},
		part{"lid", simple.Block(10, 10, 10), space.Vec{Z: 10}},
		part{"aside", simple.Block(50, 50, 50), space.Vec{X: 100}},
	)
	list = of(outcome(t, tower, r), "ends")
	require.Len(t, list, 1)
	assert.Equal(t, []assembly.NodeID{"ring"}, list[0].Parts)
}

// A cover is pulled through a screw that leaves a second later: it is held. Where the screw never leaves, it goes into
// it.
func TestAPartThatLeavesTooEarlyIsHeld(t *testing.T) {
	m := scene(
		t,
		part{"base", simple.Block(40, 40, 10), space.Vec{Z: -20}},
		part{"cover", simple.Sleeve(2.2, 15, 6, 32), space.Vec{}},
		part{"screw", screw(2, 12, 4), space.Vec{Z: -6}},
	)
	cover := pull("cover", 0, s, space.Vec3{0, 0, 1}, 30, "cover")
	out := pull("screw", 2*s, s, space.Vec3{0, 0, 1}, 60, "screw")
	r := shown(cover, out)
	held := of(outcome(t, m, r), "held")
	require.Len(t, held, 1)
	assert.Contains(t, held[0].Says, "cover leaves 0.00 s into the film")
	assert.Equal(t, proof.Fault, held[0].Level)
	o := outcome(t, m, shown(cover))
	assert.Empty(t, of(o, "held"))
	assert.Len(t, of(o, "interference"), 1)

	// The mend lets the cover begin when the screw has left: 3 s later. Then it is quiet.
	f := film.Compile(m.Assembly, r)
	mends, err := proof.Mends(t.Context(), f, r, m.Shapes, nil, proof.Settings{}, &held[0])
	require.NoError(t, err)
	require.NotEmpty(t, mends)
	assert.Contains(t, mends[0].Says, "Start 3.0 s later")
	for _, mend := range mends {
		mended := reveal.Clone(r)
		_, err := edit.Do(mended, m.Assembly, mend.Command)
		require.NoError(t, err, mend.Says)
		after := outcome(t, m, mended)
		assert.Empty(t, of(after, "held"), mend.Says)
		assert.Empty(t, of(after, "interference"), mend.Says)
	}

	// Accepted, it stays so through another edit, and lapses when it gets worse.
	f2 := held[0]
	accepted := reveal.Accepted{Check: f2.Check, Parts: f2.Parts, Cues: f2.Cues, Worse: f2.Worse, Reason: "snaps in"}
	before := reveal.Clone(r)
	inverse, err := edit.Do(r, m.Assembly, edit.Command{Op: edit.Accept, Accepted: &accepted})
	require.NoError(t, err)
	o = outcome(t, m, r)
	assert.Equal(t, "snaps in", of(o, "held")[0].Accepted)
	assert.Equal(t, 1, o.Open(proof.Fault), "later the screw's head goes through the cover")
	worse := reveal.Clone(r)
	worse.Proof.Accepted[0].Worse = f2.Worse / 2
	assert.Empty(t, of(outcome(t, m, worse), "held")[0].Accepted)
	_, err = edit.Do(r, m.Assembly, inverse)
	require.NoError(t, err)
	assert.Equal(t, before, r)
}

// docs/proof.md says what the table says.
func TestThePageOfTheChecksIsUpToDate(t *testing.T) {
	text, err := os.ReadFile("../../docs/proof.md")
	require.NoError(t, err)
	assert.Equal(t, proof.Table(), string(text), "make generate")
}

// blinking eyes do something when they are asked to look.
type blinking struct {
	proof.Eyes
	look func()
}

func (b blinking) Size() (width, height int) { return 16, 9 }

func (b blinking) Nodes(*film.Frame, []bool, bool) []int32 {
	b.look()
	return make([]int32, 16*9)
}

func (b blinking) Covered(*film.Film, *film.Frame) []film.Area { return nil }

// A look that is ended while the picture is looked at is no outcome, though interference had come to its end by then;
// and what goes wrong in interference, which runs beside, comes back to who has asked.
func TestALookThatIsEndedOrFailsIsNoOutcome(t *testing.T) {
	m := demo.Pump()
	f := film.Compile(m.Assembly, demo.Teardown(m.Assembly))
	ctx, end := context.WithCancel(t.Context())
	seen := proof.Settings{Memory: proof.NewMemory()}
	_, err := proof.Interference(ctx, f, m.Shapes, seen)
	require.NoError(t, err)
	_, err = proof.Run(ctx, f, m.Shapes, blinking{look: func() {
		time.Sleep(2 * time.Second) // interference, of which all is remembered, has ended
		end()
	}}, seen, nil)
	assert.ErrorIs(t, err, context.Canceled)

	broken := slices.Clone(m.Shapes)
	broken[m.Assembly.Nodes[m.Assembly.Index()["housing/hood"]].Shape] = nil
	assert.Panics(t, func() { _, _ = proof.Run(t.Context(), f, broken, nil, proof.Settings{}, nil) })
}
