package solid

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/space"
)

// Heart returns the point that stands for the shape where a line leads to it: the middle of its box, where that lies
// in the body or the body goes around it, as a ring or a tube does; else, as with a U or an L, the point of the surface
// that is nearest to it.
func (s *Shape) Heart() space.Vec {
	middle := s.Bounds.Centre()
	if s.goesAround(middle) {
		return middle
	}
	best, heart := math.Inf(1), middle
	for t := 0; t < len(s.Triangles); t += 3 {
		f := Triangle{
			at(s.Positions, s.Triangles[t]),
			at(s.Positions, s.Triangles[t+1]),
			at(s.Positions, s.Triangles[t+2]),
		}
		p := f.nearest(middle)
		if d := r3.Norm2(r3.Sub(p, middle)); d < best {
			best, heart = d, p
		}
	}
	return heart
}

const (
	aroundRays   = 24
	aroundEnough = 20 // of them: a circlip goes around its middle, a U does not
)

// goesAround reports whether in one of the planes of the axes nearly all ways from a point meet the surface.
func (s *Shape) goesAround(p space.Vec) bool {
	for plane := range 3 {
		met := 0
		for k := range aroundRays {
			sin, cos := math.Sincos(2 * math.Pi * (float64(k) + 0.37) / aroundRays) // not along what is drawn on a grid
			way := [3]float64{}
			way[(plane+1)%3], way[(plane+2)%3] = cos, sin
			if s.met(p, space.Vec{X: way[0], Y: way[1], Z: way[2]}) {
				met++
			}
		}
		if met >= aroundEnough {
			return true
		}
	}
	return false
}

// met reports whether a ray meets a triangle (Möller and Trumbore 1997).
func (s *Shape) met(from, way space.Vec) bool {
	for t := 0; t < len(s.Triangles); t += 3 {
		a, b, c := at(s.Positions, s.Triangles[t]), at(s.Positions, s.Triangles[t+1]), at(s.Positions, s.Triangles[t+2])
		e1, e2 := r3.Sub(b, a), r3.Sub(c, a)
		h := r3.Cross(way, e2)
		det := r3.Dot(e1, h)
		if math.Abs(det) < 1e-12 {
			continue
		}
		d := r3.Sub(from, a)
		u := r3.Dot(d, h) / det
		q := r3.Cross(d, e1)
		v := r3.Dot(way, q) / det
		if u >= -1e-9 && v >= -1e-9 && u+v <= 1+1e-9 && r3.Dot(e2, q)/det >= 0 {
			return true
		}
	}
	return false
}
