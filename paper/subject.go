package paper

import (
	"context"
	"errors"
	"image"
	"image/draw"
	"math"
	"sync"

	"slowreveal/core/film"
	"slowreveal/core/linedrawing"
	"slowreveal/core/product"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/render"
)

// Subject is a reveal of which paper is made.
type Subject struct {
	Model *product.Model
	Film  *film.Film

	once   sync.Once
	scene  *render.Scene
	fault  error
	mutex  sync.Mutex
	bodies map[int]*linedrawing.Body // by shape
}

// NewSubject returns the subject of a document.
func NewSubject(m *product.Model, f *film.Film) *Subject { return &Subject{Model: m, Film: f} }

// Scene is what pictures are rendered of; it is made when it is asked for first.
func (s *Subject) Scene() (*render.Scene, error) {
	s.once.Do(func() { s.scene, s.fault = render.NewScene(s.Model.Assembly, s.Model.Shapes) })
	return s.scene, s.fault
}

// body is a shape that is ready to be drawn.
func (s *Subject) body(shape int) *linedrawing.Body {
	s.mutex.Lock()
	defer s.mutex.Unlock()
	if s.bodies == nil {
		s.bodies = map[int]*linedrawing.Body{}
	}
	if s.bodies[shape] == nil {
		s.bodies[shape] = linedrawing.NewBody(s.Model.Shapes[shape])
	}
	return s.bodies[shape]
}

// At returns the film's frame of a moment.
func (s *Subject) At(t reveal.Micros) *film.Frame {
	fr := s.Film.NewFrame()
	s.Film.At(t, fr)
	return fr
}

// seenThrough is the opacity below which a part hides no lines.
const seenThrough = 0.999

// Parts are the parts that are there in a frame, as a line drawing takes them.
func (s *Subject) Parts(fr *film.Frame) []linedrawing.Part {
	var list []linedrawing.Part
	a := s.Model.Assembly
	for i := range a.Nodes {
		n := &a.Nodes[i]
		if n.Shape < 0 || fr.Opacity[i] <= 0.02 {
			continue
		}
		clear := fr.Opacity[i] < seenThrough || fr.Surface[i].Faces < seenThrough
		for _, f := range n.Finishes {
			clear = clear || a.Finishes[f].Opacity < seenThrough
		}
		list = append(list, linedrawing.Part{Node: i, Body: s.body(n.Shape), World: fr.World[i], Clear: clear})
	}
	return list
}

// Filling is what is under the lines of a view.
type Filling string

// The fillings.
const (
	NoFilling Filling = "none"   // lines alone
	Shaded    Filling = "shaded" // the picture of the film, without its edges
	Tinted    Filling = "tinted" // white parts, those that are marked in a colour
	Flat      Filling = "flat"   // areas of few tones, as vectors; those that are marked in a colour
)

// Fillings are all of them.
var Fillings = []Filling{NoFilling, Shaded, Tinted, Flat}

// ViewSettings say how a view is drawn.
type ViewSettings struct {
	Filling Filling
	// Marked are the nodes, with all below them, that are tinted.
	Marked []int
	// Hidden draws hidden lines dashed, FlowLines those from where parts have come.
	Hidden, FlowLines bool
	// Section cuts it open; nil for nothing.
	Section *Section
	// Aspect cuts the drawing off at the frame's border, width over height; 0 draws all there is.
	Aspect float64
}

// View is a moment drawn by a camera.
type View struct {
	Camera reveal.Camera
	Lines  []linedrawing.Line
	// Bounds are the least and greatest coordinates of the lines on the picture plane.
	Min, Max linedrawing.Point
	settings ViewSettings
	subject  *Subject
	frame    *film.Frame
}

// ErrNothing says that a moment has nothing to draw.
var ErrNothing = errors.New("nothing is seen at this moment: choose another one")

