package space

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"gonum.org/v1/gonum/num/quat"
	"gonum.org/v1/gonum/spatial/r3"
)

func randomUnit(r *rand.Rand) Vec {
	for {
		if v, ok := Normalize(Vec{X: r.NormFloat64(), Y: r.NormFloat64(), Z: r.NormFloat64()}); ok {
			return v
		}
	}
}

// The reference is gonum's quaternion rotation, an independent implementation.
func TestAxisAngleTurnsLikeAQuaternion(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for range 500 {
		axis, degrees := randomUnit(r), r.Float64()*4000-2000
		v := Vec{X: r.NormFloat64() * 50, Y: r.NormFloat64() * 50, Z: r.NormFloat64() * 50}
		m := AxisAngle(axis, degrees)
		want := r3.NewRotation(degrees*math.Pi/180, axis).Rotate(v)
		assert.InDelta(t, 0, r3.Norm(r3.Sub(m.Apply(v), want)), 1e-9)
	}
}

func TestWholeRevolutionsAreExactlyNothing(t *testing.T) {
	for _, turns := range []float64{0, 1, 2, 3, 17, -4, 10_000} {
		assert.Equal(
			t,
			Identity,
			TurnAbout(Vec{X: 3, Y: -7, Z: 11}, randomUnit(rand.New(rand.NewPCG(3, 4))), 360*turns),
		)
	}
}

func TestRigidMotionsComposeAndInvert(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	for range 200 {
		a := Rigid{
			R: AxisAngle(randomUnit(r), r.Float64()*360),
			T: Vec{X: r.NormFloat64(), Y: r.NormFloat64(), Z: r.NormFloat64()},
		}
		b := Rigid{
			R: AxisAngle(randomUnit(r), r.Float64()*360),
			T: Vec{X: r.NormFloat64(), Y: r.NormFloat64(), Z: r.NormFloat64()},
		}
		p := Vec{X: 1, Y: 2, Z: 3}
		ab := a.Mul(&b)
		assert.InDelta(t, 0, r3.Norm(r3.Sub(ab.Apply(p), a.Apply(b.Apply(p)))), 1e-12)
		back := a.Inverse()
		assert.InDelta(t, 0, r3.Norm(r3.Sub(back.Apply(a.Apply(p)), p)), 1e-12)
	}
}

func TestQuaternionAndMatrixAgree(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 8))
	for range 500 {
		m := AxisAngle(randomUnit(r), r.Float64()*720-360)
		q := m.Quat()
		back := q.Matrix()
		for i := range m {
			assert.InDelta(t, m[i], back[i], 1e-12)
		}
	}
}

// Slerp against its definition a·(a⁻¹b)^u by gonum's quaternion power (glTF 2.0,
// appendix C.4 gives the same curve).
func TestSlerpFollowsTheGreatArc(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 10))
	number := func(q Quat) quat.Number { return quat.Number{Real: q[3], Imag: q[0], Jmag: q[1], Kmag: q[2]} }
	for range 300 {
		ma, mb := AxisAngle(randomUnit(r), r.Float64()*360), AxisAngle(randomUnit(r), r.Float64()*360)
		a, b := ma.Quat(), mb.Quat()
		if a[0]*b[0]+a[1]*b[1]+a[2]*b[2]+a[3]*b[3] < 0 {
			b = Quat{-b[0], -b[1], -b[2], -b[3]}
		}
		u := r.Float64()
		want := quat.Mul(number(a), quat.PowReal(quat.Mul(quat.Inv(number(a)), number(b)), u))
		got := number(Slerp(a, b, u))
		assert.InDelta(t, 0, quat.Abs(quat.Sub(got, want)), 1e-6)
	}
	assert.Equal(t, NoRotation, Slerp(NoRotation, Quat{1, 0, 0, 0}, 0))
	assert.Equal(t, Quat{1, 0, 0, 0}, Slerp(NoRotation, Quat{1, 0, 0, 0}, 1))
}

func TestLookAlongLooksThereWithItsHeadUp(t *testing.T) {
	for _, d := range []Vec{{X: 1}, {Z: -1}, {X: 1, Y: -2, Z: 0.5}, {Y: -1}, {Y: 1}} {
		m := LookAlong(d, Vec{Y: 1}).Matrix()
		want, _ := Normalize(d)
		assert.InDelta(t, 0, r3.Norm(r3.Sub(m.Apply(Vec{Z: -1}), want)), 1e-12)
		assert.GreaterOrEqual(t, m.Apply(Vec{Y: 1}).Y, -1e-12, "the head is never below")
	}
}

func TestBoxMovedHoldsItsCorners(t *testing.T) {
	r := rand.New(rand.NewPCG(11, 12))
	b := Box{Min: Vec{X: -1, Y: -2, Z: -3}, Max: Vec{X: 4, Y: 5, Z: 6}}
	for range 50 {
		m := Rigid{R: AxisAngle(randomUnit(r), r.Float64()*360), T: Vec{X: r.NormFloat64() * 9}}
		moved := b.Moved(&m)
		tight := EmptyBox
		for i := range 8 {
			tight = tight.With(m.Apply(b.Corner(i)))
		}
		assert.InDelta(t, 0, r3.Norm(r3.Sub(tight.Min, moved.Min))+r3.Norm(r3.Sub(tight.Max, moved.Max)), 1e-9)
	}
	assert.True(t, EmptyBox.Empty())
	assert.Equal(t, b, EmptyBox.Union(b))
}

func TestAnEmptyBoxHasTheOriginForItsCentre(t *testing.T) {
	assert.Equal(t, Vec{}, EmptyBox.Centre())
	assert.Equal(t, Vec{}, EmptyBox.Size())
	assert.Equal(t, Vec{X: 1}, Box{Min: Vec{X: -1}, Max: Vec{X: 3}}.Centre())
}

func TestRoundedLeavesNoMinusZero(t *testing.T) {
	v := Vec3{-1e-12, 0.99999999996, -0.12345678912}.Rounded(1e9)
	assert.Equal(t, Vec3{0, 1, -0.123456789}, v)
	assert.False(t, math.Signbit(v[0]), "−0 would be written as such")
}
