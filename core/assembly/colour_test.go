package assembly

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// Values of IEC 61966-2-1, from memory: 18 % grey is displayed as 0.4614, half of the display is 21.4 % of
// the light, and both branches meet at 0.0031308.
func TestDisplayIsSRGB(t *testing.T) {
	assert.InDelta(t, 0.4614, Display(0.18), 5e-5)
	assert.InDelta(t, 0.2140, Linear(0.5), 5e-5)
	assert.InDelta(t, 0.04045, Display(0.0031308), 1e-6)
	assert.InDelta(t, 12.92e-3, Display(1e-3), 1e-12)
	assert.Equal(t, 0.0, Display(0))
	assert.InDelta(t, 1, Display(1), 1e-12)
	for i := range 256 {
		v := float64(i) / 255
		assert.InDelta(t, v, Display(Linear(v)), 1e-7)
	}
}
