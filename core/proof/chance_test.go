package proof_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/film"
	"slowreveal/core/proof"
	"slowreveal/core/reveal"
	"slowreveal/core/solid/simple"
	"slowreveal/core/space"
)

// Blocks that move by chance, two of them at the same time: wherever one is far in the other at one of 400 moments,
// that lies within a finding; and they are in each other at the moment that a finding names.
func TestBlocksByChance(t *testing.T) {
	meet, miss := 0, 0
	for seed := range uint64(80) {
		random := rand.New(rand.NewPCG(seed, 3))
		between := func(a, b float64) float64 { return a + (b-a)*random.Float64() }
		m := scene(
			t,
			part{"one", simple.Block(between(2, 12), between(2, 12), between(2, 12)), space.Vec{}},
			part{
				"two",
				simple.Block(between(2, 12), between(2, 12), between(2, 12)),
				space.Vec{X: between(14, 30), Y: between(-15, 15), Z: between(-8, 8)},
			},
		)
		cues := []reveal.Cue{
			pull(
				"p",
				0,
				reveal.Micros(between(1, 3)*1e6),
				space.Vec3{between(-1, 0), between(-0.5, 0.5), between(-0.3, 0.3)},
				between(10, 50),
				"two",
			),
			turn(
				"t",
				reveal.Micros(between(0, 1)*1e6),
				2*s,
				space.Vec3{between(0, 10), between(0, 10), 0},
				between(-300, 300),
				"one",
			),
			turn(
				"u",
				reveal.Micros(between(0, 2)*1e6),
				s,
				space.Vec3{between(15, 30), 0, 0},
				between(-200, 200),
				"two",
			),
		}
		for i := range cues {
			cues[i].Easing = []reveal.Easing{reveal.Linear, reveal.Smooth}[random.IntN(2)]
		}
		f := compiled(t, m, cues...)
		list := found(t, m, cues...)
		g := f.Against(1, 2)
		inside := func(at float64, depth float64) bool {
			place := g.At(at)
			return boxesMeet(m.Assembly.Shapes[0].Bounds(), m.Assembly.Shapes[1].Bounds(), &place, depth)
		}
		for k := range 401 {
			at := float64(f.Duration()) * float64(k) / 400
			if !inside(at, 0.35) {
				continue
			}
			within := false
			for _, x := range list {
				within = within || float64(x.From) <= at+1 && at <= float64(x.To)+1 ||
					at > float64(x.To) && float64(x.To) >= 3.9e6
			}
			require.True(
				t,
				within || restsAfter(g, list, at),
				"seed %d: at %.4f s they are in each other; %v",
				seed,
				at/1e6,
				list,
			)
		}
		for _, x := range list {
			require.True(t, inside(float64(x.At), 0.05), "seed %d: %v", seed, x)
		}
		if len(list) > 0 {
			meet++
		} else {
			miss++
		}
	}
	t.Logf("%d meet, %d miss each other", meet, miss)
	assert.Greater(t, meet, 15)
	assert.Greater(t, miss, 15)
}

// restsAfter reports whether nothing has moved since a finding ended.
func restsAfter(g *film.Against, list []proof.Overlap, at float64) bool {
	for _, x := range list {
		if float64(x.To) < at && len(g.Cues(float64(x.To)+1, at)) == 0 {
			return true
		}
	}
	return false
}

// boxesMeet reports whether two boxes, the second one at a place, are deeper in each other than a depth: by the fifteen
// directions that can tell two boxes apart (S. Gottschalk, M. Lin, D. Manocha, "OBBTree", 1996, from memory).
func boxesMeet(a, b space.Box, place *space.Rigid, depth float64) bool {
	axes := []space.Vec{{X: 1}, {Y: 1}, {Z: 1}}
	own := len(axes)
	for i := range own {
		axes = append(axes, place.R.Apply(axes[i]))
	}
	for i := range own {
		for k := range own {
			p, q := axes[i], axes[own+k]
			axes = append(axes, space.Vec{X: p.Y*q.Z - p.Z*q.Y, Y: p.Z*q.X - p.X*q.Z, Z: p.X*q.Y - p.Y*q.X})
		}
	}
	for _, n := range axes {
		u, ok := space.Normalize(n)
		if !ok || math.Sqrt(n.X*n.X+n.Y*n.Y+n.Z*n.Z) < 1e-6 {
			continue
		}
		low, high, from, to := math.Inf(1), math.Inf(-1), math.Inf(1), math.Inf(-1)
		for i := range 8 {
			p, q := a.Corner(i), place.Apply(b.Corner(i))
			x, y := u.X*p.X+u.Y*p.Y+u.Z*p.Z, u.X*q.X+u.Y*q.Y+u.Z*q.Z
			low, high, from, to = min(low, x), max(high, x), min(from, y), max(to, y)
		}
		if min(high, to)-max(low, from) <= depth {
			return false
		}
	}
	return true
}
