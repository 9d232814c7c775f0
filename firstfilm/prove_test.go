package firstfilm_test

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/plan"
	"slowreveal/core/space"
	"slowreveal/demo"
	"slowreveal/firstfilm"
)

// A move that the author wants through something is done, and what it goes into is noted with it.
func TestWhatAMoveGoesIntoIsNotedWithIt(t *testing.T) {
	m := demo.Pump()
	knob := []assembly.NodeID{"housing/dosing-knob"}
	p, err := firstfilm.Plan(
		context.Background(),
		m,
		plan.Choices{Reach: knob[0], Given: []plan.Given{{Nodes: knob, Along: &space.Vec3{0, 0, -1}}}},
		nil,
	)
	require.NoError(t, err)
	require.NotEmpty(t, p.Moves)
	assert.True(t, p.Proven)
	assert.Equal(t, knob, p.Moves[0].Nodes)
	assert.NotEmpty(t, p.Moves[0].Collides)
	free, err := firstfilm.Plan(context.Background(), m, plan.Choices{Reach: knob[0]}, nil)
	require.NoError(t, err)
	require.Len(t, free.Moves, 1)
	assert.Empty(t, free.Moves[0].Collides)
}
