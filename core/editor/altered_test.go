package editor_test

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/edit/edittest"
	"slowreveal/core/reveal"
	"slowreveal/demo"
)

// Who follows the versions one by one, and takes over of each what is altered in it, has what the arrays hold, whatever
// is shown, edited and tried out in between, and however often it looks.
func TestWhatIsAlteredIsAllThatIsOtherwise(t *testing.T) {
	d, s := open(t)
	random := rand.New(rand.NewPCG(9, 9))
	hand := edittest.New(4, demo.Pump().Assembly)
	n := len(d.Opacities)
	matrices, rest := make([]float32, 16*n), make([]float32, 8*n)
	last, steps, all := int32(-1), 0, 0
	for range 1500 {
		switch random.IntN(8) {
		case 0:
			d.AtRest()
		case 1:
			_, _ = d.Apply(told(t, hand.Command(s.Reveal, 0))) // possible or not
			continue
		case 2:
			_, _ = d.Preview(told(t, hand.Command(s.Reveal, 0)))
			continue
		default:
			d.At(reveal.Micros(random.Int64N(60e6)))
		}
		if random.IntN(4) == 0 {
			continue // nobody looks
		}
		take := func(i int) {
			copy(matrices[16*i:16*i+16], d.Matrices[16*i:])
			rest[8*i] = d.Opacities[i]
			copy(rest[8*i+1:8*i+5], d.Tints[4*i:])
			copy(rest[8*i+5:8*i+8], d.Surfaces[3*i:])
		}
		switch d.Version {
		case last:
		case last + 1:
			steps++
			for _, i := range d.Altered {
				take(int(i))
			}
		default:
			all++
			for i := range n {
				take(i)
			}
		}
		last = d.Version
		require.Equal(t, d.Matrices, matrices)
		for i := range n {
			require.Equal(t, d.Opacities[i], rest[8*i])
			require.Equal(t, d.Tints[4*i:4*i+4], rest[8*i+1:8*i+5])
			require.Equal(t, d.Surfaces[3*i:3*i+3], rest[8*i+5:8*i+8])
		}
	}
	assert.Greater(t, steps, 200)
	assert.Greater(t, all, 50)
}
