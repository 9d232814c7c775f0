package clearance

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// smooth is the angle between two faces, rad, up to which they stand for one round surface.
const smooth = 0.6

// coarsest is what the facets of a shape are taken to deviate at most, mm.
const coarsest = 0.5

// deviation is how far a shape's facets lie inside the round surface that they stand for, mm: w/2 · tan(α/4) for
// facets of width w that meet at an angle α, which is the height of an arc over its chord.
func deviation(s *solid.Shape) float64 {
	type corner [3]float32
	type edge [2]corner
	type side struct {
		normal space.Vec
		width  float64 // of the triangle, across the edge
	}
	at := func(v uint32) corner { return corner(s.Positions[3*v : 3*v+3]) }
	sides := map[edge]side{}
	high := 0.0
	for t := 0; t < len(s.Triangles); t += 3 {
		var tri solid.Triangle
		var corners [3]corner
		for k, v := range s.Triangles[t : t+3] {
			corners[k] = at(v)
			tri[k] = space.Vec{X: float64(corners[k][0]), Y: float64(corners[k][1]), Z: float64(corners[k][2])}
		}
		n, area := tri.Normal()
		if area == 0 {
			continue
		}
		for k := range 3 {
			a, b := corners[k], corners[(k+1)%3]
			own := side{n, 2 * area / r3.Norm(r3.Sub(tri[(k+1)%3], tri[k]))}
			if other, ok := sides[edge{b, a}]; ok {
				if angle := math.Acos(max(-1, min(1, r3.Dot(n, other.normal)))); angle < smooth {
					high = max(high, min(own.width, other.width)/2*math.Tan(angle/4))
				}
				continue
			}
			sides[edge{a, b}] = own
		}
	}
	return min(high, coarsest)
}
