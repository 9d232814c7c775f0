package render

import (
	"fmt"
	"image"
	_ "image/jpeg" // pictures may be JPEG
	_ "image/png"  // or PNG
	"io"

	"golang.org/x/image/draw"
)

// Bounds of a user's pictures in pixels: what is declared is looked at before anything is
// decoded, so that a small file cannot ask for much memory.
const (
	maxImageSide = 8192
	maxImage     = 40 << 20
)

// ReadImage reads a user's picture (PNG or JPEG); what says in words what it is for.
func ReadImage(in io.ReadSeeker, what string) (image.Image, error) {
	size, _, err := image.DecodeConfig(in)
	if err != nil {
		return nil, fmt.Errorf("the %s is not a picture that can be read (PNG or JPEG): %w", what, err)
	}
	if size.Width < 1 || size.Height < 1 || size.Width > maxImageSide || size.Height > maxImageSide ||
		size.Width*size.Height > maxImage {
		return nil, fmt.Errorf(
			"the %s has %d × %d pixels; at most %d a side and 40 million in all are taken",
			what,
			size.Width,
			size.Height,
			maxImageSide,
		)
	}
	if _, err := in.Seek(0, io.SeekStart); err != nil {
		return nil, fmt.Errorf("reading the %s: %w", what, err)
	}
	img, _, err := image.Decode(in)
	if err != nil {
		return nil, fmt.Errorf("the %s cannot be read: %w", what, err)
	}
	return img, nil
}

// SetBackdropImage puts a picture behind everything in place of the background: as large as it
// takes to cover the frame, its middle in the frame's; before the first picture.
func (r *Renderer) SetBackdropImage(img image.Image) {
	b := img.Bounds()
	w, h := b.Dx(), b.Dy()
	if w*r.height > h*r.width {
		w = max(1, h*r.width/r.height)
	} else {
		h = max(1, w*r.height/r.width)
	}
	part := image.Rect(0, 0, w, h).Add(b.Min).Add(image.Pt((b.Dx()-w)/2, (b.Dy()-h)/2))
	fitted := image.NewRGBA(image.Rect(0, 0, r.width, r.height))
	draw.Draw(fitted, fitted.Rect, image.White, image.Point{}, draw.Src) // under what is see-through
	draw.CatmullRom.Scale(fitted, fitted.Rect, img, part, draw.Over, nil)
	r.behind = fitted.Pix
}

// behindRow takes the colours of a row of the background from the picture that is there in its
// place.
func (r *Renderer) behindRow(t *tile, p *backgroundRow) {
	for x := range tileSide {
		c := r.behind[4*((t.y0+p.y)*r.width+min(t.x0+x, r.width-1)):]
		for k := range 3 {
			p.rgb[k][x] = float32(c[k]) * (1.0 / 255)
		}
	}
}
