package film_test

import (
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/core/timecode"
	"slowreveal/demo"
)

func orbit(id string, at, length reveal.Micros, degrees float64) reveal.Cue {
	return reveal.Cue{
		ID:       reveal.CueID(id),
		Kind:     reveal.KindOrbit,
		Offset:   at,
		Duration: length,
		Easing:   reveal.Linear,
		Orbit:    &reveal.Orbit{About: space.Vec3{0, 2, 0}, Degrees: degrees},
	}
}

// An orbit keeps its distance and its height, goes evenly, and after whole
// turns is where it began: the frame behind the last is the first.
func TestAnOrbitLoopsWithoutARepeatedFrame(t *testing.T) {
	r := script(reveal.Step{ID: "a", Duration: 4 * s, Cues: []reveal.Cue{orbit("o", 0, 4*s, 360)}})
	r.Opening.Camera.Target = space.Vec3{10, 20, 30}
	f, fr := compile(t, r)
	f.At(0, fr)
	first := fr.Camera
	target := space.Vec{X: 10, Y: 20, Z: 30}
	last := film.Eye(first).T
	frames := timecode.FrameCount(f.Duration(), 30)
	seen := map[space.Quat]bool{}
	for k := range frames {
		f.At(timecode.FrameTime(k, 30), fr)
		eye := film.Eye(fr.Camera).T
		require.InDelta(t, 300, r3.Norm(r3.Sub(eye, target)), 1e-9)
		require.InDelta(t, film.Eye(first).T.Y, eye.Y, 1e-9)
		if k > 0 {
			require.InDelta(t, 2*300*math.Sin(math.Pi/120), r3.Norm(r3.Sub(eye, last)), 0.01, "even steps")
		}
		require.False(t, seen[fr.Camera.Orientation], "frame %d is new", k)
		seen[fr.Camera.Orientation] = true
		last = eye
	}
	f.At(f.Duration(), fr)
	assert.Equal(t, first, fr.Camera, "frame n is frame 0, to the bit")
}

func TestAnOrbitGoesOnFromTheShotBeforeIt(t *testing.T) {
	shot := reveal.Cue{
		ID:       "shot",
		Kind:     reveal.KindShot,
		Offset:   0,
		Duration: s,
		Easing:   reveal.Smooth,
		Shot: &reveal.Shot{
			Camera: reveal.Camera{
				Target:      space.Vec3{0, 0, 5},
				Orientation: space.NoRotation,
				Distance:    100,
				FocalLength: 35,
			},
		},
	}
	f, fr := compile(t, script(reveal.Step{ID: "a", Duration: 4 * s, Cues: []reveal.Cue{shot, orbit("o", s, 2*s, 90)}}))
	f.At(3*s, fr)
	eye := film.Eye(fr.Camera).T
	assert.InDelta(t, 100, eye.X, 1e-9, "a quarter turn about Y takes the eye from +Z to +X")
	assert.InDelta(t, 5, eye.Z, 1e-9)
	assert.Equal(t, 35.0, fr.Camera.FocalLength)
}

// corners are where the corners of a node's box are seen, as shares of the
// frame's half from its middle.
func corners(fr *film.Frame, node int, aspect float64) (most float64) {
	eye := film.Eye(fr.Camera)
	inverse := eye.Inverse()
	h, v := film.Field(fr.Camera.FocalLength, aspect)
	for i := range 8 {
		c := space.Vec{X: float64(i&1)*2 - 1, Y: float64(i>>1&1)*2 - 1, Z: float64(i>>2&1)*2 - 1}
		p := inverse.Apply(fr.World[node].Apply(c))
		most = math.Max(most, math.Max(math.Abs(p.X/p.Z/h), math.Abs(p.Y/p.Z/v)))
	}
	return most
}