// View draws a moment as a camera sees it.
func (s *Subject) View(ctx context.Context, fr *film.Frame, c reveal.Camera, set ViewSettings) (*View, error) {
	o := linedrawing.Options{Hidden: set.Hidden, Aspect: set.Aspect}
	if set.FlowLines {
		for _, f := range fr.Flow {
			if f.From != f.To && f.Opacity > 0.02 {
				o.Flow = append(o.Flow, f)
			}
		}
	}
	if set.Section != nil {
		cut := s.open(fr, set.Section)
		s, fr, o.Given = cut.subject, cut.frame, cut.lines
	}
	lines, err := linedrawing.Draw(ctx, c, s.Parts(fr), o)
	if err != nil {
		return nil, err
	}
	if len(lines) == 0 {
		return nil, ErrNothing
	}
	v := &View{Camera: c, Lines: lines, settings: set, subject: s, frame: fr}
	v.Min, v.Max = linedrawing.Bounds(lines)
	return v, nil
}

// At says where the view stands on a page: the middle of its lines at x, y, and how many mm of paper one unit of the
// picture plane is.
func (v *View) At(x, y, scale float64) Place {
	mx, my := (v.Min.X+v.Max.X)/2, (v.Min.Y+v.Max.Y)/2
	return func(p linedrawing.Point) (float64, float64) { return x + (p.X-mx)*scale, y - (p.Y-my)*scale }
}

// dotsPerMillimetre is how fine the pictures under lines are: 200 to the inch.
const dotsPerMillimetre = 200 / 25.4

// Draw puts the view on a page: what is under its lines, then these.
func (p *Page) Draw(v *View, place Place, pens Pens) error {
	switch v.settings.Filling {
	case "", NoFilling:
	case Flat:
		if err := p.flat(v, place); err != nil {
			return err
		}
	default:
		img, box, err := v.filling(place)
		if err != nil {
			return err
		}
		p.Image(img, box)
	}
	p.Drawing(v.Lines, place, pens)
	return nil
}

// filling renders what is under the lines, and says where it goes on the page.
func (v *View) filling(place Place) (image.Image, Box, error) {
	w := windowOf(v.Camera, v.Min, v.Max)
	x0, y0 := place(linedrawing.Point{X: w.min.X, Y: w.max.Y})
	x1, y1 := place(linedrawing.Point{X: w.max.X, Y: w.min.Y})
	box := Box{x0, y0, x1 - x0, y1 - y0}
	scene, err := v.subject.Scene()
	if err != nil {
		return nil, box, err
	}
	picture, err := v.rendered(scene, &w, pixels(math.Abs(box.Width)), pixels(math.Abs(box.Height)))
	if err != nil {
		return nil, box, err
	}
	img, cut := w.cropped(picture.Image(), v.Min, v.Max)
	x0, y0 = place(linedrawing.Point{X: cut.min.X, Y: cut.max.Y})
	x1, y1 = place(linedrawing.Point{X: cut.max.X, Y: cut.min.Y})
	return img, Box{x0, y0, x1 - x0, y1 - y0}, nil
}

// rendered is the picture that is under the lines: without edges, on white.
func (v *View) rendered(scene *render.Scene, w *window, width, height int) (*render.Picture, error) {
	r, err := render.NewRenderer(scene, width, height, 0)
	if err != nil {
		return nil, err
	}
	white := space.Vec3{1, 1, 1}
	r.SetBackdrop(white, white)
	r.RoundToNearest()
	fr := *v.frame
	fr.Camera, fr.Flow = w.camera, nil
	view := scene.NewView()
	view.Take(scene, &fr, w.aspect())
	view.WithoutShadow()
	for i := range view.Surface {
		view.Surface[i].Edges = 0
		if v.settings.Filling == Tinted {
			view.Tint[i] = film.Tint{Colour: white, Amount: 1}
		}
	}
	if v.settings.Filling == Tinted || v.settings.Filling == Flat {
		for _, i := range v.subject.under(v.settings.Marked) {
			view.Tint[i] = film.Tint{Colour: markColour, Amount: 1}
		}
	}
	picture := render.NewPicture(width, height)
	r.Draw(view, picture)
	return picture, nil
}

