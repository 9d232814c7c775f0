package demo

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
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
			want := math.Abs(areaOf(c.outer))
			for _, h := range c.holes {
				want -= math.Abs(areaOf(h))
			}
			points, triangles := triangulate(c.outer, c.holes...)
			require.NotEmpty(t, triangles)
			sum := 0.0
			for _, q := range triangles {
				a := turn(points[q[0]], points[q[1]], points[q[2]]) / 2
				assert.GreaterOrEqual(t, a, -1e-9)
				sum += a
			}
			assert.InDelta(t, want, sum, 1e-6*want)
		})
	}
}

func areaOf(p polygon) float64 {
	sum := 0.0
	for i := range p {
		q := p[(i+1)%len(p)]
		sum += (p[i][0]*q[1] - p[i][1]*q[0]) / 2
	}
	return sum
}