// What a shot keeps in the frame never leaves it, however far it is pulled, and
// follows when the distance is changed later.
func TestAShotKeepsPartsInTheFrame(t *testing.T) {
	for _, mm := range []float64{50, 500} {
		shot := reveal.Cue{ID: "shot", Kind: reveal.KindShot, Duration: s / 10, Easing: reveal.Linear,
			Shot: &reveal.Shot{
				Camera: eye,
				Follow: &reveal.Follow{Nodes: []assembly.NodeID{"cover", "rotor"}, Margin: 0.2},
			}}
		r := script(
			reveal.Step{
				ID:       "a",
				Duration: 3 * s,
				Cues: []reveal.Cue{
					shot,
					pull("p", s/2, 2*s, reveal.AssemblyAxes, space.Vec3{1, 1, 0}, mm, "cover"),
				},
			},
		)
		f, fr := compile(t, r)
		nearest := 0.0
		for k := 3; k <= 90; k++ {
			f.At(timecode.FrameTime(k, 30), fr)
			most := 0.0
			for node := 1; node < 5; node++ {
				most = math.Max(most, corners(fr, node, r.Frame.Aspect()))
			}
			require.LessOrEqual(t, most, 0.8+1e-9, "frame %d of a pull of %g mm", k, mm)
			nearest = math.Max(nearest, most)
		}
		assert.InDelta(t, 0.8, nearest, 1e-6, "and is as large as the margin lets it")
	}
}

func TestTintsMixDownTheTree(t *testing.T) {
	red := space.Vec3{1, 0, 0}
	tint := func(id string, at reveal.Micros, amount float64, target assembly.NodeID) reveal.Cue {
		return reveal.Cue{
			ID:       reveal.CueID(id),
			Kind:     reveal.KindTint,
			Targets:  []assembly.NodeID{target},
			Offset:   at,
			Duration: s,
			Easing:   reveal.Linear,
			Tint:     &reveal.Tint{Colour: red, Amount: amount},
		}
	}
	f, fr := compile(
		t,
		script(
			reveal.Step{
				ID:       "a",
				Duration: 4 * s,
				Cues:     []reveal.Cue{tint("on", 0, 0.8, "cover"), tint("off", 2*s, 0, "cover/screw")},
			},
		),
	)
	f.At(s/2, fr)
	assert.InDelta(t, 0.4, fr.Tint[1].Amount, 1e-12)
	assert.Equal(t, red, fr.Tint[2].Colour, "what is in the cover is tinted with it")
	f.At(4*s, fr)
	assert.InDelta(t, 0.8, fr.Tint[1].Amount, 1e-12)
	assert.Zero(t, fr.Tint[2].Amount, "and can be taken out of it")
	assert.Zero(t, fr.Tint[4].Amount)
}

func TestAFlowLineLeadsFromTheSeatToWhereThePartHasGone(t *testing.T) {
	out := pull("out", 0, s, reveal.OwnAxes, space.Vec3{0, 0, 1}, 30, "cover/screw")
	out.Flow = &reveal.FlowLine{Of: reveal.FlowEach}
	aside := pull("aside", s, s, reveal.OwnAxes, space.Vec3{1, 0, 0}, 10, "cover/screw")
	aside.Flow = &reveal.FlowLine{Of: reveal.FlowEach}
	cover := pull("cover", 2*s, s, reveal.AssemblyAxes, space.Vec3{0, 1, 0}, 7, "cover")
	back := reveal.Step{ID: "b", Duration: s, Retrace: &reveal.Retrace{Steps: []reveal.StepID{"a"}}}
	f, fr := compile(t, script(reveal.Step{ID: "a", Duration: 3 * s, Cues: []reveal.Cue{out, aside, cover}}, back))
	f.At(0, fr)
	assert.Equal(t, fr.Flow[0].From, fr.Flow[0].To, "nothing to see yet")
	f.At(3*s, fr)
	at := func(x, y, z float64) space.Vec { return space.Vec{X: x, Y: y, Z: z} }
	assert.Equal(t, at(5, 12, 0), fr.Flow[0].From, "the seat travels with the cover")
	assert.Equal(t, at(5, 12, 30), fr.Flow[0].To)
	assert.Equal(t, fr.Flow[0].To, fr.Flow[1].From, "leg joins leg")
	assert.Equal(t, at(15, 12, 30), fr.Flow[1].To)
	assert.Equal(t, fr.World[2].T, fr.Flow[1].To)
	f.At(4*s, fr)
	for _, l := range fr.Flow {
		assert.Equal(t, l.From, l.To, "home again")
	}
}

