package release

import (
	"archive/zip"
	"context"
	"encoding/json"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"io"
	"os"
	"path/filepath"
	"slices"
	"time"

	"golang.org/x/image/tiff"

	"slowreveal/core/reveal"
	"slowreveal/sequence"
)

// pictures are the formats of pictures.
var pictures = map[string]struct {
	extension, media string
	encode           func(w io.Writer, p image.Image, comment string) error
}{
	"png": {"png", "image/png", writePNG},
	"jpeg": {
		"jpg",
		"image/jpeg",
		func(w io.Writer, p image.Image, _ string) error { return jpeg.Encode(w, p, &jpeg.Options{Quality: 92}) },
	},
	"tiff": {"tif", "image/tiff", func(w io.Writer, p image.Image, _ string) error {
		return tiff.Encode(w, p, &tiff.Options{Compression: tiff.Deflate, Predictor: true})
	}},
}

// moments returns the times of the pictures of a segment, and the number of its first one.
func (w *Work) moments(segment int) (times []reveal.Micros, first int) {
	if w.Settings.Kind == Stills {
		return w.at[segment : segment+1], segment
	}
	segments := w.cut.Segments()
	for _, n := range segments[:segment] {
		first += n
	}
	for k := range segments[segment] {
		times = append(times, w.plan.Shown(w.plan.Rate.Time(first+k)))
	}
	return times, first
}

// pictures makes the pictures of a segment, moment by moment, layer by layer: those that add up are taken together.
func (w *Work) pictures(ctx context.Context, folder string, segment int, progress Progress) error {
	times, first := w.moments(segment)
	layers := w.Settings.Layers
	takes, err := w.takes(layers)
	if err != nil {
		return err
	}
	for k, t := range times {
		for n, layer := range layers {
			if ctx.Err() != nil {
				return ctx.Err()
			}
			img := takes[n](t)
			if err := w.writePicture(img, layer, w.picturePath(folder, layer, first+k)); err != nil {
				return err
			}
			progress((k*len(layers)+n+1)/len(layers), func() image.Image { return img })
		}
	}
	return nil
}

// takes prepares to take layers' pictures, each of which may be overwritten by its next.
func (w *Work) takes(layers []sequence.Layer) (list []func(t reveal.Micros) image.Image, err error) {
	var stack *sequence.Stack
	adding := w.Settings.Background != "transparent" && slices.ContainsFunc(layers, sequence.Layer.InStack)
	for _, l := range layers {
		// the picture that they add up to is not rounded by noise
		if !l.InStack() && !(adding && l.Kind == sequence.Shaded) {
			lens, err := w.plan.Lens(w.film, w.reels[0].Scene, l, w.Settings.SixteenBits)
			if err != nil {
				return nil, err
			}
			list = append(list, func(t reveal.Micros) image.Image { return w.picture(lens, l, t) })
			continue
		}
		if stack == nil {
			if stack, err = w.plan.Stack(w.film, w.reels[0].Scene, w.Settings.SixteenBits); err != nil {
				return nil, err
			}
		}
		list = append(list, func(t reveal.Micros) image.Image { return stack.Take(t, l.Kind) })
	}
	return list, nil
}

// formatOf is the format of a layer's pictures: JPEG does not hold the 16 bits of depth.
func (w *Work) formatOf(l sequence.Layer) string {
	if l.Kind == sequence.Depth && w.Settings.Format == "jpeg" {
		return "png"
	}
	return w.Settings.Format
}

// picturePath is where a picture lies in the folder: numbers have five digits, from 1.
func (w *Work) picturePath(folder string, l sequence.Layer, number int) string {
	return filepath.Join(folder, fmt.Sprintf("%s_%05d.%s", l.Folder(), number+1, pictures[w.formatOf(l)].extension))
}

// picture takes a layer's picture of a moment; it may be overwritten by the next.
func (w *Work) picture(lens *sequence.Lens, l sequence.Layer, t reveal.Micros) image.Image {
	box := image.Rect(0, 0, w.plan.Width, w.plan.Height)
	switch {
	case l.Kind == sequence.Depth:
		deep := make([]uint16, w.plan.Width*w.plan.Height)
		lens.TakeDepth(t, deep)
		grey := image.NewGray16(box)
		for i, d := range deep {
			grey.SetGray16(i%w.plan.Width, i/w.plan.Width, color.Gray16{Y: d})
		}
		return grey
	case w.Settings.SixteenBits:
		return lens.Take16(t)
	}
	return &image.NRGBA{Pix: lens.Take(t), Stride: 4 * w.plan.Width, Rect: box}
}

func (w *Work) writePicture(img image.Image, l sequence.Layer, path string) error {
	f, err := os.Create(path + ".part")
	if err != nil {
		return unwritten("a picture", err)
	}
	err = pictures[w.formatOf(l)].encode(f, img, w.MadeOf())
	if e := f.Close(); err == nil {
		err = e
	}
	if err == nil {
		err = os.Rename(path+".part", path)
	}
	if err != nil {
		os.Remove(path + ".part")
		return unwritten("a picture", err)
	}
	return nil
}

// pack puts the pictures together: one as it is, more as a ZIP with a folder for each layer.
// Pictures are compressed already, so that they are only copied, one after another.
func (w *Work) pack(ctx context.Context, folder, out string) error {
	if w.Settings.Strip != nil {
		return w.packStrip(folder, out)
	}
	if w.Extension() != "zip" {
		data, err := os.ReadFile(w.picturePath(folder, w.Settings.Layers[0], 0))
		if err != nil {
			return fmt.Errorf("the picture is gone: %w", err)
		}
		return write(out, data)
	}
	part := out + ".part"
	f, err := os.Create(part)
	if err != nil {
		return unwritten(out, err)
	}
	defer os.Remove(part)
	z := zip.NewWriter(f)
	err = w.fillZip(ctx, z, folder)
	if e := z.Close(); err == nil {
		err = e
	}
	if e := f.Close(); err == nil {
		err = e
	}
	if err == nil {
		err = os.Rename(part, out)
	}
	if err != nil {
		return unwritten("the pictures", err)
	}
	return nil
}

func (w *Work) fillZip(ctx context.Context, z *zip.Writer, folder string) error {
	about := map[string]any{
		"reveal":     w.film.Reveal.Title,
		"width":      w.plan.Width,
		"height":     w.plan.Height,
		"layers":     w.Settings.Layers,
		"moments":    w.at,
		"rate":       w.plan.Rate,
		"depthReach": sequence.Reach(w.film),
	}
	made := time.Now()
	text, err := json.MarshalIndent(about, "", "  ")
	if err != nil {
		return err
	}
	entry, err := z.CreateHeader(&zip.FileHeader{Name: "about.json", Method: zip.Deflate, Modified: made})
	if err != nil {
		return err
	}
	if _, err := entry.Write(text); err != nil {
		return err
	}
	for _, layer := range w.Settings.Layers {
		for k := range w.Frames() {
			if ctx.Err() != nil {
				return ctx.Err()
			}
			path := w.picturePath(folder, layer, k)
			name := filepath.Base(path)
			if len(w.Settings.Layers) > 1 {
				name = layer.Folder() + "/" + name
			}
			entry, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Store, Modified: made})
			if err != nil {
				return err
			}
			if err := copyFile(entry, path); err != nil {
				return err
			}
		}
	}
	return nil
}

func copyFile(to io.Writer, path string) error {
	f, err := os.Open(path)
	if err != nil {
		return err
	}
	defer f.Close()
	_, err = io.Copy(to, f)
	return err
}
