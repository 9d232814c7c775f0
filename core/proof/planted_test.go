package proof_test

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/product"
	"slowreveal/core/proof"
	"slowreveal/core/reveal"
	"slowreveal/core/solid/simple"
	"slowreveal/core/space"
)

// planted are faults that are put into films without one: each changes a document in which blocks stand side by side
// and go up one after the other.
var planted = []struct {
	check string
	plant func(r *reveal.Reveal, random *rand.Rand)
}{
	{"interference", func(r *reveal.Reveal, random *rand.Rand) { // into its neighbour
		c := &r.Steps[0].Cues[random.IntN(len(r.Steps[0].Cues)-1)] // what is on its right goes later
		c.Pull.Along, c.Pull.Distance = space.Vec3{1, 0, 0}, 21+4*random.Float64()
	}},
	{"frame", func(r *reveal.Reveal, random *rand.Rand) { // out at the top
		one(r, random).Pull.Distance = 300 + 100*random.Float64()
	}},
	{"reading", func(r *reveal.Reveal, random *rand.Rand) {
		c := one(r, random)
		note := reveal.Cue{
			ID:       "note",
			Kind:     reveal.KindNote,
			Targets:  c.Targets,
			Offset:   c.Offset,
			Duration: reveal.Second / 2,
			Easing:   reveal.Linear,
			Note:     &reveal.Note{Text: "This cannot be read as fast as that"},
		}
		r.Steps[0].Cues = append(r.Steps[0].Cues, note)
	}},
	{"camera", func(r *reveal.Reveal, random *rand.Rand) {
		orbit := reveal.Cue{
			ID:       "orbit",
			Kind:     reveal.KindOrbit,
			Duration: reveal.Second,
			Easing:   reveal.Linear,
			Orbit:    &reveal.Orbit{About: space.Vec3{0, 1, 0}, Degrees: 65 + 100*random.Float64()},
		}
		r.Steps[0].Cues = append(r.Steps[0].Cues, orbit)
	}},
	{"pace", func(r *reveal.Reveal, random *rand.Rand) { one(r, random).Duration = reveal.Second / 10 }},
	{"pace", func(r *reveal.Reveal, random *rand.Rand) { r.Steps[0].Duration += 4 * reveal.Second }},
	{"ends", func(r *reveal.Reveal, random *rand.Rand) { // a flow line of what is left out
		c := one(r, random)
		c.Flow = &reveal.FlowLine{Of: reveal.FlowEach}
		r.Opening.Suppressed = c.Targets
	}},
}

func one(r *reveal.Reveal, random *rand.Rand) *reveal.Cue {
	return &r.Steps[0].Cues[random.IntN(len(r.Steps[0].Cues))]
}

// row is a scene of blocks side by side, 12 mm apart, and a film in which all of them go up.
func row(t *testing.T, random *rand.Rand) (*product.Model, *reveal.Reveal) {
	t.Helper()
	n := 3 + random.IntN(4)
	var parts []part
	r := shown()
	at := reveal.Micros(0)
	for i := range n {
		name := fmt.Sprint("block-", i)
		parts = append(
			parts,
			part{
				name,
				simple.Block(10+2*random.Float64(), 10, 8+4*random.Float64()),
				space.Vec{X: 24 * float64(i-n/2)},
			},
		)
		length := reveal.Second/2 + reveal.Micros(random.IntN(int(reveal.Second)))
		r.Steps[0].Cues = append(
			r.Steps[0].Cues,
			pull(
				fmt.Sprint("up-", i),
				at,
				length,
				space.Vec3{0, 1, 0},
				15+10*random.Float64(),
				assembly.NodeID(name),
			),
		)
		at += length
	}
	r.Steps[0].Duration = at + reveal.Second/2
	return scene(t, parts...), r
}

// Into five hundred films without a fault one is planted each: all are found, and none where nothing was planted.
func TestPlantedFaultsAreFound(t *testing.T) {
	random := rand.New(rand.NewPCG(22, 0))
	for k := range 500 {
		m, r := row(t, random)
		clean, err := proof.Run(
			t.Context(),
			film.Compile(m.Assembly, r),
			m.Shapes,
			nil,
			proof.Settings{Threads: 1},
			nil,
		)
		require.NoError(t, err)
		require.Empty(t, clean.Findings, "film %d has no fault yet", k)
		p := planted[k%len(planted)]
		p.plant(r, random)
		require.NoError(t, reveal.Validate(r, m.Assembly))
		found, err := proof.Run(
			t.Context(),
			film.Compile(m.Assembly, r),
			m.Shapes,
			nil,
			proof.Settings{Threads: 1},
			nil,
		)
		require.NoError(t, err)
		assert.NotEmpty(t, of(found, p.check), "film %d: a fault of %q", k, p.check)
	}
}
