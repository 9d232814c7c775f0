package solid

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/space"
)

// Two cubes and a sphere in one shape, in two patches that lie across them.
func scattered(t *testing.T) *Shape {
	t.Helper()
	m := both(
		both(cube(2), moved(cube(3), space.Translation(space.Vec{X: 10}), false)),
		moved(sphere(4, 8, 12), space.Translation(space.Vec{Y: 30}), false),
	)
	m.Submeshes = []Submesh{{First: 0, Count: 18}, {First: 18, Count: uint32(len(m.Triangles)/3) - 18}}
	return shaped(t, m)
}

func TestPiecesAreTheConnectedBodies(t *testing.T) {
	s := scattered(t)
	pieces, from := s.Pieces()
	require.Len(t, pieces, 3)
	volume, triangles := 0.0, 0
	for _, p := range pieces {
		assert.True(t, p.Closed())
		volume += p.Volume()
		triangles += len(p.Triangles)
		one, _ := p.Pieces()
		assert.Len(t, one, 1, "a piece is one body")
	}
	assert.InDelta(t, s.Volume(), volume, 1e-3)
	assert.Equal(t, len(s.Triangles), triangles)
	assert.Greater(t, len(pieces[0].Triangles), len(pieces[1].Triangles), "the largest comes first")
	// The first cube lies in the first patch, the second in both, the sphere in the second.
	for i, p := range pieces {
		require.Len(t, from[i], len(p.Submeshes))
		sum := uint32(0)
		for _, patch := range p.Submeshes {
			sum += patch.Count
		}
		assert.Equal(t, len(p.Triangles)/3, int(sum))
	}
	assert.Equal(t, []int{1}, from[0])
	assert.ElementsMatch(t, [][]int{{0}, {0, 1}}, from[1:])
}

func TestRepairsAreCounted(t *testing.T) {
	m := both(cube(2), cube(2)) // each triangle twice
	m.Triangles = append(m.Triangles, 0, 0, 1)
	s, done, err := New(m)
	require.NoError(t, err)
	assert.Equal(t, 12, done.Duplicate)
	assert.Equal(t, 1, done.Degenerate)
	assert.InDelta(t, 8, s.Volume(), 1e-6)
	// The same triangle seen from the other side is another one.
	m = cube(2)
	m.Triangles = append(m.Triangles, m.Triangles[1], m.Triangles[0], m.Triangles[2])
	_, done, err = New(m)
	require.NoError(t, err)
	assert.Zero(t, done.Duplicate)
}
