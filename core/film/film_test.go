package film_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/edit"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// product is a small tree: a cover with two screws in it, a rotor beside it.
func product() *assembly.Assembly {
	turned := space.Rigid{R: space.AxisAngle(space.Vec{Y: 1}, 90), T: space.Vec{X: 30}}
	return &assembly.Assembly{
		Name: "product",
		Nodes: []assembly.Node{
			{ID: "/", Name: "product", Parent: -1, Shape: -1, Pose: assembly.PoseOf(space.Identity)},
			{
				ID:       "cover",
				Name:     "cover",
				Parent:   0,
				Shape:    0,
				Finishes: []int{0},
				Pose:     assembly.PoseOf(space.Identity),
			},
			{
				ID:       "cover/screw",
				Name:     "screw",
				Parent:   1,
				Shape:    0,
				Finishes: []int{0},
				Pose:     assembly.PoseOf(space.Translation(space.Vec{X: 5, Y: 5})),
			},
			{
				ID:       "cover/screw~2",
				Name:     "screw",
				Parent:   1,
				Shape:    0,
				Finishes: []int{0},
				Pose:     assembly.PoseOf(turned),
			},
			{
				ID:       "rotor",
				Name:     "rotor",
				Parent:   0,
				Shape:    0,
				Finishes: []int{0},
				Pose:     assembly.PoseOf(space.Translation(space.Vec{Z: -40})),
			},
		},
		Shapes: []assembly.ShapeRef{
			{Hash: "00", Submeshes: 1, Min: space.Vec3{-1, -1, -1}, Max: space.Vec3{1, 1, 1}},
		},
		Finishes: []assembly.Finish{{Name: "plain", Opacity: 1}},
	}
}

var eye = reveal.Camera{Orientation: space.NoRotation, Distance: 300, FocalLength: 50}

func script(steps ...reveal.Step) *reveal.Reveal {
	r := reveal.New("test", eye)
	r.Steps = steps
	return r
}

func pull(
	id string,
	at, length reveal.Micros,
	axes reveal.Axes,
	along space.Vec3,
	mm float64,
	targets ...assembly.NodeID,
) reveal.Cue {
	return reveal.Cue{
		ID:       reveal.CueID(id),
		Kind:     reveal.KindPull,
		Targets:  targets,
		Offset:   at,
		Duration: length,
		Easing:   reveal.Smooth,
		Pull:     &reveal.Pull{Axes: axes, Along: along, Distance: mm},
	}
}

func compile(t *testing.T, r *reveal.Reveal) (*film.Film, *film.Frame) {
	t.Helper()
	a := product()
	require.NoError(t, a.Check())
	require.NoError(t, reveal.Validate(r, a))
	f := film.Compile(a, r)
	return f, f.NewFrame()
}

const s = reveal.Second

// Screws that move 12 mm inside a cover that moves 20 mm end 32 mm away.
func TestNestedMovesAdd(t *testing.T) {
	r := script(reveal.Step{ID: "a", Title: "a", Duration: 4 * s, Cues: []reveal.Cue{
		pull("1", 0, 2*s, reveal.ParentAxes, space.Vec3{0, 0, 1}, 20, "cover"),
		pull("2", s, 2*s, reveal.ParentAxes, space.Vec3{0, 0, 1}, 12, "cover/screw"),
	}})
	f, fr := compile(t, r)
	f.At(4*s, fr)
	assert.InDelta(t, 20, fr.World[1].T.Z, 1e-12)
	assert.InDelta(t, 32, fr.World[2].T.Z, 1e-12)
	assert.InDelta(t, 20, fr.World[3].T.Z, 1e-12, "the other screw only travels with its cover")
}

func TestDirectionsAreThoseOfTheChosenAxes(t *testing.T) {
	for axes, want := range map[reveal.Axes]space.Vec{reveal.OwnAxes: {X: 30 + 10}, reveal.ParentAxes: {X: 30, Z: 10}, reveal.AssemblyAxes: {X: 30, Z: 10}} {
		r := script(
			reveal.Step{
				ID:       "a",
				Title:    "a",
				Duration: s,
				Cues:     []reveal.Cue{pull("1", 0, s, axes, space.Vec3{0, 0, 1}, 10, "cover/screw~2")},
			},
		)
		f, fr := compile(t, r)
		f.At(s, fr)
		got := fr.World[3].T
		assert.InDelta(t, 0, math.Abs(got.X-want.X)+math.Abs(got.Y-want.Y)+math.Abs(got.Z-want.Z), 1e-9, axes)
	}
}

