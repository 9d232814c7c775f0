package film_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

func vec(x, y, z float64) space.Vec { return space.Vec{X: x, Y: y, Z: z} }

func near(t *testing.T, want, got space.Vec, within float64) {
	t.Helper()
	assert.LessOrEqual(t, r3.Norm(r3.Sub(want, got)), within, "want %v, got %v", want, got)
}

func routeCue(radius float64, legs ...reveal.Leg) reveal.Cue {
	return reveal.Cue{
		ID:       "route",
		Kind:     reveal.KindRoute,
		Targets:  []assembly.NodeID{"rotor"},
		Duration: 4 * s,
		Easing:   reveal.Linear,
		Route:    &reveal.Route{Axes: reveal.AssemblyAxes, Legs: legs, Radius: radius},
	}
}

func TestARouteRunsItsLegsByTheirShares(t *testing.T) {
	f, fr := compile(t, script(reveal.Step{ID: "a", Duration: 5 * s, Cues: []reveal.Cue{
		routeCue(
			0,
			reveal.Leg{Along: space.Vec3{0, 0, 2}, Distance: 60, Share: 3},
			reveal.Leg{Along: space.Vec3{1, 0, 0}, Distance: -20},
		)}}))
	at := func(time reveal.Micros) space.Vec {
		f.At(time, fr)
		return r3.Sub(fr.World[4].T, vec(0, 0, -40))
	}
	near(t, vec(0, 0, 20), at(s), 1e-9)
	near(t, vec(0, 0, 60), at(3*s), 1e-9)
	near(t, vec(-10, 0, 60), at(3*s+s/2), 1e-9)
	assert.Equal(t, vec(-20, 0, 60), at(4*s))
	assert.Equal(t, vec(-20, 0, 60), at(5*s))
}

// A rounded corner stays within its radius of the corner, touches both legs, and
// never jumps or turns sharply.
func TestARoundedRouteIsSmooth(t *testing.T) {
	const radius = 10
	f, fr := compile(t, script(reveal.Step{ID: "a", Duration: 4 * s, Cues: []reveal.Cue{
		routeCue(
			radius,
			reveal.Leg{Along: space.Vec3{0, 0, 1}, Distance: 40},
			reveal.Leg{Along: space.Vec3{1, 0, 0}, Distance: 40},
		)}}))
	var last, way space.Vec
	corner := vec(0, 0, 0)
	for k := range 401 {
		f.At(reveal.Micros(k)*s/100, fr)
		p := fr.World[4].T
		onLeg := math.Abs(p.X) < 1e-9 || math.Abs(p.Z) < 1e-9
		assert.True(t, onLeg || r3.Norm(r3.Sub(p, corner)) < radius+1e-9, "at %v", p)
		if k > 1 {
			step := r3.Sub(p, last)
			assert.Less(t, r3.Norm(step), 0.21, "0.2 mm a step on a leg, less in the bend")
			assert.Greater(t, r3.Dot(step, way), 0.9*r3.Norm(step)*r3.Norm(way), "no sharp corner at %v", p)
		}
		if k > 0 {
			way = r3.Sub(p, last)
		}
		last = p
	}
	near(t, vec(40, 0, 0), last, 1e-9)
	f.At(2*s, fr)
	// The parabola's middle lies half way between the corner and its chord.
	near(t, vec(radius/4.0, 0, -radius/4.0), fr.World[4].T, 1e-9)
}

func TestAPullInAPlaneGoesBothWaysAtOnce(t *testing.T) {
	c := pull("p", 0, s, reveal.AssemblyAxes, space.Vec3{0, 0, 1}, 30, "rotor")
	c.Pull.Secondary = &reveal.Leg{Along: space.Vec3{0, 1, 0}, Distance: -4}
	f, fr := compile(t, script(reveal.Step{ID: "a", Duration: s, Cues: []reveal.Cue{c}}))
	f.At(s, fr)
	assert.Equal(t, vec(0, -4, -10), fr.World[4].T)
	f.At(s/2, fr)
	near(t, vec(0, -2, -25), fr.World[4].T, 1e-9)
}

