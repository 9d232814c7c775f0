package release

import (
	"bytes"
	"fmt"
	"image"
	"image/jpeg"

	"golang.org/x/image/draw"
)

// thumbWidth is the width in pixels of the small pictures that stand for outputs.
const thumbWidth = 480

// Poster returns the picture that stands for the output: of a film at the moment that was
// chosen, or in its middle, of pictures the first. nil for what is no picture.
func (w *Work) Poster() (image.Image, error) {
	if w.first != nil {
		return w.first.Picture(2 * thumbWidth), nil
	}
	if err := w.ready(); err != nil {
		return nil, err
	}
	switch w.Settings.Kind {
	case Film:
		at := w.cut.Duration() / 2
		if w.Settings.Poster != nil {
			at = *w.Settings.Poster
		}
		return w.cut.Picture(min(w.plan.Rate.Count(at), w.cut.Frames-1))
	case Frames, Stills:
		takes, err := w.takes(w.Settings.Layers[:1])
		if err != nil {
			return nil, err
		}
		times, _ := w.moments(0)
		return takes[0](times[0]), nil
	}
	return nil, nil
}

func (w *Work) writePoster(path string) error {
	img, err := w.Poster()
	if err != nil {
		return err
	}
	return writeJPEG(path, img)
}

func writeJPEG(path string, img image.Image) error {
	var b bytes.Buffer
	if err := jpeg.Encode(&b, img, &jpeg.Options{Quality: 90}); err != nil {
		return fmt.Errorf("writing a picture: %w", err)
	}
	return write(path, b.Bytes())
}

// WriteThumb writes a small JPEG of a picture.
func WriteThumb(path string, img image.Image) error {
	box := img.Bounds()
	small := image.NewRGBA(image.Rect(0, 0, thumbWidth, max(1, thumbWidth*box.Dy()/box.Dx())))
	draw.Draw(small, small.Rect, image.White, image.Point{}, draw.Src) // behind what is see-through
	draw.ApproxBiLinear.Scale(small, small.Rect, img, box, draw.Over, nil)
	return writeJPEG(path, small)
}
