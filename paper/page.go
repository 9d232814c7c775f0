package paper

import (
	"bytes"
	"fmt"
	"image"
	"image/color"

	"github.com/tdewolff/canvas"
	"github.com/tdewolff/canvas/renderers/pdf"
	"github.com/tdewolff/canvas/renderers/rasterizer"
	"github.com/tdewolff/canvas/renderers/svg"

	"slowreveal/core/look"
	"slowreveal/core/space"
)

// Colours of print: ink on white.
var (
	Ink   = Colour(look.Default.Ink)
	Grey  = color.RGBA{0x6b, 0x70, 0x70, 0xff}
	Hair  = color.RGBA{0xc9, 0xc9, 0xc4, 0xff}
	White = color.RGBA{0xff, 0xff, 0xff, 0xff}
)

// Colour turns a display colour, 0…1, into one of paper.
func Colour(c space.Vec3) color.RGBA {
	b := func(v float64) byte { return byte(v*255 + 0.5) }
	return color.RGBA{b(c[0]), b(c[1]), b(c[2]), 255}
}

// Page is one page; sizes are in mm, x goes to the right from its left side, y down from its top.
type Page struct {
	Width, Height float64
	canvas        *canvas.Canvas
	// What readers of a document are told of the page beside what is drawn.
	marks     []mark
	bookmarks []bookmark
	links     []link
}

// NewPage returns an empty page.
func NewPage(width, height float64) *Page {
	return &Page{Width: width, Height: height, canvas: canvas.New(width, height)}
}

// Pen is how a line is drawn.
type Pen struct {
	Width  float64 // mm
	Ink    color.RGBA
	Dashes []float64 // lengths of dashes and gaps, mm; none for a continuous line
	Square bool      // its ends are cut off and its corners sharp; else both are round
}

func (n Pen) style() canvas.Style {
	s := canvas.DefaultStyle
	s.Fill, s.Stroke = canvas.Paint{}, canvas.Paint{Color: n.Ink}
	s.StrokeWidth, s.StrokeCapper, s.StrokeJoiner = n.Width, canvas.RoundCap, canvas.RoundJoin
	if n.Square {
		s.StrokeCapper, s.StrokeJoiner = canvas.ButtCap, canvas.MiterJoin
	}
	s.Dashes = n.Dashes
	return s
}

// Outline collects lines and curves that are drawn together.
type Outline struct{ path canvas.Path }

// Move begins a line, Line and Curve continue it, Close brings it back to where it began.
func (o *Outline) Move(x, y float64) { o.path.MoveTo(rounded(x), rounded(y)) }

// Line goes straight on.
func (o *Outline) Line(x, y float64) { o.path.LineTo(rounded(x), rounded(y)) }

// Curve goes on in a cubic Bézier curve.
func (o *Outline) Curve(x1, y1, x2, y2, x, y float64) {
	o.path.CubeTo(rounded(x1), rounded(y1), rounded(x2), rounded(y2), rounded(x), rounded(y))
}

// Close closes it.
func (o *Outline) Close() { o.path.Close() }

// Empty reports whether nothing was drawn.
func (o *Outline) Empty() bool { return o.path.Empty() }

func (p *Page) flipped() canvas.Matrix { return canvas.Identity.ReflectYAbout(p.Height / 2) }

// Stroke draws an outline with a pen.
func (p *Page) Stroke(o *Outline, pen Pen) {
	if !o.Empty() {
		p.canvas.RenderPath(o.path.Copy().Transform(p.flipped()), pen.style(), canvas.Identity)
	}
}

// Fill fills an outline.
func (p *Page) Fill(o *Outline, ink color.RGBA) {
	s := canvas.DefaultStyle
	s.Fill = canvas.Paint{Color: ink}
	p.canvas.RenderPath(o.path.Copy().Transform(p.flipped()), s, canvas.Identity)
}

// Line draws a straight line.
func (p *Page) Line(x0, y0, x1, y1 float64, pen Pen) {
	var o Outline
	o.Move(x0, y0)
	o.Line(x1, y1)
	p.Stroke(&o, pen)
}

// Box is a rectangle on a page, mm.
type Box struct{ X, Y, Width, Height float64 }

// Right and Foot are its far sides.
func (b Box) Right() float64 { return b.X + b.Width }

// Foot is its lower side.
func (b Box) Foot() float64 { return b.Y + b.Height }

