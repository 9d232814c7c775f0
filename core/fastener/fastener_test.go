package fastener

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// lathe turns an outline of (radius, height) about Z into a closed body with n
// sides; the outline runs up the outside. corner, where set, gives the radius at
// an angle for outlines that are not round.
func lathe(n int, corner func(angle float64) float64, outline ...[2]float64) solid.Mesh {
	var m solid.Mesh
	for _, p := range outline {
		for k := range n {
			angle := 2 * math.Pi * float64(k) / float64(n)
			r := p[0]
			if r < 0 { // a negative radius follows the corner function
				r = -r * corner(angle)
			}
			m.Positions = append(m.Positions, float32(r*math.Cos(angle)), float32(r*math.Sin(angle)), float32(p[1]))
		}
	}
	rings := len(outline)
	for i := range rings {
		for k := range n {
			a, b := uint32(i*n+k), uint32(i*n+(k+1)%n)
			c, d := uint32((i+1)%rings*n+k), uint32((i+1)%rings*n+(k+1)%n)
			m.Triangles = append(m.Triangles, a, b, d, a, d, c)
		}
	}
	return m
}

// hexagonal is the distance to the outline of a hexagon with the inradius 1.
func hexagonal(angle float64) float64 {
	return 1 / math.Cos(math.Remainder(angle, math.Pi/3))
}

// onAxis is a radius so small that its ring is a point.
const onAxis = 0

func moved(m solid.Mesh, by space.Rigid) solid.Mesh {
	for i := 0; i < len(m.Positions); i += 3 {
		p := by.Apply(space.Vec{X: float64(m.Positions[i]), Y: float64(m.Positions[i+1]), Z: float64(m.Positions[i+2])})
		m.Positions[i], m.Positions[i+1], m.Positions[i+2] = float32(p.X), float32(p.Y), float32(p.Z)
	}
	return m
}

func recognise(t *testing.T, m solid.Mesh, name string) *Guess {
	t.Helper()
	s, _, err := solid.New(m)
	require.NoError(t, err)
	f := s.Features()
	return Recognise(s, &f, name)
}

func capScrew(d, head, length float64) solid.Mesh {
	return lathe(
		30,
		nil,
		[2]float64{onAxis, -length},
		[2]float64{d / 2, -length},
		[2]float64{d / 2, 0},
		[2]float64{head / 2, 0},
		[2]float64{head / 2, d},
		[2]float64{onAxis, d},
	)
}

func anywhere(r *rand.Rand) space.Rigid {
	axis := r3.Unit(space.Vec{X: r.NormFloat64(), Y: r.NormFloat64(), Z: r.NormFloat64()})
	return space.Rigid{
		R: space.AxisAngle(axis, 360*r.Float64()),
		T: space.Vec{X: 50 * r.NormFloat64(), Y: 50 * r.NormFloat64(), Z: 50 * r.NormFloat64()},
	}
}

// Head diameters of ISO 4762 and coarse leads of ISO 261 (from memory).
func TestCapScrewsAreKnownWithTheirLeadWhereverTheyAre(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 1))
	for size, want := range map[string][3]float64{"M3": {3, 5.5, 0.5}, "M4": {4, 7, 0.7}, "M5": {5, 8.5, 0.8}, "M6": {6, 10, 1}, "M8": {8, 13, 1.25}, "M10": {10, 16, 1.5}} {
		for _, length := range []float64{1.5, 4} {
			by := anywhere(r)
			g := recognise(t, moved(capScrew(want[0], want[1], length*want[0]), by), "")
			require.NotNil(t, g, size)
			assert.Equal(t, Screw, g.Kind)
			assert.Equal(t, size, g.Size)
			assert.Equal(t, want[2], g.Lead)
			assert.InDelta(t, length*want[0], g.Length, 0.01)
			assert.GreaterOrEqual(t, g.Confidence, 0.8)
			out := by.R.Apply(space.Vec{Z: 1})
			assert.Greater(t, r3.Dot(out, g.Out.Vec()), 0.9999, "out of the thread is towards the head")
			tip := by.Apply(space.Vec{})
			off := r3.Cross(out, r3.Sub(g.Origin.Vec(), tip))
			assert.Less(t, r3.Norm(off), 0.01, "the axis is the screw's")
		}
	}
}

