package release_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/demo"
	"slowreveal/release"
)

// Outputs of one set are told apart by what their names say of their variants.
func TestASetInVariants(t *testing.T) {
	set := []release.Settings{{Name: "Film"}, {Name: "{variant}: stills", Kind: release.Stills}, {Kind: release.GLB}}
	assert.Equal(t, set, release.InVariants(set, nil))
	assert.Equal(t, "Film", release.InVariants(set, []string{"-"})[0].Name)

	m := demo.PumpB()
	whole, err := release.Plan(
		release.Settings{Name: "Film, {variant}", Variant: "-"},
		m,
		demo.Teardown(m.Assembly),
		nil,
	)
	require.NoError(t, err)
	assert.Equal(t, "Film", whole.Settings.Name)
	var names, shown []string
	for _, s := range release.InVariants(set, []string{"Heated", "-"}) {
		w, err := release.Plan(s, m, demo.Teardown(m.Assembly), nil)
		require.NoError(t, err)
		names, shown = append(names, w.Settings.Name), append(shown, w.Settings.Variant)
	}
	assert.Equal(t, []string{"Film, Heated", "Heated: stills", "", "Film, all parts", ": stills", ""}, names)
	assert.Equal(t, []string{"heated", "heated", "heated", "-", "-", "-"}, shown)
	assert.Equal(t, "Film", set[0].Name, "the set stays as it is")
}
