package solid

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/space"
)

func anyTriangle(r *rand.Rand, spread float64) Triangle {
	var t Triangle
	mid := space.Vec{X: r.NormFloat64() * spread, Y: r.NormFloat64() * spread, Z: r.NormFloat64() * spread}
	for i := range t {
		t[i] = r3.Add(mid, space.Vec{X: r.NormFloat64(), Y: r.NormFloat64(), Z: r.NormFloat64()})
	}
	return t
}

// sampled is the least distance between points spread over both triangles: an
// upper bound that comes near.
func sampled(a, b *Triangle) float64 {
	const n = 24
	points := func(t *Triangle) (p []space.Vec) {
		for i := range n + 1 {
			for k := range n + 1 - i {
				u, v := float64(i)/n, float64(k)/n
				p = append(p, r3.Add(t[0], r3.Add(r3.Scale(u, r3.Sub(t[1], t[0])), r3.Scale(v, r3.Sub(t[2], t[0])))))
			}
		}
		return p
	}
	least := math.Inf(1)
	pb := points(b)
	for _, p := range points(a) {
		for _, q := range pb {
			least = math.Min(least, r3.Norm2(r3.Sub(p, q)))
		}
	}
	return math.Sqrt(least)
}

func TestGapAgainstSampledPoints(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 9))
	crossing := 0
	for range 400 {
		a, b := anyTriangle(r, 0.9), anyTriangle(r, 0.9)
		got, bound := Gap(&a, &b), sampled(&a, &b)
		require.LessOrEqual(t, got, bound+1e-9)
		require.GreaterOrEqual(t, got, bound-0.25, "points are that far apart at most")
		require.InDelta(t, got, Gap(&b, &a), 1e-9)
		if got == 0 {
			crossing++
		}
	}
	assert.Greater(t, crossing, 10, "some cross")
}

func TestGapOfTrianglesWithAKnownDistance(t *testing.T) {
	base := Triangle{{X: 0}, {X: 4}, {Y: 4}}
	for name, c := range map[string]struct {
		other Triangle
		want  float64
	}{
		"above its face":        {Triangle{{X: 1, Y: 1, Z: 2}, {X: 2, Y: 1, Z: 5}, {X: 1, Y: 2, Z: 5}}, 2},
		"edge over edge":        {Triangle{{X: 2, Y: -1, Z: 3}, {X: 2, Y: 1, Z: 3}, {X: 2, Y: 0, Z: 9}}, 3},
		"beside it":             {Triangle{{X: -3}, {X: -4, Y: 1}, {X: -4, Y: -1}}, 3},
		"through it":            {Triangle{{X: 1, Y: 1, Z: -1}, {X: 1, Y: 1, Z: 1}, {X: 9, Y: 9, Z: 1}}, 0},
		"touching at one point": {Triangle{{X: 1, Y: 1}, {X: 2, Y: 1, Z: 5}, {X: 1, Y: 2, Z: 5}}, 0},
	} {
		assert.InDelta(t, c.want, Gap(&base, &c.other), 1e-12, name)
	}
}

func TestFacingAreaIsWhatBothShare(t *testing.T) {
	a := Triangle{{}, {X: 10}, {Y: 10}}
	b := Triangle{{Z: 0.05}, {Y: 10, Z: 0.05}, {X: 10, Z: 0.05}} // the same, seen from the other side
	assert.InDelta(t, 50, Facing(&a, &b, 0.1, 0.9), 1e-9)
	assert.Zero(t, Facing(&a, &b, 0.01, 0.9), "too far away")
	up := Triangle{b[0], b[2], b[1]}
	assert.Zero(t, Facing(&a, &up, 0.1, 0.9), "both look up")
	shifted := Triangle{{X: 5, Z: 0}, {X: 5, Y: 10}, {X: 15}}
	assert.InDelta(t, 12.5, Facing(&a, &shifted, 0.1, 0.9), 1e-9)
}

func TestTheTreeFindsWhatBruteForceFinds(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 2))
	for range 20 {
		s, u := shaped(t, sphere(5, 8, 12)), shaped(t, hook())
		place := anyMotion(r)
		place.T = r3.Scale(0.05, place.T)
		x, y := NewBVH(s), NewBVH(u)
		brute := map[[2]uint32]bool{}
		for a := range uint32(len(s.Triangles) / 3) {
			for b := range uint32(len(u.Triangles) / 3) {
				p, q := x.Triangle(a), y.Triangle(b).Moved(&place)
				if Gap(&p, &q) <= 0.5 {
					brute[[2]uint32{a, b}] = true
				}
			}
		}
		found := map[[2]uint32]bool{}
		x.Near(y, &place, 0.5, func(a, b uint32) bool {
			p, q := x.Triangle(a), y.Triangle(b).Moved(&place)
			if Gap(&p, &q) <= 0.5 {
				require.False(t, found[[2]uint32{a, b}], "each pair once")
				found[[2]uint32{a, b}] = true
			}
			return true
		})
		require.Equal(t, brute, found)
	}
}
