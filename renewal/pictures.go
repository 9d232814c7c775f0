package renewal

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"image"
	_ "image/jpeg" // pictures are read in all formats in which they are made
	"image/png"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"golang.org/x/image/draw"
	_ "golang.org/x/image/tiff"

	"slowreveal/difference"
)

// Compared is a picture before and after.
type Compared struct {
	Name string `json:"name"`
	// Changed is the share of its pixels that are otherwise by more than difference.Noticed, Mean how much all of them are on
	// average, of 255. One that is there only once, or of another size, is changed as a whole.
	Changed float64 `json:"changed"`
	Mean    float64 `json:"mean"`
	// Before, After and Both are small pictures (PNG); Both marks what has changed.
	Before, After, Both []byte `json:"-"`
}

const (
	pictureWidth = 320 // of the report's pictures, pixels
	mostCompared = 60  // pictures of an output
	mostPixels   = 100 << 20
)

// compare holds the pictures of an output against those of the one before: stills as they are, of films the picture that
// stands for them.
func (m *Maker) compare(p *pair) ([]Compared, error) {
	old, err := m.pictures(m.Authoring.Store.OutputPath(p.old), m.Authoring.Store.PicturePath(p.old))
	if err != nil {
		return nil, err
	}
	fresh, err := m.pictures(m.Authoring.Store.OutputPath(p.fresh), m.Authoring.Store.PicturePath(p.fresh))
	if err != nil {
		return nil, err
	}
	var list []Compared
	for _, f := range fresh {
		c := Compared{Name: f.name, Changed: 1, Mean: 255}
		at := slices.IndexFunc(old, func(o named) bool { return o.name == f.name })
		if at < 0 && len(old) == 1 && len(fresh) == 1 {
			at = 0
		}
		var before image.Image
		if at >= 0 {
			before = old[at].picture
		}
		if err := c.hold(before, f.picture); err != nil {
			return nil, err
		}
		list = append(list, c)
	}
	return list, nil
}

// named is a picture of an output.
type named struct {
	name    string
	picture image.Image
}

// pictures are those of an output: its file, those in its archive, or else the picture that stands for it.
func (m *Maker) pictures(file, stands string) ([]named, error) {
	switch strings.ToLower(filepath.Ext(file)) {
	case ".png", ".jpg", ".tif", ".tiff":
		img, err := readPicture(file)
		return asList("", img, err)
	case ".zip":
		return archived(file)
	}
	img, err := readPicture(stands)
	return asList("", img, err)
}

func asList(name string, img image.Image, err error) ([]named, error) {
	if errors.Is(err, fs.ErrNotExist) { // its files have been removed, or it has none
		return nil, nil
	}
	if err != nil || img == nil {
		return nil, err
	}
	return []named{{name, img}}, nil
}

func readPicture(path string) (image.Image, error) {
	data, err := os.ReadFile(path)
	if err != nil {
		return nil, err
	}
	return decoded(data, path)
}

// decoded is a picture, nil where data is none or it is too large to be compared.
func decoded(data []byte, name string) (image.Image, error) {
	c, _, err := image.DecodeConfig(bytes.NewReader(data))
	if err != nil || c.Width*c.Height > mostPixels {
		return nil, nil //nolint:nilerr // there are other things in archives
	}
	img, _, err := image.Decode(bytes.NewReader(data))
	if err != nil {
		return nil, fmt.Errorf("reading the picture %s: %w", name, err)
	}
	return img, nil
}

func archived(file string) (list []named, err error) {
	z, err := zip.OpenReader(file)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	if err != nil {
		return nil, fmt.Errorf("reading %s: %w", file, err)
	}
	defer z.Close()
	for _, f := range z.File {
		if len(list) == mostCompared {
			break
		}
		r, err := f.Open()
		if err != nil {
			return nil, fmt.Errorf("reading %s: %w", f.Name, err)
		}
		data, err := io.ReadAll(io.LimitReader(r, mostPixels*8))
		r.Close()
		if err != nil {
			return nil, fmt.Errorf("reading %s: %w", f.Name, err)
		}
		img, err := decoded(data, f.Name)
		if err != nil {
			return nil, err
		}
		if img != nil {
			list = append(list, named{f.Name, img})
		}
	}
	return list, nil
}

// hold compares two pictures and keeps small ones of them. before may be nil.
func (c *Compared) hold(before, after image.Image) (err error) {
	if c.After, err = small(after); err != nil || before == nil {
		return err
	}
	if c.Before, err = small(before); err != nil {
		return err
	}
	found, ok := difference.Of(before, after)
	if !ok {
		return nil
	}
	c.Changed, c.Mean = found.Changed, found.Mean
	c.Both, err = small(found.Marked)
	return err
}

// small is a picture for the report.
func small(img image.Image) ([]byte, error) {
	from := img.Bounds()
	size := image.Rect(
		0,
		0,
		min(pictureWidth, from.Dx()),
		max(1, min(pictureWidth, from.Dx())*from.Dy()/max(1, from.Dx())),
	)
	out := image.NewRGBA(size)
	draw.Draw(out, size, image.White, image.Point{}, draw.Src)
	draw.CatmullRom.Scale(out, size, img, from, draw.Over, nil)
	var b bytes.Buffer
	err := png.Encode(&b, out)
	return b.Bytes(), err
}
