package paper

import (
	"fmt"
	"math"
	"slices"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/fastener"
	"slowreveal/core/film"
	"slowreveal/core/linedrawing"
	"slowreveal/core/product"
	"slowreveal/core/solid"
	"slowreveal/core/space"
	"slowreveal/core/survey"
)

// Section cuts a view open by a plane.
type Section struct {
	// Axis is the assembly's that the plane lies across: x, y or z.
	Axis string `json:"axis"`
	// At is where on it, mm. What lies beyond is left out; with Flip what lies before.
	At   float64 `json:"at"`
	Flip bool    `json:"flip,omitempty"`
}

// Check refuses what is no section.
func (c *Section) Check() error {
	if c.Axis != "x" && c.Axis != "y" && c.Axis != "z" {
		return fmt.Errorf("a section lies across %q, which is no axis: there are x, y and z", c.Axis)
	}
	if math.IsNaN(c.At) || math.Abs(c.At) > 1e6 {
		return fmt.Errorf("a section at %g mm is out of bounds", c.At)
	}
	return nil
}

// Side is the view (film.Views) from which it is seen square on.
func (c *Section) Side() string {
	sides := map[string][2]string{"x": {"right", "left"}, "y": {"top", "bottom"}, "z": {"front", "back"}}[c.Axis]
	if c.Flip {
		return sides[1]
	}
	return sides[0]
}

// Plane is the section's in the world of a frame: what has normal · p > at is left out.
func (c *Section) Plane(fr *film.Frame) (normal space.Vec, at float64) {
	axis := map[string]space.Vec{"x": {X: 1}, "y": {Y: 1}, "z": {Z: 1}}[c.Axis]
	normal = fr.World[0].R.Apply(axis)
	at = r3.Dot(normal, fr.World[0].T) + c.At
	if c.Flip {
		return r3.Scale(-1, normal), -at
	}
	return normal, at
}

// notesOf are the notes of a frame that point at what is left; a nil section leaves all.
func (c *Section) notesOf(fr *film.Frame) []film.Note {
	if c == nil {
		return fr.Notes
	}
	normal, at := c.Plane(fr)
	return slices.DeleteFunc(slices.Clone(fr.Notes), func(n film.Note) bool {
		return r3.Dot(normal, n.At.Vec()) > at+aside
	})
}

// How dense the lines of cut faces are: this many to the diagonal of what is cut, and across the narrower side of a
// face at least so many (common practice, no source).
const (
	hatchesAcross = 80
	hatchesInFace = 4
	// aside is by how much a plane is moved, mm, so that it does not go through corners.
	aside   = 0.0023
	densest = 2 // times as dense as that at most
)

// opened is a subject that a plane has cut open.
type opened struct {
	subject *Subject
	frame   *film.Frame
	lines   []linedrawing.Given
}

// open cuts all that a plane meets. Fasteners stay whole, as drawings have them (ISO 128-3:2020, from memory: screws,
// bolts, pins and shafts are not cut lengthwise); a fastener whose middle lies beyond the plane is left out.
func (s *Subject) open(fr *film.Frame, c *Section) *opened {
	normal, at := c.Plane(fr)
	at += aside // what is symmetrical has corners in its middle
	a := *s.Model.Assembly
	a.Nodes, a.Shapes = slices.Clone(a.Nodes), slices.Clone(a.Shapes)
	m := *s.Model
	m.Assembly, m.Shapes = &a, slices.Clone(m.Shapes)
	frame := *fr
	frame.Opacity = slices.Clone(fr.Opacity)
	facts := survey.Shapes(s.Model.Assembly, s.Model.Shapes)
	o := &opened{frame: &frame}
	cut := &cutFaces{normal: normal}
	all := space.EmptyBox
	for i := range a.Nodes {
		n := &a.Nodes[i]
		if !n.IsPart() || fr.Opacity[i] <= 0.02 {
			continue
		}
		world := &fr.World[i]
		box := a.Shapes[n.Shape].Bounds()
		all = all.Union(box.Moved(world))
		if g := facts[n.Shape].Fastener; g != nil && g.Kind != fastener.Bearing {
			if r3.Dot(normal, world.Apply(box.Centre())) > at {
				frame.Opacity[i] = 0
			}
			continue
		}
		own := world.R.ApplyInverse(normal)
		section, met := s.Model.Shapes[n.Shape].Cut(own, at-r3.Dot(normal, world.T))
		if !met {
			if r3.Dot(normal, world.Apply(box.Centre())) > at {
				frame.Opacity[i] = 0
			}
			continue
		}
		if section.Rest == nil {
			frame.Opacity[i] = 0
			continue
		}
		n.Shape = len(m.Shapes)
		n.Finishes = append(slices.Clone(n.Finishes), n.Finishes[0])
		m.Shapes = append(m.Shapes, section.Rest)
		a.Shapes = append(a.Shapes, product.ShapeRef(section.Rest, fmt.Sprintf("section of %s", n.ID)))
		cut.add(i, world, section.Outlines)
	}
	o.lines = cut.drawn(r3.Norm(all.Size()))
	o.subject = &Subject{Model: &m, Film: s.Film, bodies: s.known()}
	return o
}