func TestWholeTurnsAreMonotonicAndEndWhereTheyBegan(t *testing.T) {
	r := script(
		reveal.Step{
			ID:       "a",
			Title:    "a",
			Duration: 3 * s,
			Cues: []reveal.Cue{{ID: "1", Kind: reveal.KindTurn, Targets: []assembly.NodeID{"rotor"},
				Duration: 3 * s, Easing: reveal.Linear, Turn: &reveal.Turn{Axes: reveal.OwnAxes, About: space.Vec3{0, 0, 1}, Degrees: 1080}}},
		},
	)
	f, fr := compile(t, r)
	swept, last := 0.0, 0.0
	for k := range 3*360 + 1 {
		f.At(reveal.Micros(k)*s/360, fr)
		a := math.Atan2(fr.World[4].R[3], fr.World[4].R[0])
		step := math.Mod(a-last+3*math.Pi, 2*math.Pi) - math.Pi
		assert.GreaterOrEqual(t, step, -1e-9, "never the short way back")
		swept, last = swept+step, a
	}
	assert.InDelta(t, 6*math.Pi, swept, 1e-6)
	f.At(3*s, fr)
	assert.Equal(t, f.Assembly.Worlds()[4], fr.World[4])
}

// ISO 261 coarse pitch of M3 is 0.5 mm (from memory); the advance of a helix is
// lead × turns at every moment (Chasles), whatever the easing.
func TestUnscrewAdvancesByTheLeadInEveryRevolution(t *testing.T) {
	for _, c := range []struct{ lead, turns float64 }{{0.5, 16}, {0.7, 10}, {1.25, 3.5}} {
		for _, left := range []bool{false, true} {
			r := script(
				reveal.Step{
					ID:       "a",
					Title:    "a",
					Duration: 2 * s,
					Cues: []reveal.Cue{{ID: "1", Kind: reveal.KindUnscrew, Targets: []assembly.NodeID{"rotor"},
						Duration: 2 * s, Easing: reveal.Smooth, Unscrew: &reveal.Unscrew{Axes: reveal.OwnAxes, Along: space.Vec3{0, 0, 1}, Turns: c.turns, Lead: c.lead, LeftHand: left}}},
				},
			)
			f, fr := compile(t, r)
			for k := range 200 {
				f.At(reveal.Micros(k)*s/100, fr)
				advance := fr.World[4].T.Z + 40
				angle := math.Atan2(fr.World[4].R[3], fr.World[4].R[0])
				want := advance / c.lead * 2 * math.Pi
				if left {
					want = -want
				}
				assert.InDelta(t, 0, math.Sin((angle-want)/2), 1e-7, "at every moment the angle belongs to the advance")
			}
			f.At(2*s, fr)
			assert.InDelta(t, c.lead*c.turns, fr.World[4].T.Z+40, 1e-9)
		}
	}
}

// busy is a reveal with nested moves of all kinds and a retrace.
func busy() *reveal.Reveal {
	turn := reveal.Cue{
		ID:       "t",
		Kind:     reveal.KindTurn,
		Targets:  []assembly.NodeID{"cover", "rotor"},
		Offset:   s / 3,
		Duration: 2 * s,
		Stagger:  s / 4,
		Easing:   reveal.Out,
		Turn: &reveal.Turn{
			Axes:    reveal.AssemblyAxes,
			About:   space.Vec3{1, 2, 3},
			Pivot:   space.Vec3{4, 5, 6},
			Degrees: 777,
		},
	}
	fade := reveal.Cue{
		ID:       "f",
		Kind:     reveal.KindFade,
		Targets:  []assembly.NodeID{"cover"},
		Offset:   s,
		Duration: s,
		Easing:   reveal.In,
		Fade:     &reveal.Fade{To: 0.2},
	}
	shot := reveal.Cue{
		ID:       "c",
		Kind:     reveal.KindShot,
		Duration: s,
		Easing:   reveal.Smooth,
		Shot: &reveal.Shot{Name: "near",
			Camera: reveal.Camera{
				Target:      space.Vec3{1, 2, 3},
				Orientation: space.LookAlong(space.Vec{X: 1, Y: -1}, space.Vec{Y: 1}),
				Distance:    90,
				FocalLength: 85,
			}},
	}
	return script(
		reveal.Step{
			ID:       "a",
			Title:    "a",
			Duration: 2 * s,
			Cues: []reveal.Cue{
				pull("p", 0, 3*s, reveal.OwnAxes, space.Vec3{1, 1, 0}, 31.7, "cover/screw", "cover/screw~2"),
				turn,
			},
		},
		reveal.Step{
			ID:       "b",
			Title:    "b",
			Duration: 3 * s,
			Cues: []reveal.Cue{
				shot,
				fade,
				pull("q", s, s, reveal.AssemblyAxes, space.Vec3{0, 1, 3}, -12.3, "cover/screw", "cover"),
			},
		},
		reveal.Step{
			ID:       "back",
			Title:    "back",
			Duration: 4 * s,
			Retrace:  &reveal.Retrace{Steps: []reveal.StepID{"a", "b"}},
		},
	)
}

