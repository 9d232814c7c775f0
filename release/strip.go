package release

import (
	"bytes"
	"fmt"
	"image"
	"image/draw"
	"os"
)

// packStrip puts the pictures of a strip beside one another.
func (w *Work) packStrip(folder, out string) error {
	width, height := w.plan.Width, w.plan.Height
	whole := image.Rect(0, 0, width*len(w.at), height)
	var strip draw.Image = image.NewNRGBA(whole)
	if w.Settings.SixteenBits {
		strip = image.NewNRGBA64(whole)
	}
	layer := w.Settings.Layers[0]
	for k := range w.at {
		f, err := os.Open(w.picturePath(folder, layer, k))
		if err != nil {
			return fmt.Errorf("the picture is gone: %w", err)
		}
		one, _, err := image.Decode(f)
		f.Close()
		if err != nil {
			return fmt.Errorf("reading the picture again: %w", err)
		}
		draw.Draw(strip, image.Rect(k*width, 0, (k+1)*width, height), one, one.Bounds().Min, draw.Src)
	}
	var b bytes.Buffer
	if err := pictures[w.Settings.Format].encode(&b, strip, w.MadeOf()); err != nil {
		return unwritten("the strip", err)
	}
	return write(out, b.Bytes())
}