// A twin follows every change of the cue that it shares; parted it would not.
func TestATwinIsAsIfItsSettingsWereWrittenOut(t *testing.T) {
	original := pull("p", 0, s, reveal.OwnAxes, space.Vec3{0, 0, 1}, 30, "cover/screw")
	original.Stagger, original.Flow = s/10, &reveal.FlowLine{Of: reveal.FlowEach}
	twin := reveal.Cue{
		ID:      "t",
		Kind:    reveal.KindPull,
		Twin:    "p",
		Targets: []assembly.NodeID{"rotor", "cover/screw~2"},
		Offset:  s / 2,
	}
	written := original
	written.ID, written.Targets, written.Offset = "t", twin.Targets, twin.Offset
	steps := func(c reveal.Cue) *reveal.Reveal {
		return script(
			reveal.Step{ID: "a", Duration: 2 * s, Cues: []reveal.Cue{original}},
			reveal.Step{ID: "b", Duration: 2 * s, Cues: []reveal.Cue{c}},
		)
	}
	f, fr := compile(t, steps(twin))
	g, gr := compile(t, steps(written))
	for at := reveal.Micros(0); at <= 4*s; at += s / 7 {
		f.At(at, fr)
		g.At(at, gr)
		require.Equal(t, gr.Digest(), fr.Digest())
	}
	assert.Equal(t, s+s/10, f.Schedule.Bars[1].Duration)
	assert.Equal(t, "30 mm", f.Schedule.Bars[1].Label)
	assert.True(t, f.Schedule.Bars[1].Twin)
}

// With a speed the way back lasts as long as it takes, and parts are home to the
// bit; a change of the way out changes both.
func TestARetraceAtASpeedFollowsWhatItRuns(t *testing.T) {
	out := pull("p", 0, s, reveal.OwnAxes, space.Vec3{0.3, 0.1, 1}, 33.3, "rotor")
	back := reveal.Step{ID: "b", Duration: 9 * s, Retrace: &reveal.Retrace{Steps: []reveal.StepID{"a"}, Speed: 2}}
	for _, length := range []reveal.Micros{s, 3 * s} {
		out.Duration = length
		f, fr := compile(t, script(reveal.Step{ID: "a", Duration: 2 * s, Cues: []reveal.Cue{out}}, back))
		extent := max(2*s, length)
		assert.Equal(t, 2*s+extent/2, f.Duration())
		f.At(f.Duration(), fr)
		assert.Equal(t, vec(0, 0, -40), fr.World[4].T)
		assert.Equal(t, extent/2, f.Schedule.Steps[1].Duration)
	}
}

func TestFlowLinesFollowTheRealWay(t *testing.T) {
	turn := reveal.Cue{
		ID:       "t",
		Kind:     reveal.KindTurn,
		Targets:  []assembly.NodeID{"rotor"},
		Duration: s,
		Easing:   reveal.Linear,
		Turn: &reveal.Turn{
			Axes:    reveal.AssemblyAxes,
			About:   space.Vec3{0, 1, 0},
			Degrees: 180,
		},
		Flow: &reveal.FlowLine{Of: reveal.FlowEach},
	}
	f, fr := compile(t, script(reveal.Step{ID: "a", Duration: s, Cues: []reveal.Cue{turn}}))
	f.At(s, fr)
	length := 0.0
	for i, piece := range fr.Flow {
		assert.InDelta(t, length, piece.Start, 1e-9)
		length += r3.Norm(r3.Sub(piece.To, piece.From))
		assert.InDelta(t, 40, r3.Norm(piece.To), 1e-9, "on the circle")
		if i > 0 {
			assert.Equal(t, fr.Flow[i-1].To, piece.From)
		}
	}
	assert.InDelta(t, math.Pi*40, length, 0.2, "half a circle of radius 40")
	f.At(s/2, fr)
	near(t, vec(-40, 0, 0), fr.Flow[len(fr.Flow)-1].To, 1e-9)
}

func TestAFlowLineCanBeOfPartsOfAllAndAPieceOfTheWay(t *testing.T) {
	lines := func(of reveal.FlowOf, from, to float64) (ends []space.Vec) {
		c := pull("p", 0, s, reveal.AssemblyAxes, space.Vec3{0, 0, 1}, 30, "cover", "rotor")
		c.Flow = &reveal.FlowLine{Of: of, From: from, To: to}
		f, fr := compile(t, script(reveal.Step{ID: "a", Duration: s, Cues: []reveal.Cue{c}}))
		f.At(s, fr)
		for _, l := range fr.Flow {
			ends = append(ends, l.From, l.To)
		}
		return ends
	}
	assert.Len(t, lines(reveal.FlowEach, 0, 0), 4)
	parts := lines(reveal.FlowPart, 0, 0)
	require.Len(t, parts, 8, "the cover, its two screws, the rotor")
	assert.Equal(t, vec(5, 5, 0), parts[2])
	assert.Equal(t, vec(5, 5, 30), parts[3])
	cut := lines(reveal.FlowPart, 0.5, 0.75)
	assert.Equal(t, vec(5, 5, 15), cut[2])
	assert.Equal(t, vec(5, 5, 22.5), cut[3])
	all := lines(reveal.FlowAll, 0, 0)
	require.Len(t, all, 2)
	near(t, vec(0, 0, 30), r3.Sub(all[1], all[0]), 1e-9)
}

