package solid

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/space"
)

// NearestFacing is the point of the surface that is nearest to a point, of those triangles whose normal is within an angle
// (its cosine) of a direction; where that is zero, of all. far is how far it is, mm, infinite where no triangle faces so.
func (s *Shape) NearestFacing(p, towards space.Vec, cosine float64) (point, normal space.Vec, far float64) {
	far = math.Inf(1)
	any := towards == (space.Vec{})
	for t := range len(s.Triangles) / 3 {
		c := s.Triangle(uint32(t))
		n, area := c.Normal()
		if area == 0 || !any && r3.Dot(n, towards) < cosine {
			continue
		}
		q := c.nearest(p)
		if d := r3.Norm(r3.Sub(q, p)); d < far {
			point, normal, far = q, n, d
		}
	}
	return point, normal, far
}
