package firstfilm_test

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/edit"
	"slowreveal/core/plan"
	"slowreveal/core/product"
	"slowreveal/core/proof"
	"slowreveal/demo"
	"slowreveal/firstfilm"
	"slowreveal/prove"
)

// In what is planned for the examples nothing is wrong, neither in their first films nor in plans that are accepted as
// they are: all that moves is seen, what has been taken off stands beside one another, and the camera goes through
// nothing. The pump's screws on both sides are seen by no one eye.
func TestNothingIsWrongWithWhatIsPlanned(t *testing.T) {
	models := map[string]*product.Model{"Applicator": demo.Applicator()}
	if !testing.Short() {
		models["Pump"] = demo.Pump()
	}
	ctx := context.Background()
	for name, m := range models {
		p, err := firstfilm.Plan(ctx, m, plan.Choices{}, nil)
		require.NoError(t, err)
		looker, err := firstfilm.NewLooker(m)
		require.NoError(t, err)
		doc, outcome, err := looker.Make(ctx, &p, plan.Writing{Fresh: "new"})
		require.NoError(t, err)
		assert.Empty(t, says(outcome.Findings), "the first film of the %s", name)
		assert.Greater(t, len(doc.Steps), 15)

		accepted, err := plan.Film(&plan.Plan{}, m.Assembly, name, plan.Writing{Fresh: "blank"})
		require.NoError(t, err)
		accepted.Steps = nil
		p, err = looker.Look(ctx, accepted, 0, p)
		require.NoError(t, err)
		written := plan.Insert(&p, m.Assembly, accepted, 0, plan.Writing{Fresh: "accepted"})
		_, err = edit.Do(accepted, m.Assembly, written.Command)
		require.NoError(t, err)
		outcome, err = prove.Film(ctx, m, looker.Scene, accepted, proof.Settings{}, nil)
		require.NoError(t, err)
		assert.Empty(t, says(outcome.Findings), "the plan of the %s, accepted", name)
	}
}

func says(findings []proof.Finding) (list []string) {
	for i := range findings {
		list = append(list, findings[i].Check+": "+findings[i].Says)
	}
	return list
}
