package difference_test

import (
	"image"
	"image/color"
	"image/draw"
	"testing"

	"github.com/stretchr/testify/assert"

	"slowreveal/difference"
)

func TestWhatIsOtherwiseIsMarked(t *testing.T) {
	before := image.NewRGBA(image.Rect(0, 0, 10, 10))
	draw.Draw(before, before.Bounds(), image.White, image.Point{}, draw.Src)
	after := image.NewRGBA(image.Rect(5, 5, 15, 15)) // the same size elsewhere
	draw.Draw(after, after.Bounds(), image.White, image.Point{}, draw.Src)
	f, ok := difference.Of(before, after)
	assert.True(t, ok)
	assert.Zero(t, f.Changed)
	draw.Draw(after, image.Rect(5, 5, 10, 9), image.Black, image.Point{}, draw.Src)
	after.SetRGBA(14, 14, color.RGBA{253, 255, 255, 255}) // too little to be noticed
	f, ok = difference.Of(before, after)
	assert.True(t, ok)
	assert.InDelta(t, 0.2, f.Changed, 1e-9)
	assert.InDelta(t, 0.2*255+0.02, f.Mean, 1e-9)
	assert.Equal(t, color.RGBA{200, 0, 0, 255}, f.Marked.RGBAAt(0, 0))
	assert.Equal(t, color.RGBA{255, 255, 255, 255}, f.Marked.RGBAAt(8, 8))
	_, ok = difference.Of(before, image.NewRGBA(image.Rect(0, 0, 10, 11)))
	assert.False(t, ok)
}
