package proof

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/film"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// hull is two triangles that move: their corners at the beginning and at the end, and how far, together, their points stray
// from the straight lines between. Of one that stays there are three corners.
type hull struct {
	a, b         [6]space.Vec
	ofA          int
	strays       float64 // mm
	edgeA, edgeB [3]space.Vec
}

func (h *hull) put(a, b *solid.Triangle) {
	for i := range 3 {
		h.edgeA[i], h.edgeB[i] = r3.Sub(a[(i+1)%3], a[i]), r3.Sub(b[(i+1)%3], b[i])
	}
}

// apart looks for a direction along which the two are apart: the faces' normals, the sides that edges draw as they
// move, and across an edge of each (the separating axes of two convex bodies; S. Gottschalk, M. Lin, D. Manocha, 1996, from memory),
// and, for triangles in one plane, across an edge in its plane. A direction that is not among them is missed; then the
// pair is looked at again in shorter pieces.
func (h *hull) apart(found *space.Vec) bool {
	if n, ok := h.boxesApart(); ok {
		*found = n
		return true
	}
	try := func(n space.Vec) bool {
		l := math.Sqrt(n.X*n.X + n.Y*n.Y + n.Z*n.Z)
		if l < 1e-9 {
			return false
		}
		n = space.Vec{X: n.X / l, Y: n.Y / l, Z: n.Z / l}
		if h.apartAlong(n) {
			*found = n
			return true
		}
		return false
	}
	ea, eb := &h.edgeA, &h.edgeB
	na, nb := r3.Cross(ea[0], ea[1]), r3.Cross(eb[0], eb[1])
	if try(na) || try(nb) {
		return true
	}
	for i := range 3 {
		way := r3.Sub(h.b[3+i], h.b[i])
		if h.ofA > 3 {
			way = r3.Sub(way, r3.Sub(h.a[3+i], h.a[i]))
		}
		if try(r3.Cross(eb[i], way)) || try(r3.Cross(ea[i], way)) {
			return true
		}
		for k := range 3 {
			if try(r3.Cross(ea[i], eb[k])) {
				return true
			}
		}
	}
	for i := range 3 {
		if try(r3.Cross(na, ea[i])) || try(r3.Cross(nb, eb[i])) {
			return true
		}
	}
	a, b := solid.Triangle(h.a[:3]), solid.Triangle(h.b[:3])
	return try(r3.Sub(middle(&b), middle(&a)))
}

// boxesApart is apartAlong for the three axes.
func (h *hull) boxesApart() (n space.Vec, apart bool) {
	a, b := space.Nothing, space.Nothing
	for _, p := range h.a[:h.ofA] {
		a = a.With(p)
	}
	for _, p := range h.b {
		b = b.With(p)
	}
	switch {
	case b.Min.X-a.Max.X > h.strays || a.Min.X-b.Max.X > h.strays:
		return space.Vec{X: 1}, true
	case b.Min.Y-a.Max.Y > h.strays || a.Min.Y-b.Max.Y > h.strays:
		return space.Vec{Y: 1}, true
	case b.Min.Z-a.Max.Z > h.strays || a.Min.Z-b.Max.Z > h.strays:
		return space.Vec{Z: 1}, true
	}
	return n, false
}

func middle(t *solid.Triangle) space.Vec {
	return r3.Scale(1.0/3, r3.Add(t[0], r3.Add(t[1], t[2])))
}

func (h *hull) apartAlong(n space.Vec) bool {
	low, high := along(n, h.a[:h.ofA])
	low, high = low-h.strays, high+h.strays
	// The moving one lies on one side as a whole, or the first corner on the other side ends it.
	above, below := true, true
	for i := range h.b {
		p := &h.b[i]
		d := n.X*p.X + n.Y*p.Y + n.Z*p.Z
		above, below = above && d > high, below && d < low
		if !above && !below {
			return false
		}
	}
	return true
}

func along(n space.Vec, points []space.Vec) (low, high float64) {
	low, high = math.Inf(1), math.Inf(-1)
	for i := range points {
		p := &points[i]
		d := n.X*p.X + n.Y*p.Y + n.Z*p.Z
		low, high = min(low, d), max(high, d)
	}
	return low, high
}

func straysOf(arc *film.Arc, b space.Box) float64 {
	most := 0.0
	for i := range 8 {
		most = max(most, arc.Strays(b.Corner(i)))
	}
	return most
}

func grown(b space.Box, by float64) space.Box {
	d := space.Vec{X: by, Y: by, Z: by}
	return space.Box{Min: r3.Sub(b.Min, d), Max: r3.Add(b.Max, d)}
}

func separate(a, b space.Box, within float64) bool {
	return a.Min.X > b.Max.X+within || b.Min.X > a.Max.X+within || a.Min.Y > b.Max.Y+within || b.Min.Y > a.Max.Y+within || a.Min.Z > b.Max.Z+within || b.Min.Z > a.Max.Z+within
}
