package proof

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/film"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// turning tells what is apart while a body turns by any angle about an axis, and advances along it: only how far points
// lie along the axis (z) and from it (r) counts then. A screw in its bore is told apart at once for all of its turns.
type turning struct {
	pivot, axis, side, up space.Vec
	low, high             float64 // of the advance, mm
}

func newTurning(h *film.Helix) turning {
	side, ok := space.Normalize(r3.Cross(h.Axis, space.Vec{X: 1}))
	if !ok || math.Abs(h.Axis.X) > 0.9 {
		side, _ = space.Normalize(r3.Cross(h.Axis, space.Vec{Y: 1}))
	}
	return turning{
		pivot: h.Pivot,
		axis:  h.Axis,
		side:  side,
		up:    r3.Cross(h.Axis, side),
		low:   min(0, h.Advance),
		high:  max(0, h.Advance),
	}
}

// seen is a point in the frame of the axis: Z along it.
func (w *turning) seen(p space.Vec) space.Vec {
	p = r3.Sub(p, w.pivot)
	return space.Vec{X: r3.Dot(w.side, p), Y: r3.Dot(w.up, p), Z: r3.Dot(w.axis, p)}
}

// back takes a point from the frame of the axis.
func (w *turning) back(p space.Vec) space.Vec {
	return r3.Add(w.pivot, r3.Add(r3.Scale(p.X, w.side), r3.Add(r3.Scale(p.Y, w.up), r3.Scale(p.Z, w.axis))))
}

func (w *turning) around(b space.Box) space.Box {
	out := space.EmptyBox
	for i := range 8 {
		out = out.With(w.seen(b.Corner(i)))
	}
	return out
}

// radii are how near and how far from the axis points of a box lie.
func radii(b *space.Box) (near, far float64) {
	dx, dy := max(b.Min.X, -b.Max.X, 0), max(b.Min.Y, -b.Max.Y, 0)
	return hypot(dx, dy), hypot(max(-b.Min.X, b.Max.X), max(-b.Min.Y, b.Max.Y))
}

// seenApart reports whether two triangles stay apart; both are seen from the axis, and y turns. It looks for a line in
// the plane of z and r that divides them: across the axis, along it, and along what either slopes.
func (w *turning) seenApart(x, y *solid.Triangle) bool {
	if w.apartAlong(x, y, 0, 1) || w.apartAlong(x, y, 1, 0) {
		return true
	}
	for _, t := range [2]*solid.Triangle{x, y} {
		n, area := t.Normal()
		if area == 0 {
			continue
		}
		m := middle(t)
		across := hypot(m.X, m.Y)
		if across < 1e-9 {
			continue
		}
		radial := (n.X*m.X + n.Y*m.Y) / across
		if l := hypot(n.Z, radial); l > 1e-9 && w.apartAlong(x, y, n.Z/l, radial/l) {
			return true
		}
	}
	return false
}

// apartAlong compares along·z + out·r of both.
func (w *turning) apartAlong(x, y *solid.Triangle, along, out float64) bool {
	low, high := extent(x, along, out)
	from, to := extent(y, along, out)
	return from+min(along*w.low, along*w.high) > high+1e-9 || to+max(along*w.low, along*w.high) < low-1e-9
}

// extent bounds along·z + out·r over a triangle. r is convex: it is greatest at a corner, and nowhere less than what is
// seen of it along the direction of the triangle's point nearest to the axis, which is linear.
func extent(t *solid.Triangle, along, out float64) (low, high float64) {
	q := nearest(t)
	l := hypot(q.X, q.Y)
	if l > 0 {
		q.X, q.Y = q.X/l, q.Y/l
	}
	low, high = math.Inf(1), math.Inf(-1)
	for _, p := range t {
		r, seen := hypot(p.X, p.Y), max(q.X*p.X+q.Y*p.Y, 0)
		if out < 0 {
			r, seen = seen, r
		}
		low, high = min(low, along*p.Z+out*seen), max(high, along*p.Z+out*r)
	}
	return low, high
}

// nearest is the point of a triangle, seen along the axis, that is nearest to it: zero where the axis goes through.
func nearest(t *solid.Triangle) (q space.Vec) {
	best, turns := math.Inf(1), [3]bool{}
	for i := range 3 {
		a, b := t[i], t[(i+1)%3]
		dx, dy := b.X-a.X, b.Y-a.Y
		turns[i] = dx*a.Y-dy*a.X < 0
		s := 0.0
		if l := dx*dx + dy*dy; l > 0 {
			s = max(0, min(1, -(a.X*dx+a.Y*dy)/l))
		}
		x, y := a.X+s*dx, a.Y+s*dy
		if d := x*x + y*y; d < best {
			best, q = d, space.Vec{X: x, Y: y}
		}
	}
	if turns[0] == turns[1] && turns[1] == turns[2] {
		return space.Vec{}
	}
	return q
}

// hypot is as math.Hypot, in half the time: nothing here comes near the ends of the numbers.
func hypot(x, y float64) float64 { return math.Sqrt(x*x + y*y) }
