package linedrawing

import (
	"context"
	"math"
	"sync"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// Body is a shape with what drawing it takes, whatever it is seen from. It may be drawn by several at once.
type Body struct {
	Shape  *solid.Shape
	edges  []solid.DrawnEdge
	closed bool
	once   sync.Once
	tree   *solid.BVH
}

// NewBody prepares a shape for drawings.
func NewBody(s *solid.Shape) *Body { return &Body{Shape: s, edges: s.DrawnEdges(), closed: s.Closed()} }

// bvh is the shape's tree, which only bodies need that go into others.
func (b *Body) bvh() *solid.BVH {
	b.once.Do(func() { b.tree = solid.NewBVH(b.Shape) })
	return b.tree
}

// Part is a part as it stands in the drawing.
type Part struct {
	Node  int // its index in the assembly
	Body  *Body
	World space.Rigid // from the shape's frame to the world
	Clear bool        // it is seen through: it hides nothing
}

// Point is a point of the picture plane: x to the right, y up, (0, 0) where the camera looks. Of a perspective camera
// it is in tangents (the plane stands at the distance 1), of an orthographic one in mm.
type Point struct{ X, Y float64 }

// Kind says what a line is of its part.
type Kind uint8

// The kinds of lines.
const (
	Feature      Kind = iota // an edge between two faces that are both seen
	Contour                  // where the surface turns away from the eye, or ends
	Intersection             // where two parts go into one another
	Hatch                    // on a face that is cut open
	Flow                     // where a part has come from
)

// Line is a line of the drawing.
type Line struct {
	Kind   Kind
	Node   int  // of the part; −1 for flow lines
	Hidden bool // something is in front of it
	Clear  bool // its part is seen through
	// Points are at least two; a closed line ends where it begins.
	Points []Point
	// Behind says at which ends, first and last, the line goes on behind something that stands clear of it.
	Behind [2]bool
}

// Closed reports whether the line comes back to where it begins.
func (l *Line) Closed() bool { return l.Points[0] == l.Points[len(l.Points)-1] }

// Options say what is drawn.
type Options struct {
	// Hidden also returns the lines that are hidden.
	Hidden bool
	// Aspect is the frame's, width over height; lines end at its border. 0 for a drawing without one.
	Aspect float64
	// Flow are lines in the world to draw beside those of the parts.
	Flow []film.Segment
	// Given are others.
	Given []Given
}

// Given is a straight line in the world that is of a part, though not of its shape's edges.
type Given struct {
	From, To space.Vec
	Kind     Kind
	Node     int
}

// Draw returns the lines of parts as a camera sees them. The error is that of ctx.
func Draw(ctx context.Context, camera reveal.Camera, parts []Part, o Options) ([]Line, error) {
	s := newScene(camera, o.Aspect)
	for i := range parts {
		s.add(&parts[i])
	}
	if err := s.intersect(ctx, parts); err != nil {
		return nil, err
	}
	for i := range o.Flow {
		s.segment(o.Flow[i].From, o.Flow[i].To, Flow, -1)
	}
	for i := range o.Given {
		s.segment(o.Given[i].From, o.Given[i].To, o.Given[i].Kind, int32(o.Given[i].Node))
	}
	s.bin()
	pieces, err := s.cut(ctx, o.Hidden)
	if err != nil {
		return nil, err
	}
	return join(pieces, s.grain), nil
}

// scene is what is drawn, in the camera's frame: x to the right, y up, looking along −z.
type scene struct {
	orthographic bool
	toCamera     space.Rigid
	frame        [2]float64 // half the width and height that are drawn, on the picture plane
	triangles    []triangle
	segments     []segment
	extent       float64 // of all that is drawn, mm
	slack        float64 // how far behind a plane a point has to be to be hidden by it, mm
	grain        float64 // on the picture plane: what is nearer than that is at the same place
	grid         grid
}

// near is how near to a perspective eye something has to be to be left out, mm.
const near = 1e-2

// widestView bounds what a perspective drawing without a frame shows, as a tangent.
const widestView = 4

// slackShare is the slack as a share of the size of what is drawn: coordinates have 24 bits.
const slackShare = 4e-6

func newScene(c reveal.Camera, aspect float64) *scene {
	eye := film.Eye(c)
	s := &scene{orthographic: c.Orthographic, toCamera: eye.Inverse(), frame: [2]float64{widestView, widestView}}
	if s.orthographic {
		s.frame = [2]float64{math.Inf(1), math.Inf(1)}
	}
	if aspect > 0 {
		s.frame[0], s.frame[1] = film.Field(c.FocalLength, aspect)
		if s.orthographic {
			s.frame[0], s.frame[1] = s.frame[0]*c.Distance, s.frame[1]*c.Distance
		}
	}
	return s
}

// project returns where a point of the camera's frame is on the picture plane.
func (s *scene) project(p space.Vec) Point {
	if s.orthographic {
		return Point{p.X, p.Y}
	}
	return Point{p.X / -p.Z, p.Y / -p.Z}
}

// toEye is the direction from a point to the eye, not of unit length.
func (s *scene) toEye(p space.Vec) space.Vec {
	if s.orthographic {
		return space.Vec{Z: 1}
	}
	return r3.Scale(-1, p)
}

// segment is a straight line in the camera's frame.
type segment struct {
	a, b  space.Vec
	kind  Kind
	node  int32
	clear bool // its part is seen through
}

// add puts a part's triangles and edges into the scene.
func (s *scene) add(p *Part) {
	m := s.toCamera.Mul(&p.World)
	shape := p.Body.Shape
	points := make([]space.Vec, len(shape.Positions)/3)
	for i := range points {
		points[i] = m.Apply(space.Vec{
			X: float64(shape.Positions[3*i]), Y: float64(shape.Positions[3*i+1]), Z: float64(shape.Positions[3*i+2]),
		})
		s.extent = max(s.extent, math.Abs(points[i].X), math.Abs(points[i].Y), math.Abs(points[i].Z))
	}
	of := body{int32(p.Node), p.Body.closed, p.Clear}
	for t := 0; t < len(shape.Triangles); t += 3 {
		s.triangle(points[shape.Triangles[t]], points[shape.Triangles[t+1]], points[shape.Triangles[t+2]], of)
	}
	for _, e := range p.Body.edges {
		a, b := m.Apply(wide(e.A)), m.Apply(wide(e.B))
		kind, drawn := s.kindOf(&e, &m, a)
		if drawn {
			s.put(segment{a, b, kind, int32(p.Node), p.Clear})
		}
	}
}

// kindOf says what an edge is from where the eye is, and whether it may be seen at all.
func (s *scene) kindOf(e *solid.DrawnEdge, m *space.Rigid, a space.Vec) (kind Kind, drawn bool) {
	if e.N0 == e.N1 && e.N0 == [3]float32{} { // open, or more than two faces
		return Contour, true
	}
	eye := s.toEye(a)
	f0, f1 := r3.Dot(m.R.Apply(wide(e.N0)), eye) > 0, r3.Dot(m.R.Apply(wide(e.N1)), eye) > 0
	switch {
	case f0 != f1:
		return Contour, true
	case e.Shows == solid.OnlyBetween, e.Shows == solid.NotBehind && !f0:
		return Feature, false
	}
	return Feature, true
}

// segment adds a line that is given in the world.
func (s *scene) segment(a, b space.Vec, kind Kind, node int32) {
	s.put(segment{s.toCamera.Apply(a), s.toCamera.Apply(b), kind, node, false})
}

// put adds a line of the camera's frame, as far as it lies before the eye and inside the frame.
func (s *scene) put(g segment) {
	a, b := g.a, g.b
	from, to := 0.0, 1.0
	d := r3.Sub(b, a)
	within := func(at, slope float64) { // at + slope·t ≥ 0
		switch {
		case slope > 0:
			from = max(from, -at/slope)
		case slope < 0:
			to = min(to, -at/slope)
		case at < 0:
			to = -1
		}
	}
	w, h := s.frame[0], s.frame[1]
	if s.orthographic {
		if !math.IsInf(w, 0) {
			within(w-a.X, -d.X)
			within(w+a.X, d.X)
			within(h-a.Y, -d.Y)
			within(h+a.Y, d.Y)
		}
	} else {
		within(-a.Z-near, -d.Z)
		within(-a.Z*w-a.X, -d.Z*w-d.X)
		within(-a.Z*w+a.X, -d.Z*w+d.X)
		within(-a.Z*h-a.Y, -d.Z*h-d.Y)
		within(-a.Z*h+a.Y, -d.Z*h+d.Y)
	}
	if from >= to {
		return
	}
	if to < 1 {
		g.b = r3.Add(a, r3.Scale(to, d))
	}
	if from > 0 {
		g.a = r3.Add(a, r3.Scale(from, d))
	}
	s.segments = append(s.segments, g)
}

func wide(v [3]float32) space.Vec {
	return space.Vec{X: float64(v[0]), Y: float64(v[1]), Z: float64(v[2])}
}

// Bounds returns the least and the greatest coordinates of lines.
func Bounds(lines []Line) (least, greatest Point) {
	least, greatest = Point{math.Inf(1), math.Inf(1)}, Point{math.Inf(-1), math.Inf(-1)}
	for i := range lines {
		for _, p := range lines[i].Points {
			least = Point{math.Min(least.X, p.X), math.Min(least.Y, p.Y)}
			greatest = Point{math.Max(greatest.X, p.X), math.Max(greatest.Y, p.Y)}
		}
	}
	return least, greatest
}