func TestAHexagonBoltIsAScrew(t *testing.T) {
	bolt := lathe(
		60,
		hexagonal,
		[2]float64{onAxis, -25},
		[2]float64{4, -25},
		[2]float64{4, 0},
		[2]float64{-6.5, 0},
		[2]float64{-6.5, 5.3},
		[2]float64{onAxis, 5.3},
	)
	g := recognise(t, bolt, "")
	require.NotNil(t, g)
	assert.Equal(t, Screw, g.Kind)
	assert.Equal(t, "M8", g.Size)
	assert.Equal(t, 1.25, g.Lead)
}

// Widths across flats and heights of ISO 4032 (from memory).
func TestNutsByTheirFlats(t *testing.T) {
	for size, want := range map[string][3]float64{"M3": {5.5, 2.4, 3}, "M5": {8, 4.7, 5}, "M8": {13, 6.8, 8}} {
		for _, hole := range []float64{want[2], want[2] - 1.0825*leadOf(size)} {
			g := recognise(
				t,
				lathe(
					60,
					hexagonal,
					[2]float64{hole / 2, 0},
					[2]float64{-want[0] / 2, 0},
					[2]float64{-want[0] / 2, want[1]},
					[2]float64{hole / 2, want[1]},
				),
				"",
			)
			require.NotNil(t, g, size)
			assert.Equal(t, Nut, g.Kind)
			assert.Equal(t, size, g.Size)
			assert.GreaterOrEqual(t, g.Confidence, 0.9)
		}
	}
}

func leadOf(size string) float64 {
	for _, t := range Coarse {
		if t.Name == size {
			return t.Lead
		}
	}
	return 0
}

func pipe(inner, outer, height float64) solid.Mesh {
	return lathe(
		48,
		nil,
		[2]float64{inner / 2, 0},
		[2]float64{outer / 2, 0},
		[2]float64{outer / 2, height},
		[2]float64{inner / 2, height},
	)
}

// ISO 7089 and ISO 15 (from memory).
func TestWashersBearingsAndPins(t *testing.T) {
	for name, c := range map[string]struct {
		mesh solid.Mesh
		kind Kind
		size string
	}{
		"washer M4":   {pipe(4.3, 9, 0.8), Washer, "M4"},
		"washer M6":   {pipe(6.4, 12, 1.6), Washer, "M6"},
		"608":         {pipe(8, 22, 7), Bearing, "8 × 22 × 7"},
		"6000":        {pipe(10, 26, 8), Bearing, "10 × 26 × 8"},
		"dowel Ø4×20": {lathe(40, nil, [2]float64{onAxis, 0}, [2]float64{2, 0}, [2]float64{2, 20}, [2]float64{onAxis, 20}), Pin, "Ø4"},
	} {
		g := recognise(t, c.mesh, "")
		require.NotNil(t, g, name)
		assert.Equal(t, c.kind, g.Kind, name)
		assert.Equal(t, c.size, g.Size, name)
	}
}

func TestWhatIsNoFastenerIsNotCalledOne(t *testing.T) {
	for name, m := range map[string]solid.Mesh{
		"a long tube":  pipe(20, 24, 150),
		"a big flange": pipe(60, 240, 20),
		"a wheel":      lathe(60, nil, [2]float64{onAxis, 0}, [2]float64{30, 0}, [2]float64{30, 12}, [2]float64{onAxis, 12}),
		"a box":        lathe(4, nil, [2]float64{onAxis, 0}, [2]float64{10, 0}, [2]float64{10, 30}, [2]float64{onAxis, 30}),
	} {
		assert.Nil(t, recognise(t, m, ""), name)
	}
}

func TestANameIsAHintAndNoMore(t *testing.T) {
	plain := recognise(t, capScrew(4, 7, 12), "Part 17")
	named := recognise(t, capScrew(4, 7, 12), "ISO 4762 M4 x 12")
	odd := recognise(t, capScrew(4, 7, 12), "Bearing")
	require.NotNil(t, odd)
	assert.Greater(t, named.Confidence, plain.Confidence)
	assert.Less(t, odd.Confidence, plain.Confidence)
	assert.Contains(t, odd.Why, "its name says bearing")
	assert.Nil(
		t,
		recognise(
			t,
			lathe(4, nil, [2]float64{onAxis, 0}, [2]float64{10, 0}, [2]float64{10, 30}, [2]float64{onAxis, 30}),
			"screw",
		),
		"a box stays a box",
	)
}
