package render_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/demo"
	"slowreveal/render"
)

const w, h = 320, 180

// stage draws the example at rest after change has had its way with the frame.
func stage(t *testing.T, change func(f *film.Film, fr *film.Frame)) *render.Picture {
	t.Helper()
	m := demo.Pump()
	f := film.Compile(m.Assembly, demo.Teardown(m.Assembly))
	scene, err := render.NewScene(m.Assembly, m.Shapes)
	require.NoError(t, err)
	r, err := render.NewRenderer(scene, w, h, 1)
	require.NoError(t, err)
	fr := f.NewFrame()
	f.At(0, fr)
	change(f, fr)
	view, p := scene.NewView(), render.NewPicture(w, h)
	view.Take(scene, fr, float64(w)/h)
	r.Draw(view, p)
	return p
}

func differ(a, b *render.Picture) (n int) {
	for i := 0; i < len(a.RGB); i += 3 {
		if a.RGB[i] != b.RGB[i] || a.RGB[i+1] != b.RGB[i+1] || a.RGB[i+2] != b.RGB[i+2] {
			n++
		}
	}
	return n
}

func TestATintReddensJustItsPart(t *testing.T) {
	plain := stage(t, func(*film.Film, *film.Frame) {})
	tinted := stage(t, func(f *film.Film, fr *film.Frame) {
		fr.Tint[f.Assembly.Index()["housing/hood"]] = film.Tint{Colour: space.Vec3{0.8, 0, 0}, Amount: 1}
	})
	n, red := 0, 0
	for i := 0; i < len(plain.RGB); i += 3 {
		if plain.RGB[i] == tinted.RGB[i] && plain.RGB[i+1] == tinted.RGB[i+1] && plain.RGB[i+2] == tinted.RGB[i+2] {
			continue
		}
		n++
		if int(tinted.RGB[i]) > int(tinted.RGB[i+1])+30 {
			red++
		}
	}
	require.Greater(t, n, 1500, "the hood is large")
	assert.Greater(t, red, n*9/10)
	none := stage(t, func(f *film.Film, fr *film.Frame) {
		fr.Tint[f.Assembly.Index()["housing/hood"]] = film.Tint{Colour: space.Vec3{0.8, 0, 0}}
	})
	assert.Zero(t, differ(plain, none), "an amount of nothing is nothing")
}

func TestFlowLinesAreDashesThatPartsHide(t *testing.T) {
	plain := stage(t, func(*film.Film, *film.Frame) {})
	b := demo.Pump().Assembly.Bounds()
	left, right := space.Vec{X: b.Min.X, Y: b.Max.Y + 8, Z: b.Max.Z}, space.Vec{X: b.Max.X, Y: b.Max.Y + 8, Z: b.Max.Z}
	middle := b.Centre()
	line := func(from, to space.Vec, opacity float64) *render.Picture {
		return stage(t, func(_ *film.Film, fr *film.Frame) {
			fr.Flow = []film.Segment{{From: from, To: to, Opacity: opacity}}
		})
	}
	above := line(left, right, 1)
	n := differ(plain, above)
	assert.Greater(t, n, 30)
	assert.Zero(
		t,
		differ(plain, line(middle, space.Vec{X: middle.X + 5, Y: middle.Y, Z: middle.Z}, 1)),
		"inside the housing it is hidden",
	)
	assert.Zero(t, differ(plain, line(left, right, 0.1)), "of a part that is all but gone it is not drawn")
	assert.Zero(t, differ(plain, line(left, left, 1)), "nor without a length")
}

// words counts the pixels in each quarter of a picture that hold ink: upper left,
// upper right, lower left, lower right.
func quarters(p *render.Picture) (n [4]int) {
	for y := range p.Height {
		for x := range p.Width {
			if i := 3 * (y*p.Width + x); p.RGB[i]|p.RGB[i+1]|p.RGB[i+2] != 0 {
				n[2*(2*y/p.Height)+2*x/p.Width]++
			}
		}
	}
	return n
}

