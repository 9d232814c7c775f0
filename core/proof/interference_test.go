package proof_test

import (
	"context"
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/product"
	"slowreveal/core/proof"
	"slowreveal/core/reveal"
	"slowreveal/core/solid"
	"slowreveal/core/solid/simple"
	"slowreveal/core/space"
	"slowreveal/formats"
)

const s = reveal.Second

// screw is a rod of a radius, with a head on top.
func screw(radius, length, head float64) solid.Mesh {
	shank, top := simple.Sleeve(0, radius, length, 24), simple.Sleeve(0, head, 2, 24)
	first := uint32(len(shank.Positions) / 3)
	for i, v := range top.Positions {
		if i%3 == 2 {
			v += float32(length)
		}
		shank.Positions = append(shank.Positions, v)
	}
	for _, v := range top.Triangles {
		shank.Triangles = append(shank.Triangles, first+v)
	}
	return shank
}

// part is a body at a place.
type part struct {
	name string
	mesh solid.Mesh
	at   space.Vec
}

// scene is an assembly of parts side by side.
func scene(t *testing.T, parts ...part) *product.Model {
	t.Helper()
	b := formats.NewBuilder(context.Background(), formats.Options{Name: "scene"}, "computed")
	finish := b.Finish(formats.DefaultFinish)
	root := b.Node(-1, assembly.Node{Name: "scene", Shape: -1, Pose: assembly.PoseOf(space.Identity)})
	for _, p := range parts {
		shape, err := b.Mesh(p.name, p.mesh)
		require.NoError(t, err)
		b.Node(
			root,
			assembly.Node{
				Name:     p.name,
				Shape:    shape,
				Finishes: []int{finish},
				Pose:     assembly.PoseOf(space.Translation(p.at)),
			},
		)
	}
	m, err := b.Model()
	require.NoError(t, err)
	return m
}

func pull(id string, at, length reveal.Micros, along space.Vec3, mm float64, targets ...assembly.NodeID) reveal.Cue {
	return reveal.Cue{
		ID:       reveal.CueID(id),
		Kind:     reveal.KindPull,
		Targets:  targets,
		Offset:   at,
		Duration: length,
		Easing:   reveal.Linear,
		Pull:     &reveal.Pull{Axes: reveal.AssemblyAxes, Along: along, Distance: mm},
	}
}

func turn(
	id string,
	at, length reveal.Micros,
	pivot space.Vec3,
	degrees float64,
	targets ...assembly.NodeID,
) reveal.Cue {
	return reveal.Cue{
		ID:       reveal.CueID(id),
		Kind:     reveal.KindTurn,
		Targets:  targets,
		Offset:   at,
		Duration: length,
		Easing:   reveal.Linear,
		Turn:     &reveal.Turn{Axes: reveal.AssemblyAxes, About: space.Vec3{0, 0, 1}, Pivot: pivot, Degrees: degrees},
	}
}

func compiled(t *testing.T, m *product.Model, cues ...reveal.Cue) *film.Film {
	t.Helper()
	r := reveal.New("test", reveal.Camera{Orientation: space.NoRotation, Distance: 300, FocalLength: 50})
	r.Steps = []reveal.Step{{ID: "a", Title: "a", Duration: 4 * s, Cues: cues}}
	require.NoError(t, reveal.Validate(r, m.Assembly))
	return film.Compile(m.Assembly, r)
}

func found(t *testing.T, m *product.Model, cues ...reveal.Cue) []proof.Overlap {
	t.Helper()
	return report(t, m, proof.Settings{}, cues...).List
}

func report(t *testing.T, m *product.Model, settings proof.Settings, cues ...reveal.Cue) proof.Overlaps {
	t.Helper()
	r, err := proof.Interference(t.Context(), compiled(t, m, cues...), m.Shapes, settings)
	require.NoError(t, err)
	return r
}

// A block 14.2 mm above another goes down by 16.2 mm in two seconds: it is 0.1 mm in the other after 14.3 mm, and 2 mm
// in the end.
func TestABlockGoesIntoAnother(t *testing.T) {
	m := scene(
		t,
		part{"base", simple.Block(20, 20, 20), space.Vec{}},
		part{"block", simple.Block(8, 8, 8), space.Vec{X: 6, Y: 6, Z: 34.2}},
	)
	list := found(t, m, pull("down", 0, 2*s, space.Vec3{0, 0, -1}, 16.2, "block"))
	require.Len(t, list, 1)
	f := list[0]
	assert.InDelta(t, 14.3/16.2*2e6, float64(f.From), 0.03/16.2*2e6)
	assert.Equal(t, 2*s, f.To, "from then on nothing moves")
	assert.InDelta(t, 1.9, f.Depth, 0.11)
	assert.Equal(t, []reveal.CueID{"down"}, f.Cues)
	assert.InDelta(t, 20, f.Place[2], 2.1)
	assert.Equal(t, [2]assembly.NodeID{"base", "block"}, [2]assembly.NodeID{f.Still, f.Moving})
	assert.Empty(t, found(t, m, pull("down", 0, 2*s, space.Vec3{0, 0, -1}, 14.2, "block")), "it lies on it")
	assert.Empty(t, found(t, m, pull("up", 0, 2*s, space.Vec3{0, 0, 1}, 60, "block")))
}

