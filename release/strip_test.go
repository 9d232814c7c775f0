package release

import (
	"context"
	"image"
	_ "image/png"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/reveal"
	"slowreveal/demo"
)

// The pictures of a strip are the stills of its moments, from the left to the right.
func TestAStripIsItsStillsBesideOneAnother(t *testing.T) {
	m := demo.Pump()
	doc := demo.Running(m.Assembly)
	made := func(s Settings) image.Image {
		s.Kind, s.Width, s.Height = Stills, 96, 54
		w, err := Plan(s, m, doc, nil)
		require.NoError(t, err)
		file := filepath.Join(t.TempDir(), "picture.png")
		require.NoError(t, w.Make(context.Background(), file, nil))
		f, err := os.Open(file)
		require.NoError(t, err)
		defer f.Close()
		img, _, err := image.Decode(f)
		require.NoError(t, err)
		return img
	}
	strip := made(Settings{Strip: &StillStrip{Count: 4, From: 4 * reveal.Second, Over: 2 * reveal.Second}})
	require.Equal(t, image.Rect(0, 0, 4*96, 54), strip.Bounds())
	differ, wrong := 0, 0
	for k := range 4 {
		one := made(Settings{At: []reveal.Micros{4*reveal.Second + reveal.Micros(k)*reveal.Second/2}})
		for y := range 54 {
			for x := range 96 {
				if one.At(x, y) != strip.At(k*96+x, y) {
					wrong++
				}
				if k > 0 && strip.At(k*96+x, y) != strip.At(x, y) {
					differ++
				}
			}
		}
	}
	assert.Zero(t, wrong)
	assert.Greater(t, differ, 100, "it runs meanwhile")
	for want, s := range map[string]Settings{
		"2 to 24":     {Strip: &StillStrip{Count: 1, Over: 1}},
		"own":         {Strip: &StillStrip{Count: 4, Over: 1}, Ends: true},
		"reveal ends": {Strip: &StillStrip{Count: 4, Over: 1000 * reveal.Second}},
		"of stills":   {Strip: &StillStrip{Count: 4, Over: 1}, Kind: Film},
		"wider than":  {Strip: &StillStrip{Count: 24, Over: 1}, Width: 4096, Height: 2304},
	} {
		if s.Kind == "" {
			s.Kind = Stills
		}
		_, err := Plan(s, m, doc, nil)
		assert.ErrorContains(t, err, want)
	}
}
