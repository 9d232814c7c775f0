package proof_test

import (
	"strconv"
	"testing"

	"github.com/stretchr/testify/require"

	"slowreveal/core/film"
	"slowreveal/core/proof"
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

// 100 and 300 parts of 1,000 triangles that all move.
func BenchmarkInterferenceStress(b *testing.B) {
	for _, parts := range []int{100, 300} {
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
