package proof

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/film"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// hull is two triangles that move: where they are at the beginning and at the end, and how far, together, their points
// stray from the straight lines between.
type hull struct {
	a, b   [2]solid.Triangle
	strays float64 // mm
	rests  bool    // a stays where it is
}

// apart looks for a direction along which the two, which neither their boxes nor the faces' normals tell apart, are
// apart: the sides that edges draw as they move, and across an edge of each (the separating axes of two convex bodies;
// S. Gottschalk, M. Lin, D. Manocha, 1996, from memory), and, for triangles in one plane, across an edge in its plane. A direction that is not among them is
// missed; then the pair is looked at again in shorter pieces.
func (h *hull) apart(found *space.Vec) bool {
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
	a, b := &h.a[0], &h.b[0]
	var ea, eb [3]space.Vec
	for i := range 3 {
		ea[i], eb[i] = r3.Sub(a[(i+1)%3], a[i]), r3.Sub(b[(i+1)%3], b[i])
	}
	na, nb := r3.Cross(ea[0], ea[1]), r3.Cross(eb[0], eb[1])
	for i := range 3 {
		way := r3.Sub(r3.Sub(h.b[1][i], b[i]), r3.Sub(h.a[1][i], a[i]))
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
	return try(r3.Sub(middle(b), middle(a)))
}

func middle(t *solid.Triangle) space.Vec {
	return r3.Scale(1.0/3, r3.Add(t[0], r3.Add(t[1], t[2])))
}

func (h *hull) apartAlong(n space.Vec) bool {
	aLow, aHigh := along(n, &h.a[0])
	bLow, bHigh := along(n, &h.b[0])
	// What is not apart at the beginning is not apart: often that is enough to know.
	if bLow-aHigh <= h.strays && aLow-bHigh <= h.strays {
		return false
	}
	if !h.rests {
		low, high := along(n, &h.a[1])
		aLow, aHigh = min(aLow, low), max(aHigh, high)
	}
	low, high := along(n, &h.b[1])
	bLow, bHigh = min(bLow, low), max(bHigh, high)
	return bLow-aHigh > h.strays || aLow-bHigh > h.strays
}

func along(n space.Vec, t *solid.Triangle) (low, high float64) {
	a := n.X*t[0].X + n.Y*t[0].Y + n.Z*t[0].Z
	b := n.X*t[1].X + n.Y*t[1].Y + n.Z*t[1].Z
	c := n.X*t[2].X + n.Y*t[2].Y + n.Z*t[2].Z
	if a > b {
		a, b = b, a
	}
	return min(a, c), max(b, c)
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
	return a.Min.X > b.Max.X+within || b.Min.X > a.Max.X+within || a.Min.Y > b.Max.Y+within ||
		b.Min.Y > a.Max.Y+within ||
		a.Min.Z > b.Max.Z+within ||
		b.Min.Z > a.Max.Z+within
}
