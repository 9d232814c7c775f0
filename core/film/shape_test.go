package film_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/demo"
)

// What is wholly seen of the parts in the reveal's own frame while a shot stands is inside the safe area of every other
// shape; with fill some of it is cut off upright. Between shots it may be outside: the camera is on its way.
func TestWhatWasDirectedIsInFramesOfEveryShape(t *testing.T) {
	a := demo.Pump().Assembly
	r := demo.Teardown(a)
	own := film.Compile(a, r)
	assert.Same(t, own, own.Shaped(1280.0/720, false))
	boxes := a.BoundsOf()
	corners := func(fr *film.Frame, i int) (list []space.Vec) {
		b := boxes[i].Moved(&fr.World[i])
		for k := range 8 {
			list = append(list, b.Corner(k))
		}
		return list
	}
	var moments []reveal.Micros // at which shots stand
	for _, b := range own.Schedule.Bars {
		if b.Kind == reveal.KindShot && !b.Retraced {
			moments = append(moments, b.Start+b.Duration)
		}
	}
	moments = append(moments, 0)
	cut := 0
	for _, aspect := range []float64{1, 9.0 / 16, 4.0 / 5, 4.0 / 3, 21.0 / 9} {
		for _, fill := range []bool{false, true} {
			shaped := own.Shaped(aspect, fill)
			fr, other := own.NewFrame(), shaped.NewFrame()
			for _, at := range moments {
				own.At(at, fr)
				shaped.At(at, other)
				require.Equal(t, fr.World, other.World, "parts go where they go")
				before, after := film.ProjectionOf(fr.Camera, r.Frame.Aspect()), film.ProjectionOf(other.Camera, aspect)
				for i := range a.Nodes {
					if !a.Nodes[i].IsPart() || fr.Opacity[i] == 0 {
						continue
					}
					whole := true
					for _, c := range corners(fr, i) {
						x, y, front := before.Project(c)
						whole = whole && front && x >= 0 && x <= 1 && y >= 0 && y <= 1
					}
					if !whole {
						continue
					}
					for _, c := range corners(fr, i) {
						x, y, front := after.Project(c)
						inside := front && x >= 0.04 && x <= 0.96 && y >= 0.04 && y <= 0.96
						if fill {
							if x < 0 || x > 1 || y < 0 || y > 1 {
								cut++
							}
						} else {
							require.True(t, inside, "%s at %d in %.2f: %.3f, %.3f", a.Nodes[i].ID, at, aspect, x, y)
						}
					}
				}
			}
		}
	}
	assert.Greater(t, cut, 50)
}

// Notes are inside of every frame, apart from each other, and as large in words as the shorter side allows.
func TestNotesFitIntoFramesOfEveryShape(t *testing.T) {
	a := demo.Pump().Assembly
	own := film.Compile(a, demo.Teardown(a))
	seen := 0
	for _, aspect := range []float64{16.0 / 9, 1, 9.0 / 16, 21.0 / 9} {
		f := own.Shaped(aspect, false)
		fr := f.NewFrame()
		for at := reveal.Micros(0); at < f.Duration(); at += reveal.Second / 5 {
			f.At(at, fr)
			for i, n := range fr.Notes {
				seen++
				assert.GreaterOrEqual(t, n.X, 0.0499, "%.2f at %d", aspect, at)
				assert.LessOrEqual(t, n.X+n.Width, 0.9501, "%.2f at %d: %v", aspect, at, n.Lines)
				assert.GreaterOrEqual(t, n.Y, 0.0)
				assert.LessOrEqual(t, n.Y+n.Height, 1.0)
				for _, o := range fr.Notes[:i] {
					px, py := film.NoteAside/max(1, aspect), film.NoteAbove*min(1, aspect) // of the papers
					over := n.X-px < o.X+o.Width+px && o.X-px < n.X+n.Width+px && n.Y-py < o.Y+o.Height+py &&
						o.Y-py < n.Y+n.Height+py
					assert.False(t, over, "%.2f at %d: %v and %v", aspect, at, n.Lines, o.Lines)
				}
			}
		}
	}
	assert.Greater(t, seen, 200)
}

// A shot that has a camera for frames of one shape takes it in these, as it is, and nowhere else; frames of whole
// pixels are near enough to the shape.
func TestAShotMayBeFramedForOneShape(t *testing.T) {
	a := demo.Pump().Assembly
	r := demo.Teardown(a)
	var shot *reveal.Cue
	for i := range r.Steps {
		for k := range r.Steps[i].Cues {
			if c := &r.Steps[i].Cues[k]; shot == nil && c.Kind == reveal.KindShot && c.Shot.Follow == nil {
				shot = c
			}
		}
	}
	require.NotNil(t, shot)
	upright := shot.Shot.Camera
	upright.Distance, upright.FocalLength = 777, 35
	shot.Shot.Shapes = []reveal.Framing{{Across: 9, Down: 16, Camera: upright}}
	require.NoError(t, reveal.Validate(r, a))
	own := film.Compile(a, r)
	var end reveal.Micros
	for _, b := range own.Schedule.Bars {
		if b.Cue == shot.ID && !b.Retraced {
			end = b.Start + b.Duration
		}
	}
	camera := func(f *film.Film) reveal.Camera {
		fr := f.NewFrame()
		f.At(end, fr)
		return fr.Camera
	}
	assert.Equal(t, upright, camera(own.Shaped(9.0/16, false)))
	assert.Equal(t, upright, camera(own.Shaped(406.0/720, false)), "whole, even pixels")
	assert.Equal(t, upright, camera(own.Shaped(9.0/16, true)))
	assert.Equal(t, shot.Shot.Camera, camera(own))
	assert.NotEqual(t, upright.FocalLength, camera(own.Shaped(4.0/5, false)).FocalLength)
	shot.Shot.Shapes = append(shot.Shot.Shapes, shot.Shot.Shapes[0])
	assert.ErrorContains(t, reveal.Validate(r, a), "there are two for 9 : 16")
	shot.Shot.Shapes = []reveal.Framing{{Across: 9, Camera: upright}}
	assert.ErrorContains(t, reveal.Validate(r, a), "9 : 0 is not a shape")
}

// Notes leave alone a rectangle of the frame in which something else stands, wherever their parts go.
func TestNotesKeepOffWhatElseStandsInTheFrame(t *testing.T) {
	a := demo.Pump().Assembly
	own := film.Compile(a, demo.Teardown(a))
	lying := func(f *film.Film, left, top, right, bottom float64) (n, seen int) {
		fr := f.NewFrame()
		for at := reveal.Micros(0); at < f.Duration(); at += reveal.Second / 10 {
			f.At(at, fr)
			for _, note := range fr.Notes {
				seen++
				if note.X < right && note.X+note.Width > left && note.Y < bottom && note.Y+note.Height > top {
					n++
				}
			}
		}
		return n, seen
	}
	fr := own.NewFrame()
	for at := reveal.Micros(0); at < own.Duration(); at += reveal.Second {
		own.At(at, fr)
		for _, note := range fr.Notes { // just where a note would be
			left, top, right, bottom := note.X+0.01, note.Y+0.01, note.X+note.Width-0.01, note.Y+note.Height-0.01
			before, _ := lying(own, left, top, right, bottom)
			require.Positive(t, before)
			after, seen := lying(own.KeptFree(left, top, right, bottom), left, top, right, bottom)
			assert.Zero(t, after, "at %v", at)
			assert.Positive(t, seen)
		}
	}
}
