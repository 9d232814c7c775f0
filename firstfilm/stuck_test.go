package firstfilm_test

import (
	"context"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/plan"
	"slowreveal/core/removal"
	"slowreveal/core/survey"
	"slowreveal/demo"
	"slowreveal/firstfilm"
)

// Where no screw may be undone much of the product is stuck. A plan of it ends: what has been looked for in vain is not
// looked for again before something of what was in the way has left.
func TestAPlanOfWhatIsStuckEnds(t *testing.T) {
	if testing.Short() {
		t.Skip("a minute and more; part of make drill")
	}
	m := demo.Applicator()
	known, err := survey.Of(t.Context(), m.Assembly, m.Shapes)
	require.NoError(t, err)
	var without []assembly.NodeID
	for i := range m.Assembly.Nodes {
		if id := m.Assembly.Nodes[i].ID; strings.Contains(string(id), "screw") {
			without = append(without, id)
		}
	}
	ctx, cancel := context.WithTimeout(t.Context(), 10*time.Minute)
	defer cancel()
	subject := removal.Subject{Assembly: m.Assembly, Shapes: m.Shapes, Survey: known, At: firstfilm.AtRest(m.Assembly)}
	p, err := removal.Run(ctx, subject, plan.Choices{Without: without}, nil)
	require.NoError(t, err)
	assert.Equal(t, 20, len(p.Moves))
	assert.Equal(t, 9, len(p.Stuck))
	assert.True(t, p.Complete)
	for _, s := range p.Stuck {
		assert.NotEmpty(t, s.Says, s.Node)
	}
	assert.Less(t, p.Asked, 60_000)
}
