package shoot

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

// The kinds. All layers of one order lie over each other pixel by pixel.
const (
	Shaded LayerKind = "shaded" // the picture as it is
	Edges  LayerKind = "edges"  // the edges that are seen, before nothing
	Hidden LayerKind = "hidden" // all edges, those behind surfaces too
	Matte  LayerKind = "matte"  // white where some parts are seen, black elsewhere
	Depth  LayerKind = "depth"  // how far solid surfaces are: white at the eye, black far away
	Ground LayerKind = "ground" // the background alone
)

// Layer is one of the pictures that are made of a moment.
type Layer struct {
	Kind LayerKind `json:"kind"`
	// Name tells mattes apart, Nodes are the parts or subassemblies that a matte is of.
	Name  string            `json:"name,omitempty"`
	Nodes []assembly.NodeID `json:"nodes,omitempty"`
}

var plain = regexp.MustCompile(`[^A-Za-z0-9_-]+`)

// Folder is a name for the layer's files that is one everywhere.
func (l *Layer) Folder() string {
	if l.Kind != Matte {
		return string(l.Kind)
	}
	return "matte-" + plain.ReplaceAllString(l.Name, "-")
}

// Check says what is wrong with a layer.
func (l *Layer) Check() error {
	switch l.Kind {
	case Shaded, Edges, Hidden, Depth, Ground:
		return nil
	case Matte:
		if l.Name == "" || len(l.Name) > 80 || len(l.Nodes) == 0 {
			return fmt.Errorf("a matte needs a name and parts")
		}
		return nil
	}
	return fmt.Errorf("there is no layer %q; there are shaded, edges, hidden, matte, depth, ground", l.Kind)
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
	case Edges, Hidden:
		q.Background = Background{Clear: true}
	case Matte, Depth:
		q.Background = Background{Top: &space.Triple{}, Foot: &space.Triple{}}
	case Ground:
		q.Background.Clear = false
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
			plate.renderer.KeepDeep()
		}
		if deep || l.Kind != Shaded {
			plate.noisy = false
			plate.renderer.RoundToNearest() // layers are reckoned with
		}
	}
	if l.Kind == Matte {
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

// TakeDeep takes the picture at t with 16 bits a colour.
func (l *Lens) TakeDeep(t reveal.Micros) *image.NRGBA64 {
	l.Take(t)
	a := l.camera.plates[0]
	if len(l.camera.plates) == 1 {
		return render.DeepOpaque(a.picture.Width, a.picture.Height, a.renderer.Deep(a.picture))
	}
	b := l.camera.plates[1]
	return render.DeepMatte(a.picture.Width, a.picture.Height, a.renderer.Deep(a.picture), b.renderer.Deep(b.picture))
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
func (c *camera) dress(backdrop *space.Triple) {
	if c.shaded() {
		return
	}
	v := c.view
	if v.Sheets == nil {
		v.Sheets = make([]space.Triple, len(v.World))
	}
	v.AllEdges = c.layer.Kind == Hidden
	if c.layer.Kind == Matte && v.Inks == nil {
		v.Inks = make([]space.Triple, len(v.World))
	}
	if c.layer.Kind != Edges && c.layer.Kind != Hidden {
		v.Flow = v.Flow[:0]
	}
	if c.layer.Kind != Depth {
		v.WithoutShadow()
	}
	for i := range v.Surface {
		switch c.layer.Kind {
		case Edges:
			v.Surface[i], v.Sheets[i] = film.Surface{Paper: 1, Faces: v.Surface[i].Faces, Edges: 1}, *backdrop
		case Hidden:
			v.Surface[i], v.Sheets[i] = film.Surface{Paper: 1, Edges: 1}, *backdrop
		case Matte:
			// A part's lines belong to it.
			v.Surface[i].Paper, v.Sheets[i] = 1, space.Triple{}
			if c.matte[i] {
				v.Sheets[i] = space.Triple{1, 1, 1}
			}
			v.Inks[i] = v.Sheets[i]
		case Ground:
			v.Opacity[i] = 0
		}
	}
}
