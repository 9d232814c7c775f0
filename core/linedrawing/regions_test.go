package linedrawing_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/linedrawing"
)

// raster labels the pixels of a square whose middles lie in what is given.
func raster(side int, in func(x, y float64) int32) []int32 {
	labels := make([]int32, side*side)
	for i := range labels {
		labels[i] = in(float64(i%side)+0.5, float64(i/side)+0.5)
	}
	return labels
}

// enclosed is the area of closed lines, those of holes taken off (the shoelace formula).
func enclosed(lines [][]linedrawing.Point) (sum float64) {
	for _, line := range lines {
		for i := 1; i < len(line); i++ {
			sum += (line[i-1].X*line[i].Y - line[i].X*line[i-1].Y) / 2
		}
	}
	return sum
}

func TestARingHasAnOuterAndAnInnerOutline(t *testing.T) {
	found := linedrawing.Regions(raster(200, func(x, y float64) int32 {
		if r := math.Hypot(x-100, y-100); r < 80 && r > 40 {
			return 3
		}
		return -1
	}), 200, 0.5)
	require.Len(t, found, 1)
	lines := found[3]
	require.Len(t, lines, 2)
	assert.InEpsilon(t, math.Pi*(80*80-40*40), enclosed(lines), 0.01)
	for i, radius := range []float64{80, 40} {
		line := lines[i]
		assert.Equal(t, line[0], line[len(line)-1])
		assert.Less(t, len(line), 60, "few points do")
		for _, p := range line {
			assert.InDelta(t, radius, math.Hypot(p.X-100, p.Y-100), 1)
		}
	}
}

// A slanted border between two areas: both have it, and all of it is straight.
func TestAStraightBorderIsOneLine(t *testing.T) {
	found := linedrawing.Regions(raster(100, func(x, y float64) int32 {
		if y < 20+x/14 {
			return 0
		}
		return 1
	}), 100, 0.5)
	require.Len(t, found, 2)
	assert.InDelta(t, 100*100, enclosed(found[0])+enclosed(found[1]), 60, "within a third of a pixel along the sides")
	for label, lines := range found {
		require.Len(t, lines, 1, label)
		assert.LessOrEqual(t, len(lines[0]), 16, label)
	}
}

// What touches in a corner alone is two areas, also where each goes on elsewhere.
func TestWhatTouchesInACornerIsApart(t *testing.T) {
	found := linedrawing.Regions([]int32{
		0, -1, -1,
		-1, 0, 0,
		-1, -1, 0,
	}, 3, 0.1)
	require.Len(t, found[0], 2)
	assert.Empty(t, linedrawing.Regions([]int32{-1, -1}, 2, 1))
}
