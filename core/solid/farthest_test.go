package solid_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/space"
	"slowreveal/demo"
)

// Of each shape of the example the points that are kept reach as far as all do, within a fiftieth of its size.
func TestFarthestPointsReachAsFarAsAll(t *testing.T) {
	for _, s := range demo.Pump().Shapes {
		kept := s.Farthest()
		assert.LessOrEqual(t, len(kept), 98)
		size := r3.Norm(s.Bounds.Size())
		for _, d := range []space.Vec{{X: 1}, {Y: -1}, {X: 0.3, Y: 0.5, Z: -0.81}, {X: -0.7, Y: 0.1, Z: 0.7}} {
			all, some := -1e9, -1e9
			for v := range uint32(len(s.Positions) / 3) {
				all = max(all, r3.Dot(d, s.Point(v)))
			}
			for _, p := range kept {
				some = max(some, r3.Dot(d, p))
			}
			assert.InDelta(t, all, some, size/50)
		}
	}
}
