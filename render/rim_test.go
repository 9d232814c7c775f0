package render

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"

	"slowreveal/core/look"
)

// A clear cylinder, seen from the side, lets less through the nearer to its limb, as docs/look.md has it (the formula
// once more): how much is told from the pictures of a solid one and of none.
func TestClearThingsHaveARim(t *testing.T) {
	const w, h, opacity, radius = 600, 200, 0.2, 30.0
	round := prism(t, 96, radius, 0, 40)
	clear, solid := seenWearing(t, round, opacity, w, h, 60, 0), seenWearing(t, round, 1, w, h, 60, 0)
	for _, x := range []float64{0, 10, 20, 25, 27} {
		px := int(w/2 + x/60*h)
		paper := clear.grey(5, h/2)
		got := (paper - clear.grey(px, h/2)) / (paper - solid.grey(px, h/2))
		nv := math.Sqrt(1 - x*x/(radius*radius))
		want := opacity + (1-opacity)*look.Default.Rim*math.Pow(1-nv, 3)
		assert.InDelta(t, want, got, 0.03, "%g mm beside the middle", x)
	}
}