func TestRetraceReturnsExactlyHome(t *testing.T) {
	f, fr := compile(t, busy())
	f.At(0, fr)
	home := append([]space.Rigid(nil), fr.World...)
	camera := fr.Camera
	f.At(5*s, fr)
	assert.NotEqual(t, home, fr.World)
	f.At(9*s, fr)
	assert.Equal(t, home, fr.World, "to the bit")
	assert.Equal(t, camera, fr.Camera)
	for _, o := range fr.Opacity {
		assert.Equal(t, 1.0, o)
	}
}

func TestRetraceFollowsItsOriginal(t *testing.T) {
	r := script(
		reveal.Step{
			ID:       "a",
			Title:    "a",
			Duration: 2 * s,
			Cues:     []reveal.Cue{pull("p", 0, 2*s, reveal.ParentAxes, space.Vec3{0, 0, 1}, 10, "cover")},
		},
		reveal.Step{ID: "b", Title: "b", Duration: 2 * s, Retrace: &reveal.Retrace{Steps: []reveal.StepID{"a"}}},
	)
	for _, mm := range []float64{10, 35} {
		r.Steps[0].Cues[0].Pull.Distance = mm
		f, fr := compile(t, r)
		there, back := f.NewFrame(), fr
		for k := range 20 {
			f.At(reveal.Micros(k)*s/10, there)
			f.At(4*s-reveal.Micros(k)*s/10, back)
			assert.InDelta(t, there.World[1].T.Z, back.World[1].T.Z, 1e-9, "the way back mirrors the way there")
		}
	}
}

func TestOrderOfPlayIsIrrelevant(t *testing.T) {
	f, fr := compile(t, busy())
	random := rand.New(rand.NewPCG(1, 1))
	want := map[reveal.Micros]uint64{}
	for k := range 90 {
		at := reveal.Micros(k) * s / 10
		fresh := f.NewFrame()
		f.At(at, fresh)
		want[at] = fresh.Digest()
	}
	for range 500 {
		at := reveal.Micros(random.IntN(90)) * s / 10
		f.At(at, fr)
		require.Equal(t, want[at], fr.Digest())
	}
}

func digests(t *testing.T, r *reveal.Reveal) []uint64 {
	f, fr := compile(t, r)
	var d []uint64
	for k := reveal.Micros(0); k <= 9*s; k += s / 7 {
		f.At(k, fr)
		fr.Time = k // shorter films hold their end
		d = append(d, fr.Digest())
	}
	return d
}

func TestMutingIsAbsence(t *testing.T) {
	for _, id := range []reveal.CueID{"p", "t", "c", "f", "q"} {
		muted, absent := busy(), busy()
		i, k := muted.FindCue(id)
		muted.Steps[i].Cues[k].Muted = true
		cues := absent.Steps[i].Cues
		absent.Steps[i].Cues = append(append([]reveal.Cue(nil), cues[:k]...), cues[k+1:]...)
		if id == "p" || id == "t" { // they reach past their step: keep the retraced extent the same
			absent.Steps[0].Duration, muted.Steps[0].Duration = 3*s, 3*s
		}
		assert.Equal(t, digests(t, absent), digests(t, muted), id)
	}
	muted, absent := busy(), busy()
	muted.Steps[1].Muted = true
	absent.Steps = []reveal.Step{absent.Steps[0], absent.Steps[2]}
	absent.Steps[1].Retrace.Steps = []reveal.StepID{"a"}
	m, a := digests(t, muted), digests(t, absent)
	assert.Len(t, m, len(a))
	fm, frm := compile(t, muted)
	fa, fra := compile(t, absent)
	require.Equal(t, fa.Duration(), fm.Duration())
	for k := reveal.Micros(0); k < fa.Duration(); k += s / 7 {
		fm.At(k, frm)
		fa.At(k, fra)
		assert.Equal(t, fra.World, frm.World)
	}
}

func TestMovingAStepMovesItsCues(t *testing.T) {
	r := script(
		reveal.Step{ID: "pause", Title: "pause", Duration: 2 * s},
		reveal.Step{
			ID:       "work",
			Title:    "work",
			Duration: 3 * s,
			Cues:     []reveal.Cue{pull("p", s, s, reveal.OwnAxes, space.Vec3{0, 0, 1}, 9, "cover")},
		},
	)
	f, _ := compile(t, r)
	assert.Equal(t, 3*s, f.Schedule.Bars[0].Start)
	a := product()
	_, err := edit.Do(r, a, edit.Command{Op: edit.MoveStep, StepID: "work", Index: 0})
	require.NoError(t, err)
	g, fr := compile(t, r)
	assert.Equal(t, s, g.Schedule.Bars[0].Start)
	g.At(2*s, fr)
	assert.InDelta(t, 9, fr.World[1].T.Z, 1e-12)
}

