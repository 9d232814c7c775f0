package lettering

import (
	"fmt"
	"image"
	"image/color"
	"io"
	"slowreveal/render"
	"sync"

	"golang.org/x/image/draw"
)

// Logo is a user's picture for a corner of the frame.
type Logo struct {
	image   image.Image
	Corner  Corner
	scaling sync.Mutex
	scaled  *image.NRGBA // for the height of the last picture
	height  int
}

// Image returns the picture as it was read.
func (g *Logo) Image() image.Image {
	if g == nil {
		return nil
	}
	return g.image
}

// Corner is a corner of the frame.
type Corner string

// The corners.
const (
	UpperLeft  Corner = "upper-left"
	UpperRight Corner = "upper-right"
	LowerLeft  Corner = "lower-left"
	LowerRight Corner = "lower-right"
)

// ReadLogo reads a logo (PNG or JPEG).
func ReadLogo(in io.ReadSeeker, corner Corner) (*Logo, error) {
	switch corner {
	case UpperLeft, UpperRight, LowerLeft, LowerRight:
	default:
		return nil, fmt.Errorf("%q is no corner; there are upper-left, upper-right, lower-left, lower-right", corner)
	}
	img, err := render.ReadImage(in, "logo")
	if err != nil {
		return nil, err
	}
	return &Logo{image: img, Corner: corner}, nil
}

// logoHeight is the height of a logo as a share of the frame's shorter side, logoMargin its
// distance from the frame's border: title safe area, 5 % (common practice, no source).
const (
	logoHeight = 0.09
	logoMargin = 0.05
)

// Draw sets the logo into its corner. Several pictures may be drawn at once.
func (g *Logo) Draw(p *render.Picture) {
	if g == nil {
		return
	}
	scaled := g.fit(p.Width, p.Height)
	x, y, w, h := g.place(p.Width, p.Height)
	p.Overlay(x, y, x+w-1, y+h-1)
	for j := range h {
		for i := range w {
			if x+i < 0 || y+j < 0 || x+i >= p.Width || y+j >= p.Height {
				continue
			}
			c := color.NRGBAModel.Convert(scaled.NRGBAAt(i, j)).(color.NRGBA)
			px := (*[3]byte)(p.RGB[3*((y+j)*p.Width+x+i):])
			blend(px, &[3]float32{float32(c.R) / 255, float32(c.G) / 255, float32(c.B) / 255}, float32(c.A)/255)
		}
	}
}

// Place is where the logo stands in a frame, in shares of its width and height from the upper left corner.
func (g *Logo) Place(width, height int) (left, top, right, bottom float64) {
	x, y, w, h := g.place(width, height)
	across, down := float64(width), float64(height)
	return float64(x) / across, float64(y) / down, float64(x+w) / across, float64(y+h) / down
}

// place is where the logo stands in a picture, in pixels.
func (g *Logo) place(width, height int) (x, y, w, h int) {
	size := g.fit(width, height).Bounds()
	w, h = size.Dx(), size.Dy()
	x, y = int(logoMargin*float64(width)), int(logoMargin*float64(height))
	if g.Corner == UpperRight || g.Corner == LowerRight {
		x = width - x - w
	}
	if g.Corner == LowerLeft || g.Corner == LowerRight {
		y = height - y - h
	}
	return x, y, w, h
}

// fit returns the logo as large as it is in a picture.
func (g *Logo) fit(width, height int) *image.NRGBA {
	g.scaling.Lock()
	defer g.scaling.Unlock()
	side := min(width, height)
	if g.scaled == nil || g.height != side {
		b := g.image.Bounds()
		h := max(1, int(logoHeight*float64(side)))
		w := max(1, min(h*b.Dx()/b.Dy(), width/3))
		h = max(1, w*b.Dy()/b.Dx())
		g.scaled, g.height = image.NewNRGBA(image.Rect(0, 0, w, h)), side
		draw.CatmullRom.Scale(g.scaled, g.scaled.Bounds(), g.image, b, draw.Src, nil)
	}
	return g.scaled
}
