package film_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

func TestAShotTravelsOnAnArcAndThenHolds(t *testing.T) {
	r := busy()
	r.Steps[1].Cues[0].Shot.Camera.Target = eye.Target
	r.Steps[1].Cues[0].Shot.Camera.Distance = eye.Distance
	f, fr := compile(t, r)
	for k := range 50 {
		f.At(2*s+reveal.Micros(k)*s/50, fr)
		place := film.Eye(fr.Camera)
		assert.InDelta(
			t,
			eye.Distance,
			math.Sqrt(place.T.X*place.T.X+place.T.Y*place.T.Y+place.T.Z*place.T.Z),
			1e-9,
			"equal distances stay equal on the way",
		)
	}
	f.At(4*s, fr)
	assert.Equal(t, r.Steps[1].Cues[0].Shot.Camera, fr.Camera)
}

// Thin lens on 36 × 24 mm; values from memory of the formula 2·atan(d/2f):
// 50 mm 39.6° × 27.0°, 35 mm 54.4°, 85 mm 23.9°.
func TestFieldOfView(t *testing.T) {
	degrees := func(tan float64) float64 { return 2 * math.Atan(tan) * 180 / math.Pi }
	h, v := film.Field(50, 1.5)
	assert.InDelta(t, 39.6, degrees(h), 0.05)
	assert.InDelta(t, 27.0, degrees(v), 0.05)
	h, _ = film.Field(35, 16.0/9)
	assert.InDelta(t, 54.4, degrees(h), 0.05)
	h, _ = film.Field(85, 16.0/9)
	assert.InDelta(t, 23.9, degrees(h), 0.05)
	h, v = film.Field(50, 1)
	assert.Equal(t, h, v)
	assert.InDelta(t, 0.24, v, 1e-12)
}

// ISO 5456-3 (from memory): isometric foreshortening 0.8165 on all axes, which
// lie at 30°; dimetric scales 1 : 1 : ½ with axes at 7° and 42°.
func TestNamedViewsHaveTheirForeshortening(t *testing.T) {
	shown := func(name string) (scale, angle [3]float64) {
		for _, v := range film.Views() {
			if v.Name == name {
				m := v.Orientation.Matrix()
				for k, axis := range []space.Vec{{X: 1}, {Y: 1}, {Z: 1}} {
					p := m.ApplyInverse(axis)
					scale[k], angle[k] = math.Hypot(p.X, p.Y), math.Atan2(math.Abs(p.Y), math.Abs(p.X))*180/math.Pi
				}
			}
		}
		return scale, angle
	}
	scale, angle := shown("isometric")
	for k := range 3 {
		assert.InDelta(t, 0.8165, scale[k], 1e-4)
	}
	assert.InDelta(t, 30, angle[0], 1e-6)
	scale, angle = shown("dimetric")
	assert.InDelta(t, 1, scale[0]/scale[1], 1e-9)
	assert.InDelta(t, 0.5, scale[2]/scale[1], 1e-9)
	assert.InDelta(t, 7, angle[0], 0.3)
	assert.InDelta(t, 42, angle[2], 0.7)
}

func TestFitKeepsEveryCornerInsideAndTouchesTheFrame(t *testing.T) {
	random := rand.New(rand.NewPCG(2, 3))
	for _, v := range film.Views() {
		b := space.EmptyBox
		for range 4 {
			b = b.With(
				space.Vec{X: random.NormFloat64() * 80, Y: random.NormFloat64() * 40, Z: random.NormFloat64() * 60},
			)
		}
		const margin = 0.2
		c, err := film.Fit(reveal.Camera{Orientation: v.Orientation, FocalLength: 50}, 16.0/9, margin, []space.Box{b})
		require.NoError(t, err)
		th, tv := film.Field(50, 16.0/9)
		pose := film.Eye(c)
		inverse := pose.Inverse()
		most := 0.0
		for i := range 8 {
			p := inverse.Apply(b.Corner(i))
			require.Less(t, p.Z, 0.0)
			most = math.Max(most, math.Max(math.Abs(p.X/-p.Z)/th, math.Abs(p.Y/-p.Z)/tv))
		}
		assert.InDelta(t, 1-margin, most, 1e-9, v.Name)
	}
	_, err := film.Fit(reveal.Camera{Orientation: space.NoRotation, FocalLength: 50}, 1, 0, nil)
	assert.Error(t, err)
}
