package outline_test

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"

	"slowreveal/core/outline"
)

func square(x, y, side float64) []outline.Point {
	return []outline.Point{{x, y}, {x + side, y}, {x + side, y + side}, {x, y + side}}
}

// What squares have in common, by hand.
func TestWhatConvexPolygonsHaveInCommon(t *testing.T) {
	for _, c := range []struct {
		a, b []outline.Point
		area float64
	}{
		{square(0, 0, 2), square(1, 1, 2), 1},
		{square(0, 0, 2), square(0.5, 0.5, 1), 1},
		{square(0, 0, 2), square(3, 0, 1), 0},
		{square(0, 0, 2), square(2, 0, 1), 0}, // along an edge
		{square(0, 0, 2), []outline.Point{{1, -1}, {3, 1}, {1, 3}, {-1, 1}}, 4},
		{square(0, 0, 2), []outline.Point{{1, 0}, {2, 1}, {1, 2}, {0, 1}}, 2},
	} {
		assert.InDelta(t, c.area, outline.Area(outline.Common(c.a, c.b)), 1e-12)
		assert.InDelta(t, c.area, outline.Area(outline.Common(c.b, c.a)), 1e-12)
	}
}

// The hull of points in a square is that square, however many lie in it, and what two hulls have in common is what
// throwing points finds.
func TestHullsHoldTheirPoints(t *testing.T) {
	draw := rand.New(rand.NewPCG(7, 7))
	cloud := func(x, y float64) (list []outline.Point) {
		for range 60 {
			list = append(list, outline.Point{x + draw.Float64(), y + draw.Float64()})
		}
		return list
	}
	assert.ElementsMatch(t, square(0, 0, 1), outline.Hull(append(cloud(0, 0), square(0, 0, 1)...)))
	a, b := outline.Hull(cloud(0, 0)), outline.Hull(cloud(0.4, 0.3))
	assert.Positive(t, outline.Area(a), "anticlockwise")
	const throws = 40_000
	hits := 0
	for range throws {
		p := outline.Point{2 * draw.Float64(), 2 * draw.Float64()}
		if outline.Holds(a, p) && outline.Holds(b, p) {
			hits++
		}
	}
	assert.InDelta(t, 4*float64(hits)/throws, outline.Area(outline.Common(a, b)), 0.02)
}
