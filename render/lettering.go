package render

import (
	"bytes"
	"embed"
	"fmt"
	"image"
	"image/color"
	"strings"

	"github.com/go-text/typesetting/di"
	"github.com/go-text/typesetting/font"
	"github.com/go-text/typesetting/font/opentype"
	"github.com/go-text/typesetting/language"
	"github.com/go-text/typesetting/shaping"
	"golang.org/x/image/math/fixed"
	"golang.org/x/image/vector"
)

//go:embed fonts/*.woff
var fontFiles embed.FS

// typeface is a family as a list of faces; each rune takes the first face that
// has it.
type typeface struct {
	faces []*font.Face
}

func loadTypeface(files ...string) (*typeface, error) {
	t := &typeface{}
	for _, name := range files {
		data, err := fontFiles.ReadFile("fonts/" + name + ".woff")
		if err != nil {
			return nil, err
		}
		face, err := font.ParseTTF(bytes.NewReader(data))
		if err != nil {
			return nil, fmt.Errorf("reading the shipped font %s: %w", name, err)
		}
		t.faces = append(t.faces, face)
	}
	return t, nil
}

// line is a line of shaped text.
type line struct {
	runs  []shaping.Output
	width float64 // pixels

	x, y   float64 // where it was drawn last
	stamps []stamp // and what was drawn there
}

// stamp is what a glyph covers of a picture.
type stamp struct {
	mask *image.Alpha
	x, y int
}

// shape sets one paragraph at size pixels, broken into lines of at most width
// pixels at spaces.
func (t *typeface) shape(text string, size, width float64) []line {
	var lines []line
	for _, paragraph := range strings.Split(text, "\n") {
		current := ""
		for _, word := range strings.Fields(paragraph) {
			longer := strings.TrimPrefix(current+" "+word, " ")
			if current != "" && t.set(longer, size).width > width {
				lines = append(lines, t.set(current, size))
				longer = word
			}
			current = longer
		}
		if current != "" {
			lines = append(lines, t.set(current, size))
		}
	}
	return lines
}

func (t *typeface) set(text string, size float64) line {
	runes := []rune(text)
	in := shaping.Input{Text: runes, RunEnd: len(runes), Direction: di.DirectionLTR, Face: t.faces[0],
		Size: fixed.Int26_6(size * 64), Language: language.NewLanguage("en")}
	var segmenter shaping.Segmenter
	var shaper shaping.HarfbuzzShaper
	var l line
	for _, part := range segmenter.Split(in, fontmap(t.faces)) {
		out := shaper.Shape(part)
		l.runs = append(l.runs, out)
		l.width += float64(out.Advance) / 64
	}
	return l
}

// fontmap chooses for each rune the first face that has it.
type fontmap []*font.Face

// ResolveFace implements shaping.Fontmap.
func (m fontmap) ResolveFace(r rune) *font.Face {
	for _, f := range m {
		if _, ok := f.NominalGlyph(r); ok {
			return f
		}
	}
	return m[0]
}

// draw sets the line with its left end and baseline at x, y.
func (l *line) draw(p *Picture, x, y float64, c [3]float32) { l.drawAt(p, x, y, c, 1) }

func (l *line) drawAt(p *Picture, x, y float64, c [3]float32, alpha float32) {
	if l.stamps == nil || l.x != x || l.y != y {
		l.stampAt(x, y)
	}
	for _, s := range l.stamps {
		p.lay(s.mask, s.x, s.y, c, alpha)
	}
}

func (l *line) stampAt(x, y float64) {
	l.x, l.y, l.stamps = x, y, l.stamps[:0]
	for _, run := range l.runs {
		scale := float32(run.Size) / 64 / float32(run.Face.Upem())
		for _, g := range run.Glyphs {
			if outline, ok := run.Face.GlyphDataOutline(g.GlyphID); ok {
				gx := x + float64(g.XOffset)/64
				gy := y - float64(g.YOffset)/64
				if s, some := stampOf(outline.Segments, gx, gy, scale); some {
					l.stamps = append(l.stamps, s)
				}
			}
			x += float64(g.Advance) / 64
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

// blend lays a display colour over a pixel; outside the picture it does nothing.
func (p *Picture) blend(x, y int, c [3]float32, alpha float32) {
	if x < 0 || y < 0 || x >= p.Width || y >= p.Height {
		return
	}
	px := p.RGB[3*(y*p.Width+x):]
	for k := range 3 {
		v := float32(px[k])
		px[k] = byte(v + (c[k]*255-v)*alpha + 0.5)
	}
}
