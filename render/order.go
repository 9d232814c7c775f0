package render

import (
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// order is in which order a shape's triangles are drawn: those that look away from its
// middle first, which hide most of the others (the walls of bores and pockets).
type order struct{ outer, inner []int32 }

func orderOf(s *solid.Shape) (o order) {
	middle := s.Bounds.Centre()
	for t := 0; t < len(s.Triangles); t += 3 {
		var p [3]space.Vec
		for k := range p {
			at := s.Positions[3*s.Triangles[t+k]:]
			p[k] = space.Vec{X: float64(at[0]), Y: float64(at[1]), Z: float64(at[2])}
		}
		away := r3.Cross(r3.Sub(p[1], p[0]), r3.Sub(p[2], p[0]))
		if r3.Dot(away, r3.Sub(p[0], middle)) >= 0 {
			o.outer = append(o.outer, int32(t/3))
		} else {
			o.inner = append(o.inner, int32(t/3))
		}
	}
	return o
}
