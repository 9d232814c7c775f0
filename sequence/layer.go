package sequence

import (
	"fmt"
	"image"
	"math"
	"regexp"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/render"
)

// LayerKind is a kind of layer.
type LayerKind string

// The kinds. All layers of one order lie over each other pixel by pixel; background, shadow, faces, edges and words, laid
// over one another in this order, are the picture.
const (
	Shaded          LayerKind = "shaded"     // the picture as it is
	BackgroundLayer LayerKind = "background" // the background alone
	Shadow          LayerKind = "shadow"     // what lies on it
	Faces           LayerKind = "faces"      // surfaces, without their lines
	Edges           LayerKind = "edges"      // lines that are seen
	Words           LayerKind = "words"      // captions, notes, cards, notices, the logo
	Hidden          LayerKind = "hidden"     // all edges, those behind surfaces too
	Matte           LayerKind = "matte"      // white where some parts are seen, black elsewhere
	Depth           LayerKind = "depth"      // how far solid surfaces are: white at the eye, black far away
)

// What layers are reckoned from.
const (
	bare     LayerKind = "bare"     // the picture without words
	grounded LayerKind = "grounded" // the background with the shadow
	lines    LayerKind = "lines"    // how much of each pixel is lines
	covered  LayerKind = "covered"  // how much of each pixel is not the background
)

// Layer is one of the pictures that are made of a moment.
type Layer struct {
	Kind LayerKind `json:"kind"`
	// Name tells mattes apart, Nodes are the parts or subassemblies that a matte is of.
	Name  string            `json:"name,omitempty"`
	Nodes []assembly.NodeID `json:"nodes,omitempty"`
	// Finish is what a matte is of that is not of parts: all surfaces of the finish of this name, and the lines of
	// parts that have it first.
	Finish string `json:"finish,omitempty"`
}

var plain = regexp.MustCompile(`[^A-Za-z0-9_-]+`)

// Folder is a name for the layer's files that is one everywhere.
func (l *Layer) Folder() string {
	if l.Kind != Matte {
		return string(l.Kind)
	}
	return "matte-" + plain.ReplaceAllString(l.Name, "-")
}

// Transparent reports whether the layer's pictures let what is under them be seen.
func (l Layer) Transparent() bool {
	switch l.Kind {
	case Shadow, Faces, Edges, Words, Hidden:
		return true
	}
	return false
}

// Check says what is wrong with a layer.
func (l *Layer) Check() error {
	switch l.Kind {
	case Shaded, BackgroundLayer, Shadow, Faces, Edges, Words, Hidden, Depth:
		return nil
	case Matte:
		if l.Name == "" || len(l.Name) > 80 || (len(l.Nodes) == 0) == (l.Finish == "") {
			return fmt.Errorf("a matte needs a name, and either parts or a finish")
		}
		return nil
	}
	return fmt.Errorf(
		"there is no layer %q; there are shaded, background, shadow, faces, edges, words, hidden, matte, depth",
		l.Kind,
	)
}

// Lens takes single pictures of a film, of one layer.
type Lens struct {
	camera *camera
	plan   *Plan
	layer  Layer
	reach  float64 // mm; what lies as far is black in a picture of depth
}

