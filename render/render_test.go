package render_test

import (
	"bytes"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/film"
	"slowreveal/core/look"
	"slowreveal/core/reveal"
	"slowreveal/core/timecode"
	"slowreveal/demo"
	"slowreveal/render"
)

func pictures(t *testing.T, w, h, threads int, times ...reveal.Micros) []*render.Picture {
	t.Helper()
	m := demo.Pump()
	f := film.Compile(m.Assembly, demo.Teardown(m.Assembly))
	scene, err := render.NewScene(m.Assembly, m.Shapes)
	require.NoError(t, err)
	r, err := render.NewRenderer(scene, w, h, threads)
	require.NoError(t, err)
	view, fr := scene.NewView(), f.NewFrame()
	var out []*render.Picture
	for _, at := range times {
		p := render.NewPicture(w, h)
		f.At(at, fr)
		view.Take(scene, fr, float64(w)/float64(h))
		assert.True(t, view.Shows(scene, fr, float64(w)/float64(h)))
		r.Draw(view, p)
		out = append(out, p)
	}
	return out
}

func TestBytesDoNotDependOnThreadsOrHistory(t *testing.T) {
	s := reveal.Second
	one := pictures(t, 322, 182, 1, 3*s, 34*s, 12*s)
	four := pictures(t, 322, 182, 4, 12*s, 3*s, 34*s)
	assert.Equal(t, one[0].RGB, four[1].RGB)
	assert.Equal(t, one[1].RGB, four[2].RGB)
	assert.Equal(t, one[2].RGB, four[0].RGB)
	assert.NotEqual(t, one[0].RGB, one[1].RGB)
}

// Frame after frame, with what the renderer keeps of the one before, gives the
// same bytes as each frame drawn by a renderer that has never drawn anything.
func TestCoherentFramesAreThoseDrawnCold(t *testing.T) {
	m := demo.Pump()
	f := film.Compile(m.Assembly, demo.Teardown(m.Assembly))
	scene, err := render.NewScene(m.Assembly, m.Shapes)
	require.NoError(t, err)
	// Runs of neighbouring frames all over the film, the camera still in some; a few of them
	// large, where flat faces are shaded at every eighth pixel.
	for _, c := range []struct {
		w, h   int
		starts []float64
	}{{258, 146, []float64{0, 2.5, 6.2, 9, 12, 16.2, 20.5, 26.5, 32.2, 41.9}}, {1280, 720, []float64{2.5, 9, 12, 49}}} {
		warm, err := render.NewRenderer(scene, c.w, c.h, 2)
		require.NoError(t, err)
		view, fr := scene.NewView(), f.NewFrame()
		for _, start := range c.starts {
			for k := range 4 {
				f.At(reveal.Micros(start*1e6)+timecode.FrameTime(k, 30), fr)
				view.Take(scene, fr, float64(c.w)/float64(c.h))
				got, want := render.NewPicture(c.w, c.h), render.NewPicture(c.w, c.h)
				warm.Draw(view, got)
				cold, err := render.NewRenderer(scene, c.w, c.h, 1)
				require.NoError(t, err)
				cold.Draw(view, want)
				require.True(t, bytes.Equal(want.RGB, got.RGB), "%d pixels wide, %g s, frame %d", c.w, start, k)
			}
		}
	}
}

func TestThePaperIsThePaperAndThePumpIsThere(t *testing.T) {
	p := pictures(t, 320, 180, 0, 0)[0]
	corner := p.RGB[:3]
	for k := range 3 {
		assert.InDelta(t, look.Default.BackgroundTop[k]*255, float64(corner[k]), 1.5)
	}
	dark := 0
	for i := 0; i < len(p.RGB); i += 3 {
		if p.RGB[i] < 120 {
			dark++
		}
	}
	share := float64(dark) / float64(320*180)
	assert.InDelta(t, 0.12, share, 0.08, "the pump's petrol panel, its ink and its rubber")
}

func TestSizesThatCannotBe(t *testing.T) {
	m := demo.Stress(1, 40)
	scene, err := render.NewScene(m.Assembly, m.Shapes)
	require.NoError(t, err)
	for _, size := range [][2]int{{0, 10}, {10, -1}, {9000, 10}} {
		_, err := render.NewRenderer(scene, size[0], size[1], 1)
		assert.Error(t, err)
	}
	_, err = render.NewScene(m.Assembly, nil)
	assert.Error(t, err)
}

// ITU-R BT.709, 8-bit limited range, 100 % bars; values from memory of the
// recommendation's equations, ±1 for rounding.
func TestColourBars(t *testing.T) {
	for name, c := range map[string]struct{ rgb, yuv [3]byte }{
		"white":   {[3]byte{255, 255, 255}, [3]byte{235, 128, 128}},
		"yellow":  {[3]byte{255, 255, 0}, [3]byte{219, 16, 138}},
		"cyan":    {[3]byte{0, 255, 255}, [3]byte{188, 154, 16}},
		"green":   {[3]byte{0, 255, 0}, [3]byte{173, 42, 26}},
		"magenta": {[3]byte{255, 0, 255}, [3]byte{78, 214, 230}},
		"red":     {[3]byte{255, 0, 0}, [3]byte{63, 102, 240}},
		"blue":    {[3]byte{0, 0, 255}, [3]byte{32, 240, 118}},
		"black":   {[3]byte{0, 0, 0}, [3]byte{16, 128, 128}},
	} {
		p := render.NewPicture(16, 16)
		for i := range p.RGB {
			p.RGB[i] = c.rgb[i%3]
		}
		y := render.NewYUV(16, 16)
		y.From(p)
		for i, at := range []int{0, 256, 320} {
			assert.InDelta(t, float64(c.yuv[i]), float64(y[at]), 1, name)
			assert.InDelta(t, float64(c.yuv[i]), float64(y[at+63]), 1, name)
		}
	}
}