// A sheet of 0.3 mm is gone through in 1/2000 of a second: less than a frame.
func TestNothingIsSteppedOver(t *testing.T) {
	m := scene(
		t,
		part{"sheet", simple.Block(60, 60, 0.3), space.Vec{X: -30, Y: -30}},
		part{"ball", simple.Block(2, 2, 2), space.Vec{Z: 30}},
	)
	list := found(t, m, pull("through", s, 100_000, space.Vec3{0, 0, -1}, 400, "ball"))
	require.Len(t, list, 1)
	at := func(mm float64) float64 { return 1e6 + mm/400*1e5 }
	assert.InDelta(t, at(29.8), float64(list[0].From), 60)
	assert.InDelta(t, at(32-0.1), float64(list[0].To), 60)
}

// A door with a face 2 mm from its hinge reaches the corner (1, 10) of a post where 10 cos φ − sin φ = 2, 72.8°; 0.1 mm
// into it where that is 1.9.
func TestADoorStrikesAPost(t *testing.T) {
	m := scene(
		t,
		part{"door", simple.Block(20, 2, 20), space.Vec{}},
		part{"post", simple.Block(2, 2, 20), space.Vec{X: -1, Y: 10}},
	)
	list := found(t, m, turn("open", 0, 2*s, space.Vec3{}, 90, "door"))
	require.Len(t, list, 1)
	angle := (math.Acos(1.9/math.Sqrt(101)) - math.Atan(0.1)) * 180 / math.Pi
	assert.InDelta(t, angle/90*2e6, float64(list[0].From), 6000)
	assert.Empty(t, found(t, m, turn("open", 0, 2*s, space.Vec3{}, 72, "door")))
	assert.Empty(
		t,
		found(t, m, turn("open", 0, 2*s, space.Vec3{}, -180, "door")),
		"the other way round it does not come there",
	)
}

// A screw turns in a bore of its own size and comes out, also where the bore was drawn with the core's diameter; it
// goes nowhere sideways.
func TestAScrewComesOutOfItsBore(t *testing.T) {
	for _, bore := range []float64{2, 1.8} {
		m := scene(
			t,
			part{"plate", simple.Sleeve(bore, 12, 6, 36), space.Vec{}},
			part{"screw", screw(2, 10, 4), space.Vec{Z: -4}},
		)
		out := reveal.Cue{
			ID:       "out",
			Kind:     reveal.KindUnscrew,
			Targets:  []assembly.NodeID{"screw"},
			Duration: 2 * s,
			Easing:   reveal.Smooth,
			Unscrew:  &reveal.Unscrew{Axes: reveal.AssemblyAxes, Along: space.Vec3{0, 0, 1}, Turns: 12, Lead: 0.7},
		}
		assert.Empty(t, found(t, m, out, pull("away", 2*s, s, space.Vec3{0, 0, 1}, 40, "screw")), "bore %g", bore)
		list := found(t, m, pull("aside", 0, s, space.Vec3{1, 0, 0}, 3, "screw"))
		require.Len(t, list, 1, "bore %g", bore)
		assert.Greater(t, list[0].Depth, 1.0)
		in := found(t, m, pull("in", 0, s, space.Vec3{0, 0, -1}, 1, "screw"))
		require.Len(t, in, 1, "the head goes into the plate")
		assert.InDelta(t, 0.9, in[0].Depth, 0.35)
	}
}

// A cover that leaves before its screws goes through their heads; parts that one cue takes along are never asked.
func TestACoverThatLeavesBeforeItsScrew(t *testing.T) {
	m := scene(
		t,
		part{"base", simple.Block(40, 40, 10), space.Vec{X: -20, Y: -20, Z: -10}},
		part{"cover", simple.Sleeve(2.2, 18, 3, 36), space.Vec{}},
		part{"screw", screw(2, 9, 4), space.Vec{Z: -6}},
	)
	up := space.Vec3{0, 0, 1}
	list := found(t, m, pull("cover", 0, s, up, 30, "cover"), pull("screw", s, s, up, 60, "screw"))
	require.NotEmpty(t, list)
	assert.Equal(t, [2]assembly.NodeID{"cover", "screw"}, [2]assembly.NodeID{list[0].Still, list[0].Moving})
	r := report(t, m, proof.Settings{}, pull("screw", 0, s, up, 60, "screw"), pull("cover", s, s, up, 30, "cover"))
	assert.Empty(t, r.List)
	together := report(t, m, proof.Settings{}, pull("both", 0, s, up, 30, "cover", "screw"))
	assert.Empty(t, together.List)
	assert.Equal(t, 3, together.All)
	assert.LessOrEqual(t, together.Pairs, 2, "cover and screw never move against each other")
}

