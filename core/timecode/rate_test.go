package timecode

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"slowreveal/core/reveal"
)

// SMPTE ST 12-1 (values from memory): after 00:00:59;29 comes 00:01:00;02; ten minutes have
// 17,982 frames, an hour 107,892.
func TestDropFrameTimecode(t *testing.T) {
	for k, want := range map[int]string{0: "00:00:00;00", 1799: "00:00:59;29", 1800: "00:01:00;02", 3597: "00:01:59;29", 3598: "00:02:00;02",
		17981: "00:09:59;29", 17982: "00:10:00;00", 107_892: "01:00:00;00"} {
		assert.Equal(t, want, DropFrame(k, 30), "frame %d", k)
	}
	assert.Equal(t, "00:01:00;04", DropFrame(3600, 60))
	r := RateOf(30, true)
	assert.Equal(t, 108_000, r.Count(3603*reveal.Second+600_000), "an hour of 30 frames a second lasts 3603.6 s")
	assert.Equal(t, "30000/1001", r.String())
	assert.Equal(t, reveal.Micros(33_367), r.Time(1))
	assert.Equal(t, 1001*reveal.Second, r.Time(30_000))
}

func TestTimecodeByRate(t *testing.T) {
	assert.Equal(t, "00:01:00:00", SMPTE(1800, RateOf(30, false)))
	assert.Equal(t, "00:01:00;02", SMPTE(1800, RateOf(30, true)), "dropped")
	assert.Equal(t, "00:01:00:00", SMPTE(1440, RateOf(24, true)), "24000/1001 has no drop-frame code")
	assert.Equal(t, "01:00:00:00", SMPTE(25*3600, RateOf(25, false)))
}
