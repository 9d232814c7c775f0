package solid

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/space"
)

// Farthest are the points of a shape, mm, that lie farthest in directions all around, each once: nearly as good as all of
// them to tell where it reaches.
func (s *Shape) Farthest() (list []space.Vec) {
	best := make([]float64, len(around))
	at := make([]space.Vec, len(around))
	for i := range best {
		best[i] = math.Inf(-1)
	}
	for v := range uint32(len(s.Positions) / 3) {
		p := s.Point(v)
		for d := range around {
			if far := r3.Dot(p, around[d]); far > best[d] {
				best[d], at[d] = far, p
			}
		}
	}
	known := map[space.Vec]bool{}
	for _, p := range at {
		if !known[p] {
			known[p] = true
			list = append(list, p)
		}
	}
	return list
}

// around are 98 directions, evenly enough: those to the points of a grid on a cube.
var around = func() (list []space.Vec) {
	for x := -2.0; x <= 2; x++ {
		for y := -2.0; y <= 2; y++ {
			for z := -2.0; z <= 2; z++ {
				if max(math.Abs(x), math.Abs(y), math.Abs(z)) == 2 {
					list = append(list, r3.Unit(space.Vec{X: x, Y: y, Z: z}))
				}
			}
		}
	}
	return list
}()