func TestFadesMultiplyDownTheTree(t *testing.T) {
	fade := func(id string, to float64, target assembly.NodeID) reveal.Cue {
		return reveal.Cue{
			ID:       reveal.CueID(id),
			Kind:     reveal.KindFade,
			Targets:  []assembly.NodeID{target},
			Duration: s,
			Easing:   reveal.Linear,
			Fade:     &reveal.Fade{To: to},
		}
	}
	r := script(
		reveal.Step{
			ID:       "a",
			Title:    "a",
			Duration: 2 * s,
			Cues:     []reveal.Cue{fade("1", 0.5, "cover"), fade("2", 0.4, "cover/screw")},
		},
	)
	r.Opening.Suppressed = []assembly.NodeID{"rotor"}
	f, fr := compile(t, r)
	f.At(2*s, fr)
	assert.Equal(t, []float64{1, 0.5, 0.2, 0.5, 0}, fr.Opacity)
	f.At(0, fr)
	assert.Equal(t, []float64{1, 1, 1, 1, 0}, fr.Opacity)
}

func TestStaggeredTargetsStartLater(t *testing.T) {
	c := pull("p", 0, s, reveal.OwnAxes, space.Vec3{0, 0, 1}, 10, "cover", "rotor")
	c.Stagger = s
	f, fr := compile(t, script(reveal.Step{ID: "a", Title: "a", Duration: 3 * s, Cues: []reveal.Cue{c}}))
	f.At(s, fr)
	assert.InDelta(t, 10, fr.World[1].T.Z, 1e-12)
	assert.InDelta(t, -40, fr.World[4].T.Z, 1e-12)
	f.At(2*s, fr)
	assert.InDelta(t, -30, fr.World[4].T.Z, 1e-12)
	assert.Equal(t, 2*s, f.Schedule.Bars[0].Duration)
}

func TestEasingHoldsItsEndsAndIsSymmetric(t *testing.T) {
	for _, e := range []reveal.Easing{reveal.Linear, reveal.Smooth, reveal.In, reveal.Out, {Bezier: [4]float64{.25, .1, .25, 1}}} {
		assert.Equal(t, 0.0, film.Ease(e, -1))
		assert.Equal(t, 0.0, film.Ease(e, 0))
		assert.Equal(t, 1.0, film.Ease(e, 1))
		assert.Equal(t, 1.0, film.Ease(e, 2))
	}
	for k := range 100 {
		x := float64(k) / 100
		assert.InDelta(t, 1-film.Ease(reveal.In, x), film.Ease(reveal.Out, 1-x), 1e-9)
	}
}

func TestStepsEndWhereTheNextOnesBegin(t *testing.T) {
	r := script(
		reveal.Step{ID: "a", Duration: 2 * reveal.Second},
		reveal.Step{ID: "b", Duration: 3 * reveal.Second, Muted: true},
		reveal.Step{ID: "c", Duration: reveal.Second},
	)
	f, _ := compile(t, r)
	assert.Equal(t, []reveal.Micros{2 * reveal.Second, 3 * reveal.Second}, f.Ends())
}

// What the page shows of a step's length and of a change that nobody sees happen: a step as long as its cues, at least
// half a second; a frame of 24 in a second is 41 667 µs.
func TestTheScheduleSaysWhatFitsAndWhatIsAtOnce(t *testing.T) {
	along := func(id string, at, length reveal.Micros) reveal.Cue {
		return pull(id, at, length, reveal.OwnAxes, space.Vec3{0, 0, 1}, 10, "cover")
	}
	r := script(
		reveal.Step{ID: "a", Duration: 4 * s, Cues: []reveal.Cue{along("slow", 0, 2*s), along("once", 2*s, 41_666)}},
		reveal.Step{ID: "b", Duration: s, Cues: []reveal.Cue{along("short", 0, 41_667)}},
		reveal.Step{ID: "c", Duration: s},
		reveal.Step{ID: "d", Duration: s, Muted: true, Cues: []reveal.Cue{along("muted", 0, s)}},
	)
	r.Frame.Rate = 24
	f, _ := compile(t, r)
	assert.EqualValues(t, 41_667, f.Schedule.Frame)
	var fitting []reveal.Micros
	for _, span := range f.Schedule.Steps {
		fitting = append(fitting, span.Fitting)
	}
	assert.Equal(t, []reveal.Micros{2*s + 41_666, s / 2, 0, s}, fitting)
	once := map[reveal.CueID]bool{}
	for _, b := range f.Schedule.Bars {
		once[b.Cue] = b.Once
	}
	assert.Equal(t, map[reveal.CueID]bool{"slow": false, "once": true, "short": false}, once)
}
