package timecode_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"slowreveal/core/reveal"
	"slowreveal/core/timecode"
)

const s = reveal.Second

// Common practice, no source: 4 s at 30 are 120 frames, 5 s 150.
func TestFrameCounts(t *testing.T) {
	assert.Equal(t, 120, timecode.FrameCount(4*reveal.Second, 30))
	assert.Equal(t, 150, timecode.FrameCount(5*reveal.Second, 30))
	assert.Equal(t, 1, timecode.FrameCount(1, 24))
	assert.Equal(t, 0, timecode.FrameCount(0, 24))
	assert.Equal(t, reveal.Micros(33_333), timecode.FrameTime(1, 30))
	assert.Equal(t, 100*s, timecode.FrameTime(3000, 30))
	for k := range 1000 {
		assert.Less(t, timecode.FrameTime(timecode.FrameCount(s*7/3, 24)-1, 24), s*7/3, k)
	}
	assert.Equal(t, timecode.FrameTime(31, 30), timecode.Snap(s+s/50, 30))
	assert.Equal(t, -timecode.FrameTime(31, 30), timecode.Snap(-s-s/50, 30))
	assert.Equal(t, "01:07.50 2025", timecode.Clock(67*s+s/2, 30))
}