// Strokes of a bent line run on over its corners.
func TestDashesRunOnOverCorners(t *testing.T) {
	drawn := func(pieces ...film.Segment) (length float64, n int) {
		for _, p := range pieces {
			p.Opacity = 1
			p.Dashes(4, func(a, b space.Vec) { length += r3.Norm(r3.Sub(b, a)); n++ })
		}
		return length, n
	}
	whole, _ := drawn(film.Segment{To: vec(60, 0, 0)})
	bent, _ := drawn(film.Segment{To: vec(17, 0, 0)}, film.Segment{From: vec(17, 0, 0), To: vec(17, 43, 0), Start: 17})
	assert.InDelta(t, whole, bent, 1e-9)
	solid, n := drawn(film.Segment{To: vec(60, 0, 0), Line: reveal.Solid})
	assert.Equal(t, 1, n)
	assert.InDelta(t, 60, solid, 1e-9)
	dotted, n := drawn(film.Segment{To: vec(60, 0, 0), Line: reveal.Dotted})
	assert.Equal(t, 30, n)
	assert.InDelta(t, 60*0.24, dotted, 0.5)
}

// What the opening takes over from a moment looks like that moment, cues or no.
func TestAMomentCanBecomeTheOpening(t *testing.T) {
	turn := reveal.Cue{
		ID:       "t",
		Kind:     reveal.KindTurn,
		Targets:  []assembly.NodeID{"cover"},
		Duration: s,
		Easing:   reveal.Smooth,
		Turn:     &reveal.Turn{Axes: reveal.OwnAxes, About: space.Vec3{0, 1, 1}, Degrees: 77},
	}
	cue := func(id string, kind reveal.Kind, target assembly.NodeID) reveal.Cue {
		return reveal.Cue{
			ID:       reveal.CueID(id),
			Kind:     kind,
			Targets:  []assembly.NodeID{target},
			Duration: s,
			Easing:   reveal.Linear,
		}
	}
	fade := cue("f", reveal.KindFade, "cover")
	tint := cue("c", reveal.KindTint, "cover")
	surface := cue("s", reveal.KindSurface, "rotor")
	fade.Fade, tint.Tint, surface.Surface = &reveal.Fade{
		To: 0.4,
	}, &reveal.Tint{
		Colour: space.Vec3{1, 0, 0},
		Amount: 0.5,
	}, &reveal.Surface{
		Style: reveal.EdgesOnly,
	}
	f, fr := compile(t, script(reveal.Step{ID: "a", Duration: 2 * s, Cues: []reveal.Cue{turn, fade, tint, surface,
		pull("p", 0, s, reveal.OwnAxes, space.Vec3{0, 0, 1}, 12, "cover/screw")}}))
	f.At(2*s, fr)
	r := script(reveal.Step{ID: "a", Duration: 2 * s})
	r.Opening = f.Opening(2 * s)
	g, gr := compile(t, r)
	g.At(0, gr)
	for i := range fr.World {
		near(t, fr.World[i].T, gr.World[i].T, 1e-9)
		for k := range 9 {
			assert.InDelta(t, fr.World[i].R[k], gr.World[i].R[k], 1e-12)
		}
	}
	assert.Equal(t, fr.Opacity, gr.Opacity)
	assert.Equal(t, fr.Tint, gr.Tint)
	assert.Equal(t, fr.Surface, gr.Surface)
	assert.Len(t, r.Opening.Poses, 2)
	assert.Len(t, r.Opening.Tints, 1)
}

func TestASurfaceChangesSmoothlyAndForAllThatIsInIt(t *testing.T) {
	to := func(id string, at reveal.Micros, style reveal.Style, target assembly.NodeID) reveal.Cue {
		return reveal.Cue{
			ID:       reveal.CueID(id),
			Kind:     reveal.KindSurface,
			Targets:  []assembly.NodeID{target},
			Offset:   at,
			Duration: s,
			Easing:   reveal.Linear,
			Surface:  &reveal.Surface{Style: style},
		}
	}
	f, fr := compile(
		t,
		script(
			reveal.Step{
				ID:       "a",
				Duration: 4 * s,
				Cues: []reveal.Cue{
					to("a", 0, reveal.SeeThrough, "cover"),
					to("b", 2*s, reveal.ShadedEdges, "cover/screw"),
				},
			},
		),
	)
	f.At(s/2, fr)
	assert.Equal(t, film.Surface{Flat: 0.5, Faces: 0.5, Edges: 1}, fr.Surface[1])
	assert.Equal(t, fr.Surface[1], fr.Surface[2])
	f.At(4*s, fr)
	assert.Equal(t, film.Surface{Flat: 1, Faces: 0, Edges: 1}, fr.Surface[3])
	assert.Equal(t, film.UsualSurface, fr.Surface[2])
	assert.Equal(t, film.UsualSurface, fr.Surface[4])
}

