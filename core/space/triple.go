package space

import "math"

// Vec3 is a vector as documents write it: [x, y, z].
type Vec3 [3]float64

// Vec returns t as a vector.
func (t Vec3) Vec() Vec { return Vec{X: t[0], Y: t[1], Z: t[2]} }

// Vec3Of returns v as documents write it.
func Vec3Of(v Vec) Vec3 { return Vec3{v.X, v.Y, v.Z} }

// Rounded returns t in whole parts, so many to a unit. What is left of rounding goes, so that an axis reads 0 0 1, and
// never −0.
func (t Vec3) Rounded(parts float64) Vec3 {
	for i := range t {
		t[i] = math.Round(t[i]*parts)/parts + 0
	}
	return t
}
