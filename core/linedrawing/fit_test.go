package linedrawing

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestCurvesPassTheirPoints(t *testing.T) {
	for _, n := range []int{12, 24, 60, 360} {
		var round []Point
		for k := range n + 1 {
			s, c := math.Sincos(2 * math.Pi * float64(k%n) / float64(n))
			round = append(round, Point{20 * c, 20 * s})
		}
		path := Fit(round, 0.02)
		assert.LessOrEqual(t, len(path.Curves), 12, "%d points of a round", n)
		assert.True(t, path.Closed)
		from := path.From
		for _, c := range path.Curves {
			for k := range 21 {
				p := bezier(&[4]Point{from, c.C1, c.C2, c.To}, float64(k)/20)
				assert.InDelta(
					t,
					20,
					math.Hypot(p.X, p.Y),
					0.03+20*(1-math.Cos(math.Pi/float64(n))),
					"%d points of a round",
					n,
				)
			}
			from = c.To
		}
	}
}

func TestStraightLinesStayStraightAndCornersSharp(t *testing.T) {
	square := []Point{{0, 0}, {5, 0}, {10, 0}, {10, 10}, {0, 10}, {0, 0}}
	path := Fit(square, 0.02)
	require.Len(t, path.Curves, 4)
	for _, c := range path.Curves {
		assert.True(t, c.Straight)
	}
	// A long straight line that goes over into a round stays straight, and the round does not swing out.
	slot := []Point{{0, 0}, {100, 0}}
	for k := 1; k <= 12; k++ {
		s, c := math.Sincos(math.Pi * float64(k) / 12)
		slot = append(slot, Point{100 + 5*s, 5 - 5*c})
	}
	slot = append(slot, Point{0, 10})
	path = Fit(slot, 0.02)
	assert.True(t, path.Curves[0].Straight)
	from := path.From
	for _, c := range path.Curves {
		for k := range 21 {
			p := bezier(&[4]Point{from, c.C1, c.C2, c.To}, float64(k)/20)
			assert.True(t, p.Y > -0.05 && p.Y < 10.05 && p.X < 105.1, "%v", p)
		}
		from = c.To
	}
}
