package proof_test

import (
	"context"
	"encoding/json"
	"math/rand/v2"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/film"
	"slowreveal/core/product"
	"slowreveal/core/proof"
	"slowreveal/core/reveal"
	"slowreveal/core/solid"
	"slowreveal/demo"
)

// A look that is ended before it is through, as each is by the next edit, forgets nothing.
func TestALookThatIsEndedForgetsNothing(t *testing.T) {
	m := demo.Pump()
	doc := demo.Teardown(m.Assembly)
	doc.Steps = doc.Steps[:3]
	f, memory := film.Compile(m.Assembly, doc), proof.NewMemory()
	_, err := proof.Interference(t.Context(), f, m.Shapes, proof.Settings{Memory: memory})
	require.NoError(t, err)
	known := memory.Len()
	require.Greater(t, known, 20)
	ended, end := context.WithCancel(t.Context())
	end()
	for range 3 {
		_, err = proof.Interference(ended, f, m.Shapes, proof.Settings{Memory: memory})
		require.Error(t, err)
		assert.Equal(t, known, memory.Len())
	}
}

// What is known of an assembly is known of an equal one, as another project has it, and in another reveal: the second look
// gets no shapes, and would find nothing by itself. Of one in which something stands elsewhere nothing is known.
func TestWhatIsKnownOfAnAssemblyIsKnownOfItsEquals(t *testing.T) {
	first, equal, other := demo.Pump(), demo.Pump(), demo.Pump()
	for i := range other.Assembly.Nodes {
		if n := &other.Assembly.Nodes[i]; n.ID == "pump-head/rotor-cover" {
			n.Pose.Move[2] += 0.5
		}
	}
	memory := proof.NewMemory()
	look := func(m *product.Model, shapes []*solid.Shape, memory *proof.Memory) proof.Overlaps {
		doc := demo.Teardown(m.Assembly)
		doc.Steps = doc.Steps[:3]
		i, k := doc.FindCue("cue-5")
		doc.Steps[i].Cues[k].Pull.Distance *= -0.3 // the rotor cover the other way, through its screws
		found, err := proof.Interference(
			t.Context(), film.Compile(m.Assembly, doc), shapes, proof.Settings{Memory: memory},
		)
		require.NoError(t, err)
		return found
	}
	found := look(first, first.Shapes, memory)
	require.NotEmpty(t, found.List)
	known := memory.Len()
	assert.Equal(t, found, look(equal, nil, memory))
	assert.Equal(t, known, memory.Len())
	assert.Equal(t, proof.Digest(first.Assembly), proof.Digest(equal.Assembly))
	assert.NotEqual(t, proof.Digest(first.Assembly), proof.Digest(other.Assembly))
	otherwise := look(other, other.Shapes, memory)
	assert.Equal(t, look(other, other.Shapes, nil), otherwise)
	assert.NotEqual(t, found.List, otherwise.List)
}

// With a memory the same is found as without, whatever is changed: distances, directions, times, opacities and the
// order of steps, one after the other by chance.
func TestWhatIsRememberedIsWhatIsFound(t *testing.T) {
	m := demo.Pump()
	doc := demo.Teardown(m.Assembly)
	doc.Steps = doc.Steps[:5] // without the way back
	memory, random := proof.NewMemory(), rand.New(rand.NewPCG(5, 0))
	look := func(memory *proof.Memory) (string, time.Duration) {
		begun := time.Now()
		found, err := proof.Interference(
			t.Context(),
			film.Compile(m.Assembly, doc),
			m.Shapes,
			proof.Settings{Memory: memory},
		)
		require.NoError(t, err)
		text, err := json.Marshal(found)
		require.NoError(t, err)
		return string(text), time.Since(begun)
	}
	found := map[string]bool{}
	for k := range 7 {
		if k > 0 {
			i := random.IntN(len(doc.Steps))
			step := &doc.Steps[i]
			cue := &step.Cues[random.IntN(len(step.Cues))]
			switch {
			case k == 3:
				step.Duration += reveal.Second
			case cue.Pull != nil:
				cue.Pull.Distance *= 1.3
			case cue.Fade != nil:
				cue.Fade.To = 1
			case cue.Route != nil:
				cue.Route.Legs[1].Along[0] *= -1
			default:
				cue.Offset += reveal.Second / 5
			}
		}
		with, quick := look(memory)
		without, slow := look(nil)
		assert.Equal(t, without, with)
		found[with] = true
		t.Logf(
			"after change %d: %v with a memory, %v without",
			k,
			quick.Round(time.Millisecond),
			slow.Round(time.Millisecond),
		)
	}
	assert.Greater(t, len(found), 2, "the changes have to change what is found")
}
