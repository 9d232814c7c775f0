package sequence_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/reveal"
	"slowreveal/sequence"
)

// Before nothing, what is solid covers a quarter, half, three quarters or all of a pixel by four samples; by sixteen
// there are sixteenths between. Looked at is the upper part of the picture, where there is neither shadow nor glass.
func TestSixteenSamplesAreFiner(t *testing.T) {
	f, scene := teardown(t)
	const w, h = 640, 360
	levels := func(samples int) (seen map[byte]int) {
		p, err := sequence.StillRGBA(
			f,
			scene,
			sequence.Order{Width: w, Height: h, Samples: samples, Background: sequence.Background{Transparent: true}},
			0,
		)
		require.NoError(t, err)
		seen = map[byte]int{}
		for i := range w * h / 3 {
			seen[p[4*i+3]]++
		}
		for level, n := range seen {
			if n < 4 { // glass behind lines has others
				delete(seen, level)
			}
		}
		return seen
	}
	four, sixteen := levels(4), levels(16)
	assert.Len(t, four, 5)
	assert.Greater(t, len(sixteen), 11, "%v", sixteen)
	assert.InEpsilon(t, four[255], sixteen[255], 0.05, "it is the same picture")
	p, err := sequence.Still(
		f,
		scene,
		sequence.Order{Width: w, Height: h, Samples: 16, Captions: true},
		8*reveal.Second,
	)
	require.NoError(t, err)
	assert.Equal(t, w, p.Width)
	_, err = sequence.Order{Width: 8000, Height: 4000, Samples: 16}.Plan(f)
	assert.ErrorContains(t, err, "16 samples")
	_, err = sequence.Order{Samples: 9}.Plan(f)
	assert.ErrorContains(t, err, "4 or 16")
}
