package lettering

import (
	"image"
	"image/color"
	"slowreveal/core/space"
	"slowreveal/render"

	"github.com/go-text/typesetting/font/opentype"
	"github.com/go-text/typesetting/shaping"
	"golang.org/x/image/vector"
)

// line is a line of shaped text.
type line struct {
	runs        []shaping.Output // at the size setSize
	size, width float64          // pixels
	// leftwards says that its paragraph is read from right to left.
	leftwards bool

	x, y   float64 // where it was drawn last
	stamps []stamp // and what was drawn there
}

// stamp is what a glyph covers of a picture.
type stamp struct {
	mask *image.Alpha
	x, y int
}

// drawAt sets the line with its left end and baseline at x, y.
func (l *line) drawAt(p *render.Picture, x, y float64, c [3]float32, alpha float32) {
	if l.stamps == nil || l.x != x || l.y != y {
		l.stampAt(x, y)
	}
	for _, s := range l.stamps {
		lay(p, s.mask, s.x, s.y, c, alpha)
	}
}

func (l *line) stampAt(x, y float64) {
	l.x, l.y, l.stamps = x, y, l.stamps[:0]
	for _, run := range l.runs {
		scale := float32(l.size) / float32(run.Face.Upem())
		for _, g := range run.Glyphs {
			if outline, ok := run.Face.GlyphDataOutline(g.GlyphID); ok {
				gx, gy := x+float64(g.XOffset)*l.unit(), y-float64(g.YOffset)*l.unit()
				if s, some := stampOf(outline.Segments, gx, gy, scale); some {
					l.stamps = append(l.stamps, s)
				}
			}
			x += float64(g.Advance) * l.unit()
		}
	}
}

// stampOf fills an outline. The mask covers just the glyph's box.
func stampOf(segments []opentype.Segment, x, y float64, scale float32) (s stamp, some bool) {
	minX, minY, maxX, maxY := float32(1e9), float32(1e9), float32(-1e9), float32(-1e9)
	for _, s := range segments {
		for _, a := range s.ArgsSlice() {
			minX, maxX = min(minX, a.X), max(maxX, a.X)
			minY, maxY = min(minY, a.Y), max(maxY, a.Y)
		}
	}
	if minX > maxX {
		return s, false
	}
	ox, oy := int(x+float64(minX*scale))-1, int(y-float64(maxY*scale))-1
	w, h := int((maxX-minX)*scale)+4, int((maxY-minY)*scale)+4
	fx, fy := float32(x)-float32(ox), float32(y)-float32(oy)
	v := vector.NewRasterizer(w, h)
	at := func(a opentype.SegmentPoint) (float32, float32) { return fx + a.X*scale, fy - a.Y*scale }
	for _, s := range segments {
		x0, y0 := at(s.Args[0])
		switch s.Op {
		case opentype.SegmentOpMoveTo:
			v.ClosePath()
			v.MoveTo(x0, y0)
		case opentype.SegmentOpLineTo:
			v.LineTo(x0, y0)
		case opentype.SegmentOpQuadTo:
			x1, y1 := at(s.Args[1])
			v.QuadTo(x0, y0, x1, y1)
		case opentype.SegmentOpCubeTo:
			x1, y1 := at(s.Args[1])
			x2, y2 := at(s.Args[2])
			v.CubeTo(x0, y0, x1, y1, x2, y2)
		}
	}
	v.ClosePath()
	mask := image.NewAlpha(image.Rect(0, 0, w, h))
	v.Draw(mask, mask.Bounds(), image.NewUniform(color.Opaque), image.Point{})
	return stamp{mask, ox, oy}, true
}

// narrow is a colour of the look in single precision.
func narrow(t space.Vec3) [3]float32 { return [3]float32{float32(t[0]), float32(t[1]), float32(t[2])} }

// blend lays a display colour over a pixel.
func blend(px *[3]byte, c *[3]float32, alpha float32) {
	for k := range px {
		v := float32(px[k])
		px[k] = byte(v + (c[k]*255-v)*alpha + 0.5)
	}
}