// known are the bodies that are ready.
func (s *Subject) known() map[int]*linedrawing.Body {
	s.mutex.Lock()
	defer s.mutex.Unlock()
	bodies := map[int]*linedrawing.Body{}
	for shape, b := range s.bodies {
		bodies[shape] = b
	}
	return bodies
}

// cutFaces are the faces that a plane has cut open, part by part.
type cutFaces struct {
	normal space.Vec
	parts  []cutFace
}

type cutFace struct {
	node     int
	outlines [][]space.Vec // in the world
}

func (c *cutFaces) add(node int, world *space.Rigid, outlines [][]space.Vec) {
	f := cutFace{node: node}
	for _, line := range outlines {
		moved := make([]space.Vec, len(line))
		for i, p := range line {
			moved[i] = world.Apply(p)
		}
		f.outlines = append(f.outlines, moved)
	}
	c.parts = append(c.parts, f)
}

// drawn is the hatching of the faces, a little before them; their outlines are edges of what is left. All faces of a part are hatched
// alike, those of parts beside each other in the other direction or at another distance (ISO 128-3:2020, from memory).
func (c *cutFaces) drawn(size float64) (lines []linedrawing.Given) {
	u, v := solid.AxesOf(c.normal)
	before := r3.Scale(2e-5*size, c.normal)
	for k, part := range c.parts {
		give := func(a, b space.Vec, kind linedrawing.Kind) {
			lines = append(
				lines,
				linedrawing.Given{From: r3.Add(a, before), To: r3.Add(b, before), Kind: kind, Node: part.node},
			)
		}
		angle := math.Pi / 4
		if k%2 == 1 {
			angle = -angle
		}
		along := r3.Add(r3.Scale(math.Cos(angle), u), r3.Scale(math.Sin(angle), v))
		step := size / hatchesAcross * (1 + 0.4*float64(k/2%3))
		step = max(min(step, part.narrow(u, v)/hatchesInFace), step/densest)
		for _, h := range part.hatched(along, r3.Cross(c.normal, along), step) {
			give(h[0], h[1], linedrawing.Hatch)
		}
	}
	return lines
}

// narrow is the shorter side of the box of a part's largest face.
func (f *cutFace) narrow(u, v space.Vec) (side float64) {
	for _, line := range f.outlines {
		box := space.EmptyBox
		for _, p := range line {
			box = box.With(space.Vec{X: r3.Dot(u, p), Y: r3.Dot(v, p)})
		}
		size := box.Size()
		side = max(side, min(size.X, size.Y))
	}
	return side
}

// hatched are lines along a direction, a step apart, as far as they lie in the face: between every second crossing of
// its outlines and the next.
func (f *cutFace) hatched(along, aside space.Vec, step float64) (lines [][2]space.Vec) {
	low, high := math.Inf(1), math.Inf(-1)
	for _, line := range f.outlines {
		for _, p := range line {
			d := r3.Dot(aside, p)
			low, high = min(low, d), max(high, d)
		}
	}
	for n := math.Ceil(low/step + 1e-9); n*step < high; n++ {
		at := n * step
		var crossings []space.Vec
		for _, line := range f.outlines {
			for i, p := range line {
				q := line[(i+1)%len(line)]
				x, y := r3.Dot(aside, p)-at, r3.Dot(aside, q)-at
				if (x >= 0) != (y >= 0) {
					crossings = append(crossings, r3.Add(p, r3.Scale(x/(x-y), r3.Sub(q, p))))
				}
			}
		}
		slices.SortFunc(crossings, func(a, b space.Vec) int {
			return int(math.Copysign(1, r3.Dot(along, r3.Sub(a, b))))
		})
		for i := 1; i < len(crossings); i += 2 {
			lines = append(lines, [2]space.Vec{crossings[i-1], crossings[i]})
		}
	}
	return lines
}