// A second pull without a flow line of its own does not leave the first one's hanging: it leads on, along a turn too,
// and takes no more of the way than is gone.
func TestAFlowLineFollowsItsPartToWhereItIsNow(t *testing.T) {
	out := pull("out", 0, s, reveal.OwnAxes, space.Vec3{0, 0, 1}, 30, "cover/screw")
	out.Flow = &reveal.FlowLine{Of: reveal.FlowEach}
	aside := pull("aside", s, s, reveal.OwnAxes, space.Vec3{1, 0, 0}, 10, "cover/screw")
	turn := reveal.Cue{
		ID:       "turn",
		Kind:     reveal.KindTurn,
		Targets:  []assembly.NodeID{"cover/screw"},
		Offset:   2 * s,
		Duration: s,
		Easing:   reveal.Linear,
		Turn:     &reveal.Turn{Axes: reveal.ParentAxes, About: space.Vec3{0, 0, 1}, Degrees: 90},
	}
	f, fr := compile(t, script(reveal.Step{ID: "a", Duration: 3 * s, Cues: []reveal.Cue{out, aside, turn}}))
	for _, at := range []reveal.Micros{0, s / 2, s, s + s/2, 2 * s, 2*s + s/2, 3 * s} {
		f.At(at, fr)
		near(t, vec(5, 5, 0), fr.Flow[0].From, 1e-9)
		last, length := fr.Flow[0].From, 0.0
		for _, piece := range fr.Flow {
			near(t, last, piece.From, 1e-9)
			assert.InDelta(t, length, piece.Start, 1e-9)
			last, length = piece.To, length+r3.Norm(r3.Sub(piece.To, piece.From))
		}
		near(t, fr.World[2].T, last, 1e-9)
	}
}

// Two parts on one axis that go the same way: what both lines would draw is drawn once, and all of it.
func TestFlowLinesOnOneAxisAreOne(t *testing.T) {
	cue := pull(
		"p",
		0,
		s,
		reveal.AssemblyAxes,
		space.Vec3{0, 0, 1},
		60,
		"cover",
		"rotor",
	) // the rotor begins 40 mm behind
	cue.Flow = &reveal.FlowLine{Of: reveal.FlowEach}
	f, fr := compile(t, script(reveal.Step{ID: "a", Duration: s, Cues: []reveal.Cue{cue}}))
	for k := 1; k <= 20; k++ {
		f.At(s*reveal.Micros(k)/20, fr)
		gone := fr.World[1].T.Z
		low, high, sum := math.Inf(1), math.Inf(-1), 0.0
		for _, piece := range fr.Flow {
			if piece.From != piece.To {
				low, high = min(low, piece.From.Z, piece.To.Z), max(high, piece.From.Z, piece.To.Z)
				sum += math.Abs(piece.To.Z - piece.From.Z)
			}
		}
		assert.InDelta(t, -40, low, 1e-9)
		assert.InDelta(t, gone, high, 1e-9)
		assert.InDelta(t, min(2*gone, gone+40), sum, 1e-6, "no stroke twice")
	}
}

func noteCue(id, text string, at, length reveal.Micros, target assembly.NodeID) reveal.Cue {
	return reveal.Cue{
		ID:       reveal.CueID(id),
		Kind:     reveal.KindNote,
		Targets:  []assembly.NodeID{target},
		Offset:   at,
		Duration: length,
		Easing:   reveal.Linear,
		Note:     &reveal.Note{Text: text},
	}
}

func TestNotesStayReadableAndApart(t *testing.T) {
	long := "Hold the screw at its head while the cover comes off, it is not captive"
	f, fr := compile(t, script(reveal.Step{ID: "a", Duration: 6 * s, Cues: []reveal.Cue{
		noteCue("1", long, 0, 5*s, "cover/screw"),
		noteCue("2", "Rotor", s, 4*s, "rotor"),
		noteCue("3", "Cover, PMMA", s, 4*s, "cover"),
		pull("p", 0, 5*s, reveal.AssemblyAxes, space.Vec3{1, 0, 0}, 60, "cover")}}))
	x := -1.0
	for k := range 6 * 30 {
		f.At(timecode.FrameTime(k, 30), fr)
		for i, n := range fr.Notes {
			require.GreaterOrEqual(t, n.X, 0.05-1e-9)
			require.LessOrEqual(t, n.X+n.Width, 0.95+1e-9)
			require.GreaterOrEqual(t, n.Y, 0.05-1e-9)
			require.LessOrEqual(t, n.Y+n.Height, 0.95+1e-9)
			require.False(
				t,
				n.AnchorX > n.X && n.AnchorX < n.X+n.Width && n.AnchorY > n.Y && n.AnchorY < n.Y+n.Height,
				"it does not cover what it points at",
			)
			for _, o := range fr.Notes[:i] {
				across := min(n.X+n.Width, o.X+o.Width) - max(n.X, o.X)
				down := min(n.Y+n.Height, o.Y+o.Height) - max(n.Y, o.Y)
				require.False(t, across > 0 && down > 0, "frame %d: two notes lie on each other", k)
			}
		}
		if len(fr.Notes) == 3 && x >= 0 {
			require.Less(t, math.Abs(fr.Notes[0].X-x), 0.02, "no jumps")
		}
		if len(fr.Notes) > 0 {
			x = fr.Notes[0].X
		} else {
			x = -1
		}
	}
	f.At(2*s, fr)
	require.Len(t, fr.Notes, 3)
	assert.Equal(t, strings.Fields(long), strings.Fields(strings.Join(fr.Notes[0].Lines, " ")), "every word is there")
	for _, l := range fr.Notes[0].Lines {
		assert.LessOrEqual(t, len(l), 26)
	}
	assert.Equal(t, 1.0, fr.Notes[0].Opacity)
	f.At(s/8, fr)
	assert.InDelta(t, 0.5, fr.Notes[0].Opacity, 1e-9, "a soft beginning")
	f.At(5*s+s/2, fr)
	assert.Empty(t, fr.Notes)
}