// What is not there is in nobody's way; what is see-through is, unless that is chosen.
func TestOnlyWhatIsThereCounts(t *testing.T) {
	m := scene(
		t,
		part{"base", simple.Block(20, 20, 20), space.Vec{}},
		part{"block", simple.Block(8, 8, 8), space.Vec{X: 6, Y: 6, Z: 30}},
	)
	into := pull("down", s, s, space.Vec3{0, 0, -1}, 14, "block")
	fade := func(to float64) reveal.Cue {
		return reveal.Cue{
			ID:       "fade",
			Kind:     reveal.KindFade,
			Targets:  []assembly.NodeID{"base"},
			Duration: s / 2,
			Easing:   reveal.Linear,
			Fade:     &reveal.Fade{To: to},
		}
	}
	assert.Len(t, found(t, m, into), 1)
	assert.Empty(t, found(t, m, fade(0), into))
	assert.Len(t, found(t, m, fade(0.3), into), 1)
	r := report(t, m, proof.Settings{SolidOnly: true}, fade(0.3), into)
	assert.Empty(t, r.List)

	// What comes to be seen where it lies in another one is found, from then on, though nothing moves any more.
	back := fade(1)
	back.ID, back.Offset = "back", 3*s
	list := found(t, m, fade(0), into, back)
	require.Len(t, list, 1)
	assert.Equal(t, 3*s, list[0].From)
	assert.Equal(t, 4*s, list[0].To)
	assert.Positive(t, list[0].Depth)
	assert.Equal(t, []reveal.CueID{"down"}, list[0].Cues)
	// And what leaves the picture while it lies there is found until then.
	out := fade(0)
	out.Offset = 2 * s
	list = found(t, m, into, out)
	require.Len(t, list, 1)
	assert.Greater(t, list[0].From, s)
	assert.LessOrEqual(t, list[0].To, 5*s/2)
}

// What was not looked at is named, and takes no time.
func TestWhatIsNotLookedAtIsNamed(t *testing.T) {
	parts := make([]part, 1100)
	for i := range parts {
		parts[i] = part{name: fmt.Sprint("part ", i), mesh: simple.Block(2, 2, 2)}
	}
	m := scene(t, parts...)
	r := report(t, m, proof.Settings{}, pull("one", 0, s, space.Vec3{0, 0, 1}, 30, "part-3"))
	assert.Equal(t, 1100*1099/2, r.All)
	assert.Equal(t, 1100*1099/2-500_000, r.Beyond)
	require.NotEmpty(t, r.Passed, "they lie in one another at rest")
	assert.Contains(t, r.Passed[0].Why, "at rest")
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	_, err := proof.Interference(ctx, compiled(t, m), m.Shapes, proof.Settings{})
	assert.ErrorIs(t, err, context.Canceled)
}

// A block without a bottom, and one that is inside out, are run into all the same.
func TestBodiesThatAreNone(t *testing.T) {
	open, turned := simple.Block(20, 20, 20), simple.Block(20, 20, 20)
	open.Triangles = open.Triangles[6:]
	for i := 0; i < len(turned.Triangles); i += 3 {
		turned.Triangles[i], turned.Triangles[i+1] = turned.Triangles[i+1], turned.Triangles[i]
	}
	for name, mesh := range map[string]solid.Mesh{"open": open, "inside out": turned} {
		m := scene(
			t,
			part{"base", mesh, space.Vec{}},
			part{"block", simple.Block(8, 8, 8), space.Vec{X: 6, Y: 6, Z: 34.2}},
		)
		list := found(t, m, pull("down", 0, 2*s, space.Vec3{0, 0, -1}, 20, "block"))
		require.Len(t, list, 1, name)
		assert.InDelta(t, 14.2/20*2e6, float64(list[0].From), 0.2/20*2e6, name)
	}
}

// A cue that outruns its step is run backwards while it still runs forwards: that is no less looked at, and ends.
func TestACueThatIsRetracedWhileItRuns(t *testing.T) {
	m := scene(
		t,
		part{"door", simple.Block(20, 2, 20), space.Vec{}},
		part{"post", simple.Block(2, 2, 20), space.Vec{X: -1, Y: 10}},
	)
	r := reveal.New("test", reveal.Camera{Orientation: space.NoRotation, Distance: 300, FocalLength: 50})
	r.Steps = []reveal.Step{
		{
			ID:       "a",
			Title:    "a",
			Duration: 2 * s,
			Cues: []reveal.Cue{
				turn("open", 0, 4*s, space.Vec3{}, 60, "door"),
				turn("post", 0, 3*s, space.Vec3{0, 30, 0}, 10, "post"),
			},
		},
		{ID: "b", Title: "b", Duration: 4 * s, Retrace: &reveal.Retrace{Steps: []reveal.StepID{"a"}}},
	}
	require.NoError(t, reveal.Validate(r, m.Assembly))
	found, err := proof.Interference(t.Context(), film.Compile(m.Assembly, r), m.Shapes, proof.Settings{})
	require.NoError(t, err)
	assert.Equal(t, 1, found.Pairs)
	assert.Empty(t, found.Passed)
}
