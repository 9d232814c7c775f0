package solid

import (
	"cmp"
	"math"
	"slices"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/outline"
	"slowreveal/core/space"
)

// Section is what a plane makes of a shape.
type Section struct {
	// Rest is what lies below the plane, closed again where the shape was; nil where nothing does. It has one submesh more
	// than the shape, the last one: what the plane has cut open.
	Rest *Shape
	// Outlines are the closed lines in which the plane meets the surface, in the shape's frame, without their first point
	// again: seen from above the plane the body lies to the left of them.
	Outlines [][]space.Vec
}

// Cut divides a shape by the plane of the points p with normal · p = at, mm in the shape's frame; normal is of unit
// length. What lies below it, against the normal, is left. ok is false where the plane does not meet the shape: it is
// all below it, or above.
//
// A corner counts as above or below, never as on the plane, so that each triangle is cut in two sides or not at all, and
// the lines close whatever the numbers are. An open surface has lines that do not: there it stays open.
func (s *Shape) Cut(normal space.Vec, at float64) (cut Section, ok bool) {
	c := cutter{
		shape:  s,
		above:  make([]float64, len(s.Positions)/3),
		kept:   map[uint32]uint32{},
		opened: map[[2]uint32]uint32{},
		next:   map[uint32]uint32{},
	}
	c.welded, _ = weld(s.Positions)
	some := [2]bool{}
	for i := range c.above {
		c.above[i] = r3.Dot(normal, s.Point(uint32(i))) - at
		if c.above[i] >= 0 {
			some[1] = true
		} else {
			some[0] = true
		}
	}
	if !some[0] || !some[1] {
		return cut, false
	}
	for _, m := range s.Submeshes {
		first := uint32(len(c.mesh.Triangles) / 3)
		for t := m.First; t < m.First+m.Count; t++ {
			c.triangle(s.Triangles[3*t : 3*t+3])
		}
		c.mesh.Submeshes = append(c.mesh.Submeshes, Submesh{first, uint32(len(c.mesh.Triangles)/3) - first})
	}
	cut.Outlines = c.cap(normal)
	if rest, _, err := New(c.mesh); err == nil {
		cut.Rest = rest
	}
	return cut, true
}

// cutter makes what is left of a shape.
type cutter struct {
	shape  *Shape
	welded []uint32
	above  []float64 // how far above the plane each corner is, mm
	mesh   Mesh
	kept   map[uint32]uint32    // corners that are kept: from which to which
	opened map[[2]uint32]uint32 // by welded ends of an edge, the lower first: where the plane meets it
	next   map[uint32]uint32    // along the outlines, from one of these to the next
}

func (c *cutter) keep(v uint32) uint32 {
	n, ok := c.kept[v]
	if !ok {
		n = c.add(c.shape.Point(v))
		c.kept[v] = n
	}
	return n
}

func (c *cutter) add(p space.Vec) uint32 {
	c.mesh.Positions = append(c.mesh.Positions, float32(p.X), float32(p.Y), float32(p.Z))
	return uint32(len(c.mesh.Positions)/3 - 1)
}

// meet is where the plane meets the edge between two corners, one above it and one below.
func (c *cutter) meet(a, b uint32) uint32 {
	if c.above[a] >= 0 {
		a, b = b, a
	}
	key := [2]uint32{c.welded[a], c.welded[b]}
	n, ok := c.opened[key]
	if !ok {
		u := c.above[a] / (c.above[a] - c.above[b])
		n = c.add(r3.Add(c.shape.Point(a), r3.Scale(u, r3.Sub(c.shape.Point(b), c.shape.Point(a)))))
		c.opened[key] = n
	}
	return n
}