// A part of see-through edges shows what is behind it, of edges only it does not.
func TestSurfacesAreDrawnInTheirWays(t *testing.T) {
	of := func(surface film.Surface) *render.Picture {
		return stage(t, func(f *film.Film, fr *film.Frame) { fr.Surface[f.Assembly.Index()["housing/hood"]] = surface })
	}
	usual := of(film.UsualSurface)
	shaded := of(film.Surface{Faces: 1})
	paper := of(film.Surface{Flat: 1, Faces: 1, Edges: 1})
	through := of(film.Surface{Flat: 1, Edges: 1})
	gone := stage(t, func(f *film.Film, fr *film.Frame) { fr.Opacity[f.Assembly.Index()["housing/hood"]] = 0 })
	assert.NotZero(t, differ(usual, shaded))
	assert.Less(t, differ(usual, shaded), differ(usual, paper)/2, "edges are few, faces many")
	assert.Less(t, differ(gone, through), differ(gone, paper)/2, "behind see-through edges everything is seen")
	assert.NotZero(t, differ(gone, through))
	// On the way nothing jumps: small steps of the amounts are small steps of the picture.
	last := usual
	for k := 1; k <= 20; k++ {
		u := float64(k) / 20
		now := of(film.Surface{Flat: u, Faces: 1 - u, Edges: 1})
		assert.Less(t, meanDifference(last, now), 3.5, "at %g", u)
		last = now
	}
	assert.Zero(t, differ(last, through))
}

func meanDifference(a, b *render.Picture) float64 {
	sum := 0.0
	for i := range a.RGB {
		d := float64(a.RGB[i]) - float64(b.RGB[i])
		sum += max(d, -d)
	}
	return sum / float64(len(a.RGB))
}

// The parallel picture is what a camera sees from very far away with a very long
// lens: an independent way to the same picture.
func TestParallelLinesOfSightAreThoseFromFarAway(t *testing.T) {
	seen := func(change func(c *reveal.Camera)) *render.Picture {
		return stage(t, func(_ *film.Film, fr *film.Frame) {
			for i := range fr.Surface { // edges are drawn nearer by a share of the distance
				fr.Surface[i].Edges = 0
			}
			change(&fr.Camera)
		})
	}
	parallel := seen(func(c *reveal.Camera) { c.Orthographic = true })
	far := seen(func(c *reveal.Camera) { c.Distance, c.FocalLength = c.Distance*400, c.FocalLength*400 })
	near := seen(func(*reveal.Camera) {})
	assert.Less(t, meanDifference(parallel, far), 0.6)
	assert.Greater(t, meanDifference(parallel, near), 3*meanDifference(parallel, far))
}

// What a note points at is hidden where something else lies before it: a board in the closed housing is, the door's
// knob is not, nor a point within a part that is seen itself.
func TestNotesKnowWhatIsHidden(t *testing.T) {
	m := demo.Pump()
	r := demo.Teardown(m.Assembly)
	nodes := []assembly.NodeID{"control-board", "pump-head/door/latch-knob", "housing"}
	index, boxes := m.Assembly.Index(), m.Assembly.BoundsOf()
	r.Steps = []reveal.Step{{ID: "a", Title: "a", Duration: 2 * reveal.Second}}
	for i, n := range nodes {
		require.Contains(t, index, n)
		r.Steps[0].Cues = append(
			r.Steps[0].Cues,
			reveal.Cue{
				ID:       reveal.CueID(rune('a' + i)),
				Kind:     reveal.KindNote,
				Targets:  nodes[i : i+1],
				Duration: 2 * reveal.Second,
				Easing:   reveal.Linear,
				Note:     &reveal.Note{Text: "here", At: space.Vec3Of(boxes[index[n]].Centre())},
			},
		)
	}
	f := film.Compile(m.Assembly, r)
	scene, err := render.NewScene(m.Assembly, m.Shapes)
	require.NoError(t, err)
	for _, parallel := range []bool{false, true} {
		draw, err := render.NewRenderer(scene, 320, 180, 0)
		require.NoError(t, err)
		fr, view := f.NewFrame(), scene.NewView()
		f.At(reveal.Second, fr)
		fr.Camera.Orthographic = parallel
		view.Take(scene, fr, 16.0/9)
		notes := f.NotesFor(fr, fr.Camera, 16.0/9)
		require.Len(t, notes, 3)
		picture := render.NewPicture(320, 180)
		for range 3 { // the later pictures are kept ones
			draw.Watch(notes)
			draw.Draw(view, picture)
			draw.MarkHidden(view, notes)
			for i, want := range []bool{true, false, false} {
				assert.Equal(t, want, notes[i].Hidden, "%s, parallel: %v", nodes[i], parallel)
			}
		}
	}
}
