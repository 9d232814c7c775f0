package prove_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"slowreveal/core/proof"
	"slowreveal/demo"
	"slowreveal/prove"
	"slowreveal/render"
)

// All checks of the example's film, with eyes, nothing known before.
func BenchmarkExample(b *testing.B) {
	m := demo.Pump()
	scene, err := render.NewScene(m.Assembly, m.Shapes)
	require.NoError(b, err)
	doc := demo.Teardown(m.Assembly)
	for b.Loop() {
		_, err := prove.Film(b.Context(), m, scene, doc, proof.Settings{}, nil)
		require.NoError(b, err)
	}
}
