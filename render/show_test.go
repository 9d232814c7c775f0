package render_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/film"
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
		fr.Tint[f.Assembly.Index()["housing/hood"]] = film.Tint{Colour: space.Triple{0.8, 0, 0}, Amount: 1}
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
		fr.Tint[f.Assembly.Index()["housing/hood"]] = film.Tint{Colour: space.Triple{0.8, 0, 0}}
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
	assert.Zero(t, differ(plain, line(middle, space.Vec{X: middle.X + 5, Y: middle.Y, Z: middle.Z}, 1)), "inside the housing it is hidden")
	assert.Zero(t, differ(plain, line(left, right, 0.1)), "of a part that is all but gone it is not drawn")
	assert.Zero(t, differ(plain, line(left, left, 1)), "nor without a length")
}

func TestANoteIsSetWhereTheFrameHasIt(t *testing.T) {
	c, err := render.NewCaptions(w, h)
	require.NoError(t, err)
	blank, p := render.NewPicture(w, h), render.NewPicture(w, h)
	note := film.Note{Lines: []string{"Sun gear", "12 teeth"}, AnchorX: 0.2, AnchorY: 0.8, X: 0.6, Y: 0.2, Width: 0.2, Height: 0.1, Opacity: 1}
	c.Notes(p, []film.Note{note})
	assert.Greater(t, differ(blank, p), 300)
	at := func(p *render.Picture, x, y float64) byte { return p.RGB[3*(int(y*float64(h))*w+int(x*float64(w)))] }
	inside := func(x, y float64) byte { return at(p, x, y) }
	assert.Greater(t, inside(0.79, 0.29), byte(200), "its paper")
	assert.NotZero(t, inside(0.2, 0.8), "its point")
	assert.Zero(t, inside(0.1, 0.1), "nothing elsewhere")
	faint := render.NewPicture(w, h)
	note.Opacity = 0.5
	c.Notes(faint, []film.Note{note})
	assert.Less(t, at(faint, 0.79, 0.29), inside(0.79, 0.29))
	off := render.NewPicture(w, h)
	note.X, note.AnchorX = -5, -7
	c.Notes(off, []film.Note{note}) // far outside: no harm done
	assert.Zero(t, differ(blank, off))
}