// Lens prepares to take a layer's pictures; deep is for TakeDeep.
func (p *Plan) Lens(f *film.Film, scene *render.Scene, l Layer, deep bool) (*Lens, error) {
	q := *p
	q.Captions, q.Notices = p.Captions && l.Kind == Shaded, p.Notices && l.Kind == Shaded
	if l.Kind != Shaded {
		q.Logo = nil
	}
	switch l.Kind {
	case Hidden, lines, covered:
		q.Background = Background{Transparent: true, Dark: p.Background.dark()}
	case Matte, Depth:
		q.Background = Background{Top: &space.Vec3{}, Foot: &space.Vec3{}}
	case BackgroundLayer, grounded, bare:
		q.Background.Transparent = false
	}
	c, err := newCamera(f, scene, &q)
	if err != nil {
		return nil, err
	}
	c.layer = &l
	out := &Lens{camera: c, plan: p, layer: l, reach: Reach(f)}
	if l.Kind == Depth {
		c.plates[0].renderer.KeepDepth()
	}
	for _, plate := range c.plates {
		if deep {
			plate.renderer.Keep16Bits()
		}
		if deep || l.Kind != Shaded {
			plate.noisy = false
			plate.renderer.RoundToNearest() // layers are reckoned with
		}
	}
	if l.Kind == Matte && l.Finish != "" {
		if c.finishes, err = finishesNamed(f.Assembly, l.Finish); err != nil {
			return nil, err
		}
	} else if l.Kind == Matte {
		if c.matte, err = nodesUnder(f.Assembly, l.Nodes); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// Reach returns the distance in mm at which pictures of depth are black: no part of the
// film's assembly as it stands is further from any of its steps' cameras.
func Reach(f *film.Film) float64 {
	size := f.Assembly.Bounds().Size()
	diagonal := math.Sqrt(size.X*size.X + size.Y*size.Y + size.Z*size.Z)
	fr, far := f.NewFrame(), 0.0
	for t := reveal.Micros(0); t <= f.Duration(); t += reveal.Second / 2 {
		f.At(t, fr)
		far = max(far, fr.Camera.Distance)
	}
	return far + 2*diagonal
}

// MattesOf returns a matte for every finish that parts wear, or with parts for every part.
func MattesOf(a *assembly.Assembly, parts bool) (list []Layer) {
	worn := map[string]bool{}
	for i := range a.Nodes {
		n := &a.Nodes[i]
		if parts && n.IsPart() {
			list = append(list, Layer{Kind: Matte, Name: string(n.ID), Nodes: []assembly.NodeID{n.ID}})
			continue
		}
		for _, f := range n.Finishes {
			if name := a.Finishes[f].Name; !parts && name != "" && !worn[name] {
				worn[name] = true
				list = append(list, Layer{Kind: Matte, Name: name, Finish: name})
			}
		}
	}
	return list
}

func finishesNamed(a *assembly.Assembly, name string) ([]bool, error) {
	named, some := make([]bool, len(a.Finishes)), false
	for i := range a.Finishes {
		named[i] = a.Finishes[i].Name == name
		some = some || named[i]
	}
	if !some {
		return nil, fmt.Errorf("no part has the finish %q of a matte", name)
	}
	return named, nil
}

func nodesUnder(a *assembly.Assembly, ids []assembly.NodeID) ([]bool, error) {
	index := a.Index()
	in := make([]bool, len(a.Nodes))
	for _, id := range ids {
		i, ok := index[id]
		if !ok {
			return nil, fmt.Errorf("the part %q of a matte is not in the assembly any more", id)
		}
		in[i] = true
	}
	for i := range a.Nodes { // parents come first
		if p := a.Nodes[i].Parent; p >= 0 && in[p] {
			in[i] = true
		}
	}
	return in, nil
}

// Take takes the picture at t; it is overwritten by the next.
func (l *Lens) Take(t reveal.Micros) render.RGBA {
	if l.layer.Kind == Shaded && l.plan.Aperture > 0 {
		l.camera.expose(l.plan.moment(t), &render.Frame{Bytes: l.camera.out})
		return l.camera.out
	}
	l.camera.see(t)
	l.camera.take()
	return l.camera.out
}

// Take16 takes the picture at t with 16 bits a colour.
func (l *Lens) Take16(t reveal.Micros) *image.NRGBA64 {
	l.Take(t)
	a := l.camera.plates[0]
	if len(l.camera.plates) == 1 {
		return render.Opaque16(a.picture.Width, a.picture.Height, a.renderer.Picture16(a.picture))
	}
	b := l.camera.plates[1]
	return render.Matte16(
		a.picture.Width,
		a.picture.Height,
		a.renderer.Picture16(a.picture),
		b.renderer.Picture16(b.picture),
	)
}

// TakeDepth takes a picture of depth at t: 16 bits a pixel, in proportion to the distance,
// 65535 at the eye and 0 at Reach and where there is nothing.
func (l *Lens) TakeDepth(t reveal.Micros, out []uint16) {
	l.Take(t)
	for i, w := range l.camera.plates[0].renderer.Depth() {
		out[i] = 0
		if w > 0 {
			out[i] = uint16(65535*math.Max(0, 1-1/(float64(w)*l.reach)) + 0.5)
		}
	}
}

// dress makes a view show a layer, before a backdrop.
func (c *camera) dress(backdrop *space.Vec3) {
	v := c.view
	switch {
	case c.shaded() || c.layer.Kind == bare:
		return
	case c.layer.Kind == covered:
		v.WithoutShadow()
		return
	}
	if v.Transparent == nil {
		v.Transparent = make([]space.Vec3, len(v.World))
	}
	v.AllEdges = c.layer.Kind == Hidden
	if c.layer.Kind == Matte && v.Inks == nil {
		v.Inks = make([]space.Vec3, len(v.World))
		for _, white := range c.finishes {
			v.TransparentFinish = append(v.TransparentFinish, grey(white))
		}
	}
	if c.layer.Kind != lines && c.layer.Kind != Hidden {
		v.Flow = v.Flow[:0]
	}
	if c.layer.Kind != Depth && c.layer.Kind != grounded {
		v.WithoutShadow()
	}
	for i := range v.Surface {
		switch c.layer.Kind {
		case lines:
			v.Surface[i].Flat, v.Transparent[i] = 1, *backdrop
		case Hidden:
			v.Surface[i], v.Transparent[i] = film.Surface{Flat: 1, Edges: 1}, *backdrop
		case Matte:
			// A part's lines belong to it.
			worn := c.scene.FinishesOf(i)
			v.Surface[i].Flat = 1
			v.Transparent[i] = grey(
				c.finishes == nil && c.matte[i] || c.finishes != nil && len(worn) > 0 && c.finishes[worn[0]],
			)
			v.Inks[i] = v.Transparent[i]
		case BackgroundLayer, grounded:
			v.Opacity[i] = 0
		}
	}
}

func grey(white bool) space.Vec3 {
	if white {
		return space.Vec3{1, 1, 1}
	}
	return space.Vec3{}
}
