// Package difference holds pictures against one another.
package difference

import (
	"image"
	"image/color"
	"math"
)

// Noticed is from where on a pixel counts as another one, of 255.
const Noticed = 3

// Found is what is otherwise between two pictures of one size.
type Found struct {
	// Changed is the share of pixels that are otherwise by more than Noticed, Mean how much all of them are on average,
	// of 255.
	Changed, Mean float64
	// Marked is the second picture, pale and grey, in which what has changed is red.
	Marked *image.RGBA
}

// Of compares two pictures. ok is false where they have not one size.
func Of(before, after image.Image) (f Found, ok bool) {
	b, a := before.Bounds(), after.Bounds()
	if b.Size() != a.Size() {
		return f, false
	}
	f.Marked = image.NewRGBA(image.Rect(0, 0, a.Dx(), a.Dy()))
	changed, sum := 0, 0.0
	for y := range a.Dy() {
		for x := range a.Dx() {
			d, grey := apart(before.At(b.Min.X+x, b.Min.Y+y), after.At(a.Min.X+x, a.Min.Y+y))
			sum += d
			if d > Noticed {
				changed++
				f.Marked.SetRGBA(x, y, color.RGBA{R: 200, G: grey / 4, B: grey / 4, A: 255})
			} else {
				pale := 128 + grey/2
				f.Marked.SetRGBA(x, y, color.RGBA{R: pale, G: pale, B: pale, A: 255})
			}
		}
	}
	pixels := float64(a.Dx() * a.Dy())
	f.Changed, f.Mean = float64(changed)/pixels, sum/pixels
	return f, true
}

// apart is how far two colours lie apart, their largest difference in 255ths, and the second one's grey.
func apart(a, b color.Color) (d float64, grey uint8) {
	ar, ag, ab, aa := a.RGBA()
	br, bg, bb, ba := b.RGBA()
	for _, v := range [][2]uint32{{ar, br}, {ag, bg}, {ab, bb}, {aa, ba}} {
		d = max(d, math.Abs(float64(v[0])-float64(v[1]))/257)
	}
	return d, color.GrayModel.Convert(b).(color.Gray).Y
}
