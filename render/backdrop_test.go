package render_test

import (
	"image"
	"image/color"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/film"
	"slowreveal/core/space"
	"slowreveal/demo"
	"slowreveal/render"
)

// A picture of one colour behind everything is that colour behind everything, shadow and
// see-through parts included; a larger one covers the frame with its middle.
func TestAPictureBehindEverything(t *testing.T) {
	m := demo.Pump()
	f := film.Compile(m.Assembly, demo.Teardown(m.Assembly))
	scene, err := render.NewScene(m.Assembly, m.Shapes)
	require.NoError(t, err)
	const w, h = 200, 113
	fr := f.NewFrame()
	f.At(31_000_000, fr)
	draw := func(dress func(*render.Renderer)) *render.Picture {
		r, err := render.NewRenderer(scene, w, h, 0)
		require.NoError(t, err)
		dress(r)
		v, p := scene.NewView(), render.NewPicture(w, h)
		v.Take(scene, fr, float64(w)/h)
		r.Draw(v, p)
		return p
	}
	plain := image.NewUniform(color.NRGBA{51, 102, 204, 255})
	flat := image.NewRGBA(image.Rect(0, 0, 31, 57))
	for i := range 31 * 57 {
		flat.Set(i%31, i/31, plain.C)
	}
	c := space.Vec3{0.2, 0.4, 0.8}
	want := draw(func(r *render.Renderer) { r.SetBackdrop(c, c) })
	got := draw(func(r *render.Renderer) { r.SetBackdropImage(flat) })
	for i := range want.RGB {
		require.InDelta(t, want.RGB[i], got.RGB[i], 1, "byte %d", i)
	}

	// Left half black, right half white, three times as wide as the frame: the frame's
	// border between them stays in the middle.
	halves := image.NewRGBA(image.Rect(0, 0, 6*w, 2*h))
	for i := range 12 * w * h {
		if x := i % (6 * w); x >= 3*w {
			halves.Set(x, i/(6*w), color.White)
		} else {
			halves.Set(x, i/(6*w), color.Black)
		}
	}
	got = draw(func(r *render.Renderer) { r.SetBackdropImage(halves) })
	assert.Equal(t, []byte{0, 0, 0}, got.RGB[:3])
	assert.Equal(t, []byte{255, 255, 255}, got.RGB[3*(w-1):3*w])
	assert.Equal(t, []byte{0, 0, 0}, got.RGB[3*(w/2-3):3*(w/2-2)])
	assert.Equal(t, []byte{255, 255, 255}, got.RGB[3*(w/2+2):3*(w/2+3)])
}
