package solid_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// upright is a body over a closed outline, from z = 0 to high.
func upright(t *testing.T, high float64, outline ...[2]float64) *solid.Shape {
	t.Helper()
	var m solid.Mesh
	n := uint32(len(outline))
	for _, p := range outline {
		m.Positions = append(m.Positions, float32(p[0]), float32(p[1]), 0, float32(p[0]), float32(p[1]), float32(high))
	}
	for i := range n {
		a, b := 2*i, 2*((i+1)%n)
		m.Triangles = append(m.Triangles, a, b, b+1, a, b+1, a+1)
	}
	s, _, err := solid.New(m)
	require.NoError(t, err)
	return s
}

func arc(radius float64, from, to float64, back bool) (points [][2]float64) {
	const n = 40
	for i := range n + 1 {
		u := float64(i) / n
		if back {
			u = 1 - u
		}
		s, c := math.Sincos((from + (to-from)*u) * math.Pi / 180)
		points = append(points, [2]float64{radius * c, radius * s})
	}
	return points
}

// A block, a tube and a circlip have their heart in the middle of their box: lines lead along their axis. A U and an
// L have none there: lines lead to the body.
func TestLinesLeadToWhereTheBodyIs(t *testing.T) {
	block := upright(t, 4, [2]float64{0, 0}, [2]float64{10, 0}, [2]float64{10, 6}, [2]float64{0, 6})
	assert.Equal(t, space.Vec{X: 5, Y: 3, Z: 2}, block.Heart())
	clip := upright(t, 1, append(arc(10, 20, 340, false), arc(8, 20, 340, true)...)...)
	assert.Equal(t, clip.Bounds.Centre(), clip.Heart())
	u := upright(
		t,
		30,
		[2]float64{0, 0},
		[2]float64{20, 0},
		[2]float64{20, 20},
		[2]float64{18, 20},
		[2]float64{18, 2},
		[2]float64{2, 2},
		[2]float64{2, 20},
		[2]float64{0, 20},
	)
	assert.NotEqual(t, u.Bounds.Centre(), u.Heart())
	heart := u.Heart()
	assert.InDelta(t, 2, min(heart.Y, heart.X, 20-heart.X), 1e-6, "on the inner face of its foot or of an arm")
	l := upright(
		t,
		30,
		[2]float64{0, 0},
		[2]float64{20, 0},
		[2]float64{20, 2},
		[2]float64{2, 2},
		[2]float64{2, 20},
		[2]float64{0, 20},
	)
	heart = l.Heart()
	assert.InDelta(t, 2, min(heart.X, heart.Y), 1e-6)
	assert.InDelta(t, 15, heart.Z, 1e-6)
}
