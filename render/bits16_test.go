package render_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/demo"
	"slowreveal/render"
)

// Pictures with 16 bits a colour are those with 8, finer: they round to them, and between
// two steps of 8 bits there are others. Words stay as they are.
func TestDeepPicturesRoundToThoseOf8Bits(t *testing.T) {
	m := demo.Pump()
	f := film.Compile(m.Assembly, demo.Teardown(m.Assembly))
	scene, err := render.NewScene(m.Assembly, m.Shapes)
	require.NoError(t, err)
	const w, h = 200, 120
	r, err := render.NewRenderer(scene, w, h, 0)
	require.NoError(t, err)
	r.Keep16Bits()
	r.RoundToNearest()
	view, picture, fr := scene.NewView(), render.NewPicture(w, h), f.NewFrame()
	for _, at := range []reveal.Micros{31, 31, 32} { // see-through covers; once more; another moment
		f.At(at*reveal.Second, fr)
		view.Take(scene, fr, float64(w)/h)
		r.Draw(view, picture)
		levels := map[uint16]bool{}
		for i, v := range r.Picture16(picture) {
			require.InDelta(t, float64(picture.RGB[i]), float64(v)/257, 0.51)
			levels[v] = true
		}
		assert.Greater(t, len(levels), 1000)
	}
	picture.Replace(func(rgb []byte) { copy(rgb, []byte{1, 2, 3}) })
	assert.Equal(t, []uint16{257, 514, 771}, r.Picture16(picture)[:3])
}
