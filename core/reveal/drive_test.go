package reveal_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/reveal"
)

// A period of three turns of the joint: how long it takes at so many revolutions a minute, and which amounts are whole
// ones.
func TestADriveGoesThroughPeriods(t *testing.T) {
	running := reveal.Drive{Speed: new(-36.0)}
	l := running.Loop(1080)
	require.NotNil(t, l)
	assert.InDelta(t, 3, l.Turns, 1e-12)
	assert.Equal(t, 5*reveal.Second, l.Takes)
	assert.Zero(t, l.By)
	for by, want := range map[float64]float64{100: 1080, 1700: 2160, -1080: -1080, -3000: -3240} {
		l := (&reveal.Drive{By: &by}).Loop(1080)
		require.NotNil(t, l)
		assert.InDelta(t, want, l.By, 1e-9, "by %g", by)
		assert.Zero(t, l.Takes)
	}
	assert.Nil(t, running.Loop(0), "it never stands as before")
	assert.Nil(t, (&reveal.Drive{Speed: new(20.0), Slides: true}).Loop(1080))
	swings := (&reveal.Drive{By: new(30.0), Swings: 2}).Loop(360)
	require.NotNil(t, swings)
	assert.Zero(t, swings.By)
}
