package formats_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/solid"
	"slowreveal/core/space"
	"slowreveal/formats"
)

func turned(r *rand.Rand) space.Mat3 {
	axis := r3.Unit(space.Vec{X: r.NormFloat64(), Y: r.NormFloat64(), Z: r.NormFloat64()})
	return space.AxisAngle(axis, 360*r.Float64())
}

// A map is its rigid part after its stretch, whatever it does.
func TestSplitPutsTogetherAgain(t *testing.T) {
	r := rand.New(rand.NewPCG(21, 22))
	for k := range 200 {
		m := turned(r)
		stretch := space.Mat3{0.5 + r.Float64(), 0, 0, 0, 0.5 + r.Float64(), 0, 0, 0, 0.5 + r.Float64()}
		if k%3 == 0 {
			stretch[0] = -stretch[0] // mirrored
		}
		skew := turned(r)
		m = m.Mul(&stretch)
		m = m.Mul(&skew)
		a := formats.Affine{M: m, T: space.Vec{X: 1, Y: 2, Z: 3}}
		rigid, rest, err := a.Split()
		require.NoError(t, err)
		assert.InDelta(t, 1, rigid.R.Det(), 1e-9)
		back := rigid.R.Mul(&rest)
		for i := range back {
			require.InDelta(t, m[i], back[i], 1e-9)
		}
		assert.Equal(t, m.Det() < 0, rest.Det() < 0, "a mirroring goes into the stretch")
	}
	_, _, err := (&formats.Affine{M: space.Mat3{1, 0, 0, 0, 0, 0, 0, 0, 1}}).Split()
	assert.ErrorContains(t, err, "scale is zero")
}

// Children of stretched nodes stand where the file has them: a point of the
// child's shape, after its own stretch and pose, is the point of the file.
func TestPlacesDownATree(t *testing.T) {
	r := rand.New(rand.NewPCG(23, 24))
	place, file := formats.Origin, formats.IdentityAffine
	world := space.Identity
	for range 6 {
		m := turned(r)
		s := space.Mat3{1 + r.Float64(), 0, 0, 0, 1, 0, 0, 0, 0.5}
		m = m.Mul(&s)
		local := formats.Affine{M: m, T: space.Vec{X: r.NormFloat64(), Y: r.NormFloat64(), Z: r.NormFloat64()}}
		here, pose, stretch, err := place.Child(&local)
		require.NoError(t, err)
		file = file.Mul(&local)
		rigid := pose.Rigid()
		world = world.Mul(&rigid)
		p := space.Vec{X: 1.5, Y: -2, Z: 0.7}
		want := r3.Add(file.M.Apply(p), file.T)
		got := world.Apply(stretch.Apply(p))
		require.InDelta(t, 0, r3.Norm(r3.Sub(want, got)), 1e-6)
		place = here
	}
	bad := formats.Affine{M: space.Identity3, T: space.Vec{X: math.NaN()}}
	_, _, _, err := place.Child(&bad)
	assert.ErrorContains(t, err, "not finite")
}

func TestAMirroredMeshStillLooksOutwards(t *testing.T) {
	m := solid.Mesh{
		Positions: []float32{0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1},
		Triangles: []uint32{0, 2, 1, 0, 1, 3, 1, 2, 3, 0, 3, 2},
	}
	formats.ScaleShear(&m, &space.Mat3{-2, 0, 0, 0, 1, 0, 0, 0, 1})
	s, _, err := solid.New(m)
	require.NoError(t, err)
	assert.InDelta(t, 2.0/6, s.Volume(), 1e-6)
}

func TestOptionsAreHeldAgainstWhatIsKnown(t *testing.T) {
	for _, o := range []formats.Options{{}, {Unit: "in", Up: "z", Detail: "fine"}, {Unit: "µm"}} {
		assert.NoError(t, o.Check())
	}
	for want, o := range map[string]formats.Options{"cubit": {Unit: "cubit"}, `"x"`: {Up: "x"}, "finest": {Detail: "finest"}} {
		assert.ErrorContains(t, o.Check(), want)
	}
	assert.Equal(t, "inch", formats.UnitOf(25.4, "INCH").Name)
	assert.Equal(t, "furlong", formats.UnitOf(201168, "Furlong").Name, "an odd unit keeps its name")
}
