package match_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/match"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// What was pointed at on a part is found again on its changed face: a top that is higher, in its share of a side that is
// longer, and where it was on one that has not changed. A face that is gone is not found.
func TestPointsAreFoundAgainOnChangedFaces(t *testing.T) {
	side := func(high, long float64) match.Side {
		return blocks(map[string][2]space.Vec3{
			"Plate": {{-60, -40, -10}, {60, 40, 0}}, "Tower": {{-10, -10, 0}, {long, 10, high}},
		}, "Plate", "Tower")
	}
	old := side(30, 30)
	find := func(now match.Side, p space.Vec3) (space.Vec3, float64, bool) {
		out := match.Of(old, now)
		return out.Faces(old, now).Point("tower", p)
	}
	at, moved, ok := find(side(38, 30), space.Vec3{4, 2, 30})
	assert.True(t, ok)
	assert.Equal(t, space.Vec3{4, 2, 38}, at, "on top again")
	assert.InDelta(t, 8, moved, 1e-6)

	at, moved, ok = find(side(38, 30), space.Vec3{4, -10, 12})
	assert.True(t, ok)
	assert.Zero(t, moved, "that side is where it was")
	assert.Equal(t, space.Vec3{4, -10, 12}, at)

	at, _, ok = find(side(30, 40), space.Vec3{30, 3, 12})
	assert.True(t, ok)
	assert.Equal(t, space.Vec3{40, 3, 12}, at, "the end face has gone out")

	at, moved, ok = find(old, space.Vec3{4, 2, 30})
	assert.True(t, ok)
	assert.Zero(t, moved, "the shape is what it was")
	assert.Equal(t, space.Vec3{4, 2, 30}, at)

	tower := old.Assembly.Index()["tower"]
	upsideDown := side(30, 30)
	s := upsideDown.Shapes[upsideDown.Assembly.Nodes[tower].Shape]
	open := solid.Mesh{Positions: s.Positions}
	for k := 0; k < len(s.Triangles); k += 3 { // without its top
		c := s.Triangle(uint32(k / 3))
		if n, _ := c.Normal(); n.Z < 0.9 {
			open.Triangles = append(open.Triangles, s.Triangles[k:k+3]...)
		}
	}
	r := &revision{Assembly: *upsideDown.Assembly, shapes: upsideDown.Shapes}
	r.wear(tower, open)
	_, _, ok = find(match.Side{Assembly: &r.Assembly, Shapes: r.shapes}, space.Vec3{4, 2, 30})
	assert.False(t, ok, "no face looks upwards any more")
}

// A joint about a shaft that has gone aside in its part goes with it; one about nothing round stays.
func TestAxesAreFoundAgain(t *testing.T) {
	rod := func(x, radius float64) solid.Mesh {
		const n = 64
		var m solid.Mesh
		for _, z := range []float64{0, 40} {
			for i := range n {
				s, c := math.Sincos(2 * math.Pi * float64(i) / n)
				m.Positions = append(m.Positions, float32(x+radius*c), float32(radius*s), float32(z))
			}
		}
		for i := range uint32(n) {
			k := (i + 1) % n
			m.Triangles = append(m.Triangles, i, k, n+k, i, n+k, n+i)
			if i > 0 && i < n-1 {
				m.Triangles = append(m.Triangles, 0, i+1, i, n, n+i, n+i+1)
			}
		}
		return m
	}
	side := func(x float64) match.Side {
		r := &revision{Assembly: assembly.Assembly{
			Name: "Made", Finishes: []assembly.Finish{{Name: "Plain"}}, Nodes: []assembly.Node{
				{Name: "Made", Parent: -1, Shape: -1, Pose: assembly.PoseOf(space.Identity)},
				{Name: "Rod", Pose: assembly.PoseOf(space.Identity), Finishes: []int{0}},
				{Name: "Plate", Pose: assembly.PoseOf(space.Identity), Finishes: []int{0}},
			},
		}}
		r.wear(1, rod(x, 4))
		r.wear(2, block(space.Vec3{-60, -40, -10}, space.Vec3{60, 40, 0}))
		r.name()
		return match.Side{Assembly: &r.Assembly, Shapes: r.shapes}
	}
	old, now := side(0), side(3)
	out := match.Of(old, now)
	faces := out.Faces(old, now)
	require.Len(t, faces, 1)
	at, moved, ok := faces.Axis("rod", space.Vec3{0, 0, 7}, space.Vec3{0, 0, 1})
	assert.True(t, ok)
	assert.InDelta(t, 3, moved, 1e-5)
	assert.InDeltaSlice(t, []float64{3, 0, 7}, at[:], 1e-5, "as far along as it was")
	at, moved, ok = faces.Axis("rod", space.Vec3{20, 0, 7}, space.Vec3{0, 0, 1})
	assert.True(t, ok)
	assert.Zero(t, moved, "it is about nothing that is round")
	assert.Equal(t, space.Vec3{20, 0, 7}, at)
	_, moved, _ = faces.Axis("plate", space.Vec3{0, 0, 0}, space.Vec3{0, 0, 1})
	assert.Zero(t, moved)
}