// triangle keeps what of a triangle lies below.
func (c *cutter) triangle(t []uint32) {
	above := 0
	for _, v := range t {
		if c.above[v] >= 0 {
			above++
		}
	}
	switch above {
	case 3:
		return
	case 0:
		c.mesh.Triangles = append(c.mesh.Triangles, c.keep(t[0]), c.keep(t[1]), c.keep(t[2]))
		return
	}
	k := 0 // the corner that is alone on its side
	for (c.above[t[k]] >= 0) != (above == 1) {
		k++
	}
	x, y, z := t[k], t[(k+1)%3], t[(k+2)%3]
	p, q := c.meet(x, y), c.meet(x, z)
	if above == 1 {
		// The surface goes on from p to q below the plane; its border there runs against that of what closes it.
		c.mesh.Triangles = append(c.mesh.Triangles, p, c.keep(y), c.keep(z), p, c.keep(z), q)
		c.next[p] = q
	} else {
		c.mesh.Triangles = append(c.mesh.Triangles, c.keep(x), p, q)
		c.next[q] = p
	}
}

// cap closes what has been cut open, as the last submesh, and returns its outlines.
func (c *cutter) cap(normal space.Vec) (outlines [][]space.Vec) {
	u, v := AxesOf(normal)
	var rings []ring
	starts := make([]uint32, 0, len(c.next))
	for from := range c.next {
		starts = append(starts, from)
	}
	slices.Sort(starts)
	done := map[uint32]bool{}
	for _, from := range starts {
		var loop []uint32
		for at, more := from, true; more && !done[at]; {
			done[at] = true
			loop = append(loop, at)
			at, more = c.next[at]
		}
		if len(loop) < 3 || c.next[loop[len(loop)-1]] != from {
			continue // of an open surface
		}
		r := ring{corners: loop}
		line := make([]space.Vec, len(loop))
		for i, n := range loop {
			p := c.mesh.Positions[3*n : 3*n+3]
			line[i] = space.Vec{X: float64(p[0]), Y: float64(p[1]), Z: float64(p[2])}
			r.flat = append(r.flat, outline.Point{r3.Dot(u, line[i]), r3.Dot(v, line[i])})
		}
		r.area = outline.Area(r.flat)
		outlines = append(outlines, line)
		rings = append(rings, r)
	}
	first := uint32(len(c.mesh.Triangles) / 3)
	for _, g := range nested(rings) {
		c.close(g)
	}
	c.mesh.Submeshes = append(c.mesh.Submeshes, Submesh{first, uint32(len(c.mesh.Triangles)/3) - first})
	return outlines
}

// ring is a closed outline in the plane: anticlockwise around the body, clockwise around a hole in it.
type ring struct {
	corners []uint32
	flat    []outline.Point
	area    float64
}

// group is an outline with the holes in it.
type group struct {
	outer ring
	holes []ring
}

// nested gives each hole to the smallest outline that holds it.
func nested(rings []ring) (groups []group) {
	slices.SortStableFunc(rings, func(a, b ring) int { return cmp.Compare(a.area, b.area) })
	for _, r := range rings {
		if r.area > 0 {
			groups = append(groups, group{outer: r})
		}
	}
	for _, r := range rings {
		if r.area >= 0 {
			continue
		}
		if i := slices.IndexFunc(groups, func(g group) bool { return g.outer.area > -r.area && outline.Holds(g.outer.flat, r.flat[0]) }); i >= 0 {
			groups[i].holes = append(groups[i].holes, r)
		}
	}
	return groups
}

// close fills an outline but for its holes; it looks up.
func (c *cutter) close(g group) {
	corners := slices.Clone(g.outer.corners)
	holes := make([][]outline.Point, len(g.holes))
	for i, h := range g.holes {
		holes[i] = slices.Clone(h.flat)
		slices.Reverse(holes[i])
		back := slices.Clone(h.corners)
		slices.Reverse(back)
		corners = append(corners, back...)
	}
	_, triangles := outline.Triangulate(g.outer.flat, holes...)
	for _, t := range triangles {
		c.mesh.Triangles = append(c.mesh.Triangles, corners[t[0]], corners[t[1]], corners[t[2]])
	}
}

// AxesOf are two directions across a normal, of unit length like it, that make a right-handed frame with it, v the one that is
// upright where the normal is level.
func AxesOf(n space.Vec) (u, v space.Vec) {
	up := space.Vec{Y: 1}
	if math.Abs(n.Y) > 0.9 {
		up = space.Vec{Z: -1}
	}
	u = r3.Unit(r3.Cross(up, n))
	return u, r3.Cross(n, u)
}