func TestANoteIsNotSaidAgainBackwards(t *testing.T) {
	f, _ := compile(
		t,
		script(
			reveal.Step{
				ID:       "a",
				Duration: 2 * s,
				Cues: []reveal.Cue{
					noteCue("1", "Once", 0, s, "rotor"),
					pull("p", 0, s, reveal.OwnAxes, space.Vec3{0, 0, 1}, 9, "rotor"),
				},
			},
			reveal.Step{ID: "b", Duration: s, Retrace: &reveal.Retrace{Steps: []reveal.StepID{"a"}}},
		),
	)
	back := 0
	for _, b := range f.Schedule.Bars {
		if b.Retraced {
			back++
			assert.Equal(t, reveal.KindPull, b.Kind)
		}
	}
	assert.Equal(t, 1, back)
}

// The words of a step go before those of the next come; they stand in full at the end of their step, and the
// first are there from the beginning.
func TestWordsMakeRoomForTheNext(t *testing.T) {
	a := demo.Pump().Assembly
	r := demo.Teardown(a)
	r.Steps[1].Muted = true
	for i := range r.Steps {
		r.Steps[i].Retrace = nil
	}
	f := film.Compile(a, r)
	spans := f.Schedule.Steps
	step, o := f.Caption(0)
	assert.Equal(t, []any{0, 1.0}, []any{step, o})
	for i := range spans {
		if spans[i].Muted {
			continue
		}
		step, o = f.Caption(spans[i].Start + spans[i].Duration - 1)
		assert.Equal(t, []any{i, 1.0}, []any{step, o})
	}
	// Over the border into step 2, whose neighbour is switched off: down to nothing, then up.
	last, went := 1.0, false
	for at := spans[2].Start; at < spans[2].Start+400_000; at += 20_000 {
		step, o = f.Caption(at)
		if step == 0 {
			assert.False(t, went)
			assert.LessOrEqual(t, o, last)
		} else {
			assert.Equal(t, 2, step)
			if went {
				assert.GreaterOrEqual(t, o, last)
			}
			went = true
		}
		last = o
	}
	assert.True(t, went)
}

// Two cards whose times overlap are never over each other: the first is gone when the second comes.
func TestCardsAreNotOverEachOther(t *testing.T) {
	card := func(id string, at, length reveal.Micros) reveal.Cue {
		return reveal.Cue{
			ID:       reveal.CueID(id),
			Kind:     reveal.KindCard,
			Offset:   at,
			Duration: length,
			Easing:   reveal.Linear,
			Card:     &reveal.Card{Title: id},
		}
	}
	f, fr := compile(
		t,
		script(
			reveal.Step{ID: "a", Duration: 6 * s, Cues: []reveal.Cue{card("first", s, 3*s), card("second", 2*s, 3*s)}},
		),
	)
	seen := map[string]float64{}
	for at := reveal.Micros(0); at <= 6*s; at += s / 50 {
		f.At(at, fr)
		require.LessOrEqual(t, len(fr.Cards), 1, "at %d", at)
		for _, c := range fr.Cards {
			seen[c.Title] = max(seen[c.Title], c.Opacity)
		}
	}
	assert.Equal(t, map[string]float64{"first": 1, "second": 1}, seen)
}