// Holds reports whether a point lies in the box.
func (b Box) Holds(x, y float64) bool { return x >= b.X && x <= b.Right() && y >= b.Y && y <= b.Foot() }

// In is the box with margins taken off.
func (b Box) In(margin float64) Box {
	return Box{b.X + margin, b.Y + margin, b.Width - 2*margin, b.Height - 2*margin}
}

// Outline is the box's.
func (b Box) Outline() *Outline {
	var o Outline
	o.Move(b.X, b.Y)
	o.Line(b.Right(), b.Y)
	o.Line(b.Right(), b.Foot())
	o.Line(b.X, b.Foot())
	o.Close()
	return &o
}

// Circle is an outline of a circle.
func Circle(x, y, radius float64) *Outline {
	const k = 0.5522847498 // of the radius: control points of a quarter (common practice)
	c := k * radius
	var o Outline
	o.Move(x+radius, y)
	o.Curve(x+radius, y+c, x+c, y+radius, x, y+radius)
	o.Curve(x-c, y+radius, x-radius, y+c, x-radius, y)
	o.Curve(x-radius, y-c, x-c, y-radius, x, y-radius)
	o.Curve(x+c, y-radius, x+radius, y-c, x+radius, y)
	o.Close()
	return &o
}

// Image puts a picture into a box; it is stretched to its shape.
func (p *Page) Image(img image.Image, b Box) {
	size := img.Bounds().Size()
	m := canvas.Identity.Translate(b.X, p.Height-b.Foot()).Scale(b.Width/float64(size.X), b.Height/float64(size.Y))
	p.canvas.RenderImage(img, m)
}

// Say sets one line of words with its left end and base line at x, y.
func (p *Page) Say(w Words, text string, x, y float64) {
	p.sayRuns(w.runs(text), x, y)
}

// sayRuns sets the runs of a line from x on, with their base line at y.
func (p *Page) sayRuns(line []run, x, y float64) {
	for _, r := range line {
		p.canvas.RenderText(canvas.NewTextLine(r.face, r.text, canvas.Left), canvas.Identity.Translate(x, p.Height-y))
		x += r.face.TextWidth(r.text)
	}
}

// SayMiddle sets one line of words in the middle about x.
func (p *Page) SayMiddle(w Words, text string, x, y float64) { p.Say(w, text, x-w.Width(text)/2, y) }

// SayRight sets one line of words that ends at x.
func (p *Page) SayRight(w Words, text string, x, y float64) { p.Say(w, text, x-w.Width(text), y) }

// SVG writes a page as a picture whose words are text in fonts that it brings along.
func (p *Page) SVG() ([]byte, error) {
	var b bytes.Buffer
	w := svg.New(
		&b,
		p.Width,
		p.Height,
		&svg.Options{EmbedFonts: true, SubsetFonts: true, SizeUnits: "mm", ImageEncoding: canvas.Lossless},
	)
	p.canvas.RenderTo(w)
	if err := w.Close(); err != nil {
		return nil, fmt.Errorf("writing the drawing: %w", err)
	}
	return svgSigns.ReplaceAll(b.Bytes(), nil), nil
}

// About is what a document says of itself.
type About struct {
	Title, Subject, Author string
	// Keywords say what it was made of.
	Keywords string
	// Language is a tag of BCP 47, such as en.
	Language string
}

// PDF writes pages as a document.
func PDF(pages []*Page, about About) ([]byte, error) {
	var b bytes.Buffer
	w := pdf.New(
		&b,
		pages[0].Width,
		pages[0].Height,
		&pdf.Options{Compress: false, SubsetFonts: true, ImageEncoding: canvas.Lossless},
	)
	w.SetInfo(about.Title, about.Subject, about.Keywords, about.Author, "Slow Reveal")
	for i, p := range pages {
		if i > 0 {
			w.NewPage(p.Width, p.Height)
		}
		p.canvas.RenderTo(w)
	}
	if err := w.Close(); err != nil {
		return nil, fmt.Errorf("writing the document: %w", err)
	}
	return finish(b.Bytes(), pages, about)
}

// Picture draws the page as a picture so many pixels wide, on white: to be looked at on a screen.
func (p *Page) Picture(width int) image.Image {
	return rasterizer.Draw(p.canvas, canvas.DPMM(float64(width)/p.Width), canvas.DefaultColorSpace)
}
