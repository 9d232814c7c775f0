package film_test

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/edit/edittest"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
)

// On films by chance: a node that is there at some moment is within the pieces in which it may be seen, and between two
// of them it is not.
func TestWhatIsSeenIsWithinItsPieces(t *testing.T) {
	a := product()
	within, without := 0, 0
	for seed := range uint64(120) {
		r := script(reveal.Step{ID: "first", Title: "first", Duration: 4 * s})
		edittest.New(seed, a).Change(r, 40)
		require.NoError(t, reveal.Validate(r, a))
		f := film.Compile(a, r)
		if f.Duration() == 0 {
			continue
		}
		fr := f.NewFrame()
		random := rand.New(rand.NewPCG(seed, 11))
		for range 60 {
			at := reveal.Micros(random.Int64N(int64(f.Duration()) + 1))
			f.At(at, fr)
			for node := range a.Nodes {
				seen := false
				for _, p := range f.Seen(node) {
					seen = seen || p[0] <= float64(at) && float64(at) <= p[1]
				}
				if fr.Opacity[node] > 0 {
					within++
					require.True(
						t,
						seen,
						"seed %d: node %d at %d of %d: %v, opacity %g",
						seed,
						node,
						at,
						f.Duration(),
						f.Seen(node),
						fr.Opacity[node],
					)
				} else if !seen {
					without++
				}
			}
		}
	}
	assert.Greater(t, within, 5_000)
	assert.Greater(t, without, 1_000, "what is not there is left out")
}
