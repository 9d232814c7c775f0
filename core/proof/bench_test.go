package proof_test

import (
	"strconv"
	"testing"

	"github.com/stretchr/testify/require"

	"slowreveal/core/film"
	"slowreveal/core/proof"
	"slowreveal/core/reveal"
	"slowreveal/demo"
)

// The whole of the example's film: 80 parts, 51 s.
func BenchmarkInterferenceDemo(b *testing.B) {
	m := demo.Pump()
	f := film.Compile(m.Assembly, demo.Teardown(m.Assembly))
	for b.Loop() {
		_, err := proof.Interference(b.Context(), f, m.Shapes, proof.Settings{})
		require.NoError(b, err)
	}
}

// 100, 300 and 1,000 parts of 1,000 triangles that all move.
func BenchmarkInterferenceStress(b *testing.B) {
	for _, parts := range []int{100, 300, 1000} {
		b.Run(strconv.Itoa(parts), func(b *testing.B) {
			m := demo.Stress(parts, 1000)
			f := film.Compile(m.Assembly, demo.StressReveal(m.Assembly, 300))
			for b.Loop() {
				_, err := proof.Interference(b.Context(), f, m.Shapes, proof.Settings{})
				require.NoError(b, err)
			}
		})
	}
}

// After an edit of one cue, with what is remembered: all that can be told without the picture, as Direct asks for it.
func BenchmarkAfterAnEdit(b *testing.B) {
	m := demo.Pump()
	pulls := func(r *reveal.Reveal) (list []*reveal.Cue) {
		for i := range r.Steps {
			for k := range r.Steps[i].Cues {
				if c := &r.Steps[i].Cues[k]; c.Pull != nil && c.Twin == "" {
					list = append(list, c)
				}
			}
		}
		return list
	}
	memory := proof.NewMemory()
	look := func(r *reveal.Reveal) {
		f := film.Compile(m.Assembly, r)
		_, err := proof.Run(b.Context(), f, m.Shapes, nil, proof.Settings{Memory: memory}, nil)
		require.NoError(b, err)
	}
	r := demo.Teardown(m.Assembly)
	look(r)
	for i := range pulls(r) {
		if i%3 != 0 {
			continue
		}
		b.Run("pull "+strconv.Itoa(i+1), func(b *testing.B) {
			by := 0.0
			for b.Loop() {
				by += 0.37
				edited := demo.Teardown(m.Assembly)
				pulls(edited)[i].Pull.Distance += by
				look(edited)
			}
		})
	}
}