func TestCardsComeAndGoSoftly(t *testing.T) {
	card := func(at reveal.Micros) reveal.Cue {
		return reveal.Cue{
			ID:       "card",
			Kind:     reveal.KindCard,
			Offset:   at,
			Duration: 2 * s,
			Easing:   reveal.Linear,
			Card:     &reveal.Card{Title: "DP-40"},
		}
	}
	f, fr := compile(t, script(reveal.Step{ID: "a", Duration: 4 * s, Cues: []reveal.Cue{card(s)}}))
	seen := func(at reveal.Micros) float64 {
		f.At(at, fr)
		if len(fr.Cards) == 0 {
			return 0
		}
		return fr.Cards[0].Opacity
	}
	assert.Zero(t, seen(s))
	assert.InDelta(t, 0.5, seen(s+200_000), 1e-9)
	assert.Equal(t, 1.0, seen(2*s))
	assert.Zero(t, seen(3*s))
	f, fr = compile(t, script(reveal.Step{ID: "a", Duration: 4 * s, Cues: []reveal.Cue{card(0)}}))
	assert.Equal(t, 1.0, seen(0), "a film that opens with a card opens with it in full")
}

// A turn about another part's axis finds it where that part has gone by then: the
// rotor turns about the screw's line after the screw was pulled out and turned
// aside. Closed form: the centre keeps its distance from the moved pivot.
func TestATurnAboutAPivotThatHasItselfMoved(t *testing.T) {
	turn := reveal.Cue{
		ID:       "t",
		Kind:     reveal.KindTurn,
		Targets:  []assembly.NodeID{"rotor"},
		Of:       "cover/screw",
		Offset:   2 * s,
		Duration: s,
		Easing:   reveal.Linear,
		Turn: &reveal.Turn{
			Axes:    reveal.ReferenceAxes,
			About:   space.Vec3{0, 1, 0},
			Pivot:   space.Vec3{1, 0, 0},
			Degrees: 90,
		},
	}
	swing := reveal.Cue{
		ID:       "w",
		Kind:     reveal.KindTurn,
		Targets:  []assembly.NodeID{"cover"},
		Offset:   s,
		Duration: s,
		Easing:   reveal.Smooth,
		Turn:     &reveal.Turn{Axes: reveal.OwnAxes, About: space.Vec3{0, 0, 1}, Degrees: 90},
	}
	out := pull("p", 0, s, reveal.OwnAxes, space.Vec3{0, 0, 1}, 30, "cover/screw")
	// moves it while the rotor turns: too late to count
	later := pull("l", 2*s, s, reveal.OwnAxes, space.Vec3{1, 0, 0}, 50, "cover/screw")
	f, fr := compile(t, script(reveal.Step{ID: "a", Duration: 4 * s, Cues: []reveal.Cue{turn, swing, out, later}}))
	// The screw's seat (5, 5, 30) is swung to (−5, 5, 30); its own X points up then,
	// its own Y to the left.
	pivot, axis, start := vec(-5, 6, 30), vec(-1, 0, 0), vec(0, 0, -40)
	f.At(2*s, fr)
	near(t, start, fr.World[4].T, 1e-9)
	for k := range 11 {
		f.At(2*s+reveal.Micros(k)*s/10, fr)
		about := space.TurnAbout(pivot, axis, 9*float64(k))
		near(t, about.Apply(start), fr.World[4].T, 1e-9)
	}
}

func TestARouteInBorrowedAxesIsTheRouteTurned(t *testing.T) {
	c := routeCue(
		5,
		reveal.Leg{Along: space.Vec3{1, 0, 0}, Distance: 40},
		reveal.Leg{Along: space.Vec3{0, 0, 1}, Distance: 20},
	)
	c.Of, c.Route.Axes = "cover/screw~2", reveal.ReferenceAxes // turned by 90° about Y: its X is −Z, its Z is X
	f, fr := compile(t, script(reveal.Step{ID: "a", Duration: 4 * s, Cues: []reveal.Cue{c}}))
	f.At(4*s, fr)
	near(t, vec(20, 0, -80), fr.World[4].T, 1e-9)
	// The bend lasts from 0.4375 to 0.625; a third of it has passed.
	f.At(2*s, fr)
	near(t, vec(5.0/9, 0, -40-(35*4+40*4+40)/9.0), fr.World[4].T, 1e-9)
}
