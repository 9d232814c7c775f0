package clearance

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// grazing is the sine of the angle between the way and a face below which the
// face is slid along, not run into.
const grazing = 0.02

// corner returns how far p can go along way before it runs into the front of a
// triangle, infinite when it never does. way is of unit length.
func corner(p space.Vec, t *solid.Triangle, n, way space.Vec, slack float64) float64 {
	speed := r3.Dot(n, way)
	if speed > -grazing {
		return math.Inf(1)
	}
	s := r3.Dot(n, r3.Sub(t[0], p)) / speed
	if s < -slack {
		return math.Inf(1)
	}
	hit := r3.Add(p, r3.Scale(s, way))
	for e := range 3 {
		if r3.Dot(n, r3.Cross(r3.Sub(t[(e+1)%3], t[e]), r3.Sub(hit, t[e]))) < 0 {
			return math.Inf(1)
		}
	}
	return math.Max(s, 0)
}

// edges returns how far the segment ab can go along way before it runs into the
// segment cd, infinite when it never does.
func edges(a, b, c, d, way space.Vec) float64 {
	u, v := r3.Sub(b, a), r3.Sub(d, c)
	n := r3.Cross(u, v)
	speed := r3.Dot(n, way)
	if math.Abs(speed) < grazing*r3.Norm(u)*r3.Norm(v) {
		return math.Inf(1)
	}
	s := r3.Dot(n, r3.Sub(c, a)) / speed
	if s < 0 {
		return math.Inf(1)
	}
	from := r3.Sub(c, r3.Add(a, r3.Scale(s, way)))
	nn := r3.Dot(n, n)
	i, k := r3.Dot(r3.Cross(from, v), n)/nn, r3.Dot(r3.Cross(from, u), n)/nn
	if i < 0 || i > 1 || k < 0 || k > 1 {
		return math.Inf(1)
	}
	return s
}

// sweep returns how far moving can go along way (of unit length, in still's
// frame) before it touches still, at most limit. place takes moving's frame to
// still's.
func sweep(still, moving *Slim, place *space.Rigid, way space.Vec, limit, slack float64) float64 {
	free := limit
	back := r3.Scale(-1, way)
	still.Tree.Sweep(moving.Tree, place, way, func(t, u uint32) float64 {
		a := still.Tree.Triangle(t)
		b := moving.Tree.Triangle(u).Moved(place)
		na, areaA := a.Normal()
		nb, areaB := b.Normal()
		if areaA == 0 || areaB == 0 {
			return free
		}
		for k := range 3 {
			free = min(free, corner(b[k], &a, na, way, slack), corner(a[k], &b, nb, back, slack))
		}
		if r3.Dot(na, way) > grazing || r3.Dot(nb, way) < -grazing {
			return free
		}
		for i := range 3 {
			for k := range 3 {
				free = min(free, edges(b[i], b[(i+1)%3], a[k], a[(k+1)%3], way))
			}
		}
		return free
	})
	return free
}

// Crosses reports whether the thinned bodies go through each other where they
// are, as a screw does in a hole that was drawn with the core's diameter.
func (s *Slim) Crosses(o *Slim, place *space.Rigid) bool {
	found := false
	s.Tree.Near(o.Tree, place, 0, func(t, u uint32) bool {
		a, b := s.Tree.Triangle(t), o.Tree.Triangle(u).Moved(place)
		found = solid.Touch(&a, &b)
		return !found
	})
	return found
}
