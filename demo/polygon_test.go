package demo

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/outline"
)

// Triangles of a cut outline must cover exactly its area: none is turned over
// and none lies in a hole.
func TestTriangulateCoversTheAreaLessItsHoles(t *testing.T) {
	for name, c := range map[string]struct {
		outer polygon
		holes []polygon
	}{
		"plain":        {circle(10, 40), nil},
		"one hole":     {circle(10, 40), []polygon{circle(4, 20)}},
		"ring gear":    {circle(31, 64), []polygon{gear(1, 48, true)}},
		"four corners": {roundedRect(0, 0, 84, 84, 6), []polygon{circle(24, 48), circleAt(36, 36, 1.65, 20), circleAt(-36, 36, 1.65, 20), circleAt(-36, -36, 1.65, 20), circleAt(36, -36, 1.65, 20)}},
		"rotor plate":  {lobed(22, 3), []polygon{circle(2.2, 20), circleAt(0, 15.5, 2, 20), circleAt(-13.4, -7.75, 2, 20), circleAt(13.4, -7.75, 2, 20)}},
	} {
		t.Run(name, func(t *testing.T) {
			want := math.Abs(outline.Area(c.outer))
			for _, h := range c.holes {
				want -= math.Abs(outline.Area(h))
			}
			inner := make([][]point, len(c.holes))
			for i, h := range c.holes {
				inner[i] = h
			}
			points, triangles := outline.Triangulate(c.outer, inner...)
			require.NotEmpty(t, triangles)
			sum := 0.0
			for _, q := range triangles {
				a := outline.Area(polygon{points[q[0]], points[q[1]], points[q[2]]})
				assert.GreaterOrEqual(t, a, -1e-9)
				sum += a
			}
			assert.InDelta(t, want, sum, 1e-6*want)
		})
	}
}
