package firstfilm_test

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/plan"
	"slowreveal/core/proof"
	"slowreveal/demo"
	"slowreveal/firstfilm"
	"slowreveal/formats"
	"slowreveal/prove"
	"slowreveal/render"
)

// What has been taken off stands beside one another from where the steps are seen, as pixels tell: with distances that
// only keep parts out of each other's way, four of the applicator's parts were covered by 84 to 100 %, and eight of the
// pump's.
func TestPlannedPartsDoNotCoverOneAnother(t *testing.T) {
	models := map[string]*formats.Model{"applicator": demo.Applicator()}
	most := map[string]int{"applicator": 1, "pump": 2}
	if !testing.Short() {
		models["pump"] = demo.Pump()
	}
	for name, m := range models {
		p, err := firstfilm.Plan(context.Background(), m, plan.Choices{}, nil)
		require.NoError(t, err)
		doc, err := plan.Film(&p, m.Assembly, name, plan.Writing{Fresh: "new"})
		require.NoError(t, err)
		scene, err := render.NewScene(m.Assembly, m.Shapes)
		require.NoError(t, err)
		outcome, err := prove.Film(context.Background(), m, scene, doc, proof.Settings{}, nil)
		require.NoError(t, err)
		covered := 0
		for _, f := range outcome.Findings {
			if f.Check == "crowded" {
				covered++
				t.Log(f.Says)
			}
			assert.NotEqual(t, proof.Fault, f.Level, f.Says)
			if f.Check == "hidden" { // its cover is of glass: it is seen all the same
				assert.NotContains(t, f.Says, "0 pixels large", f.Says)
			}
		}
		assert.LessOrEqual(t, covered, most[name], name)
	}
}
