package removal_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/plan"
	"slowreveal/core/solid"
	"slowreveal/core/solid/simple"
)

// small is a block that fits into a cell with a millimetre to spare on each side.
func small(c cell) solid.Mesh {
	m := simple.Block(side-2, side-2, side-2)
	for i := range m.Positions {
		m.Positions[i] += float32(side*float64(c[i%3]) + 1)
	}
	return m
}

// A corridor with five corners: out of it there is one way, of six legs.
func TestABlockIsLedOutOfALabyrinth(t *testing.T) {
	corridor := [][]cell{
		bar(cell{0, 0, 0}, cell{3, 0, 0}), bar(cell{3, 0, 0}, cell{3, 2, 0}), bar(cell{0, 2, 0}, cell{3, 2, 0}),
		bar(cell{0, 2, 0}, cell{0, 4, 0}), bar(cell{0, 4, 0}, cell{3, 4, 0}), bar(cell{3, 4, 0}, cell{3, 4, 1}),
	}
	walls := without(bar(cell{-1, -1, -1}, cell{4, 5, 1}), corridor...)
	s := subject(t, map[string]solid.Mesh{"walls": mesh(walls), "block": small(cell{0, 0, 0})})
	got := planned(t, s, plan.Choices{})
	require.Len(t, got.Moves, 1)
	assert.Empty(t, got.Stuck)
	legs := got.Moves[0].Paths[0].Legs
	assert.Len(t, legs, 6, "%+v", legs)
	assert.InDelta(t, 1, legs[5].Along[2], 1e-6, "out to the front")
	assert.Contains(t, got.Moves[0].Why[0]+got.Moves[0].Why[len(got.Moves[0].Why)-1], "led around")
	filmOf(t, s, got)
	assert.Equal(t, got.Moves, planned(t, s, plan.Choices{}).Moves, "the same each time")

	// Walled up, it is said to be stuck, after a bounded search.
	closed := without(bar(cell{-1, -1, -1}, cell{4, 5, 2}), corridor...)
	s = subject(t, map[string]solid.Mesh{"walls": mesh(closed), "block": small(cell{0, 0, 0})})
	got = planned(t, s, plan.Choices{})
	assert.Empty(t, got.Moves)
	require.Len(t, got.Stuck, 1)
	assert.EqualValues(t, "block", got.Stuck[0].Node)
}

// A bar in a corridor, a room, and a shaft across out of it that is too narrow for the bar as it lies: it has to be led
// into the room and turned there. Behind a shaft that is as narrow both ways it is stuck.
func TestABarIsTurnedOnItsWay(t *testing.T) {
	room := append(bar(cell{0, 0, 0}, cell{2, 0, 0}), bar(cell{3, -2, 0}, cell{8, 3, 0})...)
	shaft := bar(cell{5, 4, 0}, cell{6, 7, 0})
	long := simple.Block(3*side-2, side-2, side-2)
	for i := range long.Positions {
		long.Positions[i]++
	}
	walls := without(bar(cell{-1, -3, -1}, cell{9, 7, 1}), room, shaft)
	s := subject(t, map[string]solid.Mesh{"walls": mesh(walls), "bar": long})
	got := planned(t, s, plan.Choices{})
	require.Len(t, got.Moves, 1, "%+v", got.Stuck)
	assert.Empty(t, got.Stuck)
	m := got.Moves[0]
	require.NotNil(t, m.Swing)
	assert.Positive(t, m.Swing.After, "it cannot be turned in the corridor")
	assert.InDelta(t, 1, math.Abs(m.Swing.About[2]), 1e-6, "flat in the room")
	last := m.Paths[0].Legs[len(m.Paths[0].Legs)-1]
	assert.InDelta(t, 1, last.Along[1], 1e-6, "out through the shaft: %+v", m.Paths[0].Legs)
	assert.Contains(t, m.Instruction, "on the way")
	filmOf(t, s, got)
	assert.Equal(t, got.Moves, planned(t, s, plan.Choices{}).Moves, "the same each time")

	closed := without(bar(cell{-1, -3, -1}, cell{9, 8, 1}), room, shaft)
	s = subject(t, map[string]solid.Mesh{"walls": mesh(closed), "bar": long})
	got = planned(t, s, plan.Choices{})
	assert.Empty(t, got.Moves)
	require.Len(t, got.Stuck, 1)
}
