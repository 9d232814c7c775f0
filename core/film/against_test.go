package film_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/edit/edittest"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

func apart(a, b *space.Rigid) float64 {
	d := r3.Norm(r3.Sub(a.T, b.T))
	for i := range a.R {
		d = max(d, math.Abs(a.R[i]-b.R[i]))
	}
	return d
}

// On films by chance: a node is against another one where the film has both, those of which nothing is said never move
// against each other, and no point strays farther from its straight line than the arc says.
func TestAnArcHoldsAllThatMoves(t *testing.T) {
	a := product()
	looked, several := 0, 0
	n := uint64(150)
	if testing.Short() {
		n = 40
	}
	for seed := range n {
		r := script(reveal.Step{ID: "first", Title: "first", Duration: 4 * s})
		edittest.New(seed, a).Change(r, 40)
		require.NoError(t, reveal.Validate(r, a))
		f := film.Compile(a, r)
		fr := f.NewFrame()
		random := rand.New(rand.NewPCG(seed, 7))
		for still := range a.Nodes {
			for moving := range a.Nodes {
				if still == moving {
					continue
				}
				g := f.Against(still, moving)
				var rest space.Rigid
				for k := range 12 {
					at := reveal.Micros(random.Int64N(int64(f.Duration()) + 1))
					f.At(at, fr)
					inverse := fr.World[still].Inverse()
					want := inverse.Mul(&fr.World[moving])
					if g != nil {
						got := g.At(float64(at))
						require.Less(
							t,
							apart(&want, &got),
							1e-7,
							"seed %d, %d against %d at %d",
							seed,
							moving,
							still,
							at,
						)
					} else if k > 0 {
						require.Less(t, apart(&want, &rest), 1e-7, "seed %d: %d never moves against %d", seed, moving, still)
					}
					rest = want
				}
				if g == nil {
					continue
				}
				turns := g.Turns()
				for i := 1; i < len(turns); i++ {
					from, to := turns[i-1], turns[i]
					for range 4 { // the piece, and ever smaller ones in it
						arc := g.Arc(from, to)
						if held := holds(t, g, &arc, from, to, random); held {
							looked++
							if len(g.Cues(from, to)) > 1 {
								several++
							}
						}
						if t.Failed() {
							t.Fatalf(
								"seed %d, %d against %d, %f to %f: %v",
								seed,
								moving,
								still,
								from,
								to,
								g.Cues(from, to),
							)
						}
						middle := from + (to-from)*random.Float64()
						if random.IntN(2) == 0 {
							to = middle
						} else {
							from = middle
						}
					}
				}
			}
		}
	}
	t.Logf("%d pieces, %d of several cues", looked, several)
	assert.Greater(t, looked, int(5*n))
	assert.Greater(t, several, int(n*2/3))
}

// holds reports whether an arc bounds how far points stray, and fails the test where they stray farther.
func holds(t *testing.T, g *film.Against, arc *film.Arc, from, to float64, random *rand.Rand) bool {
	t.Helper()
	points := make([]space.Vec, 4)
	for i := range points {
		points[i] = vec(20*random.Float64()-10, 20*random.Float64()-10, 20*random.Float64()-10)
		if math.IsInf(arc.Strays(points[i]), 1) {
			return false
		}
	}
	for k := 1; k < 8; k++ {
		at := g.At(from + (to-from)*float64(k)/8)
		least := math.Inf(1)
		for share := range 161 {
			worst := math.Inf(-1)
			for _, p := range points {
				a, b := arc.From.Apply(p), arc.To.Apply(p)
				on := r3.Add(a, r3.Scale(float64(share)/160, r3.Sub(b, a)))
				worst = max(worst, r3.Norm(r3.Sub(at.Apply(p), on))-arc.Strays(p)-r3.Norm(r3.Sub(b, a))/160)
			}
			least = min(least, worst)
		}
		assert.Less(t, least, 1e-6, "mm farther than the arc says")
	}
	return true
}

// A screw's helix against its cover: its axis, and how far it comes out in four turns of 0.7 mm.
func TestAHelixIsThatOfTheScrew(t *testing.T) {
	c := reveal.Cue{ID: "u", Kind: reveal.KindUnscrew, Targets: nil, Duration: 2 * s, Easing: reveal.Linear,
		Unscrew: &reveal.Unscrew{
			Axes:  reveal.ParentAxes,
			Along: space.Vec3{0, 0, 1},
			Pivot: space.Vec3{5, 5, 0},
			Turns: 4,
			Lead:  0.7,
		}}
	c.Targets = append(c.Targets, "cover/screw")
	f, _ := compile(
		t,
		script(
			reveal.Step{
				ID:       "a",
				Duration: 2 * s,
				Cues:     []reveal.Cue{pull("p", 0, 2*s, reveal.ParentAxes, space.Vec3{1, 0, 0}, 50, "cover"), c},
			},
		),
	)
	g := f.Against(1, 2)
	require.NotNil(t, g)
	assert.Equal(t, []float64{0, 2e6}, g.Turns(), "what moves the cover as well is no movement against it")
	arc := g.Arc(0, 2e6)
	require.NotNil(t, arc.Helix)
	assert.InDelta(t, 8*math.Pi, arc.Angle, 1e-9)
	assert.InDelta(t, 2.8, arc.Helix.Advance*arc.Helix.Axis.Z, 1e-9)
	near(t, vec(0, 0, 0), r3.Cross(vec(0, 0, 1), arc.Helix.Axis), 1e-9)
	near(t, vec(5, 5, 0), vec(arc.Helix.Pivot.X, arc.Helix.Pivot.Y, 0), 1e-9)
	assert.Nil(t, f.Against(2, 2))
	assert.Equal(t, []reveal.CueID{"u"}, g.Cues(0, 2e6))
}

// A screw in the axes of the whole has its helix also where what holds both has been moved in another step: only while
// that moves is the way of the screw another one.
func TestAHelixStaysOneWhereWhatHoldsBothHasMoved(t *testing.T) {
	screw := func(at reveal.Micros) reveal.Cue {
		return reveal.Cue{ID: "u", Kind: reveal.KindUnscrew, Targets: []assembly.NodeID{"cover/screw"}, Offset: at,
			Duration: 2 * s, Easing: reveal.Linear, Unscrew: &reveal.Unscrew{
				Axes:  reveal.AssemblyAxes,
				Along: space.Vec3{0, 0, 1},
				Pivot: space.Vec3{5, 5, 0},
				Turns: 4,
				Lead:  0.7,
			}}
	}
	for at, want := range map[reveal.Micros]bool{3 * s: true, s: false} {
		f, _ := compile(t, script(reveal.Step{ID: "a", Duration: 6 * s, Cues: []reveal.Cue{
			pull("p", 0, 2*s, reveal.ParentAxes, space.Vec3{1, 0, 0}, 50, "cover"), screw(at),
		}}))
		g := f.Against(3, 2)
		require.NotNil(t, g)
		arc := g.Arc(float64(at), float64(at)+1e6)
		assert.Equal(t, want, arc.Helix != nil, "from %d on", at)
	}
}
