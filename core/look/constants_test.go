package look_test

import (
	"math"
	"os"
	"regexp"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/look"
)

// What is a number of the look comes from here, in the stage's shaders too: literals there are those of formulas (of the
// curve of sRGB, of counting, of halves).
func TestTheStagesShadersHaveNoNumbersOfTheirOwn(t *testing.T) {
	text, err := os.ReadFile("../../web/src/stage/look.ts")
	require.NoError(t, err)
	formula := map[float64]bool{
		0: true, 0.5: true, 1: true, 2: true, 4: true, // halves, ranges
		1.055: true, 0.055: true, 2.4: true, 12.92: true, 0.0031308: true, // IEC 61966-2-1
		1e-3: true, 1.5: true, 64: true, 255: true, // thresholds of integers in floats; the side of the noise; bytes
		// the section's hatching and what marks a pick: the stage's own, films have neither
		7: true, 0.97: true, 0.96: true, 0.93: true, 0.45: true, 0.9: true, 0.1: true, 0.4: true, 0.7: true, 0.62: true,
		0.02: true, 0.3: true, // what single precision can tell; the least slant, asked about early
	}
	for _, part := range regexp.MustCompile("(?s)/\\* glsl \\*/ `(.*?)`").FindAllStringSubmatch(string(text), -1) {
		for _, number := range regexp.MustCompile(`[^\w.](\d+\.\d+(?:e-?\d+)?)`).FindAllStringSubmatch(part[1], -1) {
			v, err := strconv.ParseFloat(number[1], 64)
			require.NoError(t, err)
			assert.True(t, formula[v], "%s in a shader is no number of the look's", number[1])
		}
	}
}

// A refractive index of 1.5, that of glass and of most plastics, mirrors ((n − 1) / (n + 1))² of the light that falls
// straight on it (Fresnel's equations): 0.04.
func TestWhatIsNoMetalMirrorsAsGlassDoes(t *testing.T) {
	assert.InDelta(t, math.Pow((1.5-1)/(1.5+1), 2), look.Default.Material.Dielectric, 1e-12)
}

// Wide and narrow lines are 2 : 1 (ISO 128-2, from memory), nearly: contours lie beside their surface, which they are not
// to bury. In pictures of any size they keep that, and on a screen with two pixels to a point both are twice as wide.
func TestLinesKeepTheirRatio(t *testing.T) {
	for _, lines := range []float64{180, 540, 1080, 2160} {
		edge, contour := look.Default.Widths(lines, 1)
		assert.InDelta(t, 2, contour/edge, 0.25, "%g", lines)
		assert.GreaterOrEqual(t, edge, look.Default.EdgeLeast)
	}
	one, _ := look.Default.Widths(270, 1)
	two, _ := look.Default.Widths(540, 2)
	assert.InDelta(t, 2*one, two, 1e-12)
}