// cropped is the part of a window's picture in which there is something to see, and its window.
func (w window) cropped(img *image.NRGBA, least, greatest linedrawing.Point) (*image.NRGBA, window) {
	size := img.Bounds().Size()
	kx, ky := float64(size.X)/(w.max.X-w.min.X), float64(size.Y)/(w.max.Y-w.min.Y)
	const rim = 2 // pixels
	box := image.Rect(
		int((least.X-w.min.X)*kx)-rim, int((w.max.Y-greatest.Y)*ky)-rim,
		int((greatest.X-w.min.X)*kx)+rim+1, int((w.max.Y-least.Y)*ky)+rim+1,
	).Intersect(img.Bounds())
	out := image.NewNRGBA(image.Rect(0, 0, box.Dx(), box.Dy()))
	draw.Draw(out, out.Rect, img, box.Min, draw.Src)
	cut := window{
		min: linedrawing.Point{X: w.min.X + float64(box.Min.X)/kx, Y: w.max.Y - float64(box.Max.Y)/ky},
		max: linedrawing.Point{X: w.min.X + float64(box.Max.X)/kx, Y: w.max.Y - float64(box.Min.Y)/ky},
	}
	return out, cut
}

// markColour is the colour of what is marked, linear.
var markColour = space.Vec3{0.93, 0.42, 0.22}

// under returns nodes with all that is below them.
func (s *Subject) under(nodes []int) (list []int) {
	in := make([]bool, len(s.Model.Assembly.Nodes))
	for _, n := range nodes {
		in[n] = true
	}
	for i := range in { // parents come first
		if p := s.Model.Assembly.Nodes[i].Parent; p >= 0 && in[p] {
			in[i] = true
		}
		if in[i] {
			list = append(list, i)
		}
	}
	return list
}

func pixels(mm float64) int {
	return max(16, min(int(math.Ceil(mm*dotsPerMillimetre)), render.MaxSide))
}

// window is a camera that sees a rectangle of another one's picture plane.
type window struct {
	camera   reveal.Camera
	min, max linedrawing.Point // on the other one's plane
}

func (w *window) aspect() float64 { return (w.max.X - w.min.X) / (w.max.Y - w.min.Y) }

// windowOf returns a camera that sees a rectangle. A perspective one looks where it looked: it sees a rectangle about
// that which holds the one that is asked for.
func windowOf(c reveal.Camera, least, greatest linedrawing.Point) window {
	margin := 0.01 * max(greatest.X-least.X, greatest.Y-least.Y)
	least, greatest = linedrawing.Point{
		X: least.X - margin,
		Y: least.Y - margin,
	}, linedrawing.Point{
		X: greatest.X + margin,
		Y: greatest.Y + margin,
	}
	if !c.Orthographic {
		greatest = linedrawing.Point{X: max(-least.X, greatest.X), Y: max(-least.Y, greatest.Y)}
		least = linedrawing.Point{X: -greatest.X, Y: -greatest.Y}
	}
	across, up := (greatest.X-least.X)/2, (greatest.Y-least.Y)/2
	if c.Orthographic {
		r := c.Orientation.Normalized().Matrix()
		aside := r.Apply(space.Vec{X: (least.X + greatest.X) / 2, Y: (least.Y + greatest.Y) / 2})
		c.Target = space.Vec3{c.Target[0] + aside.X, c.Target[1] + aside.Y, c.Target[2] + aside.Z}
		h, _ := film.Field(c.FocalLength, across/up)
		c.Distance = across / h
	} else {
		h, _ := film.Field(1, across/up)
		c.FocalLength = h / across
	}
	return window{c, least, greatest}
}
