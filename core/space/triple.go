package space

// Triple is a vector as documents write it: [x, y, z].
type Triple [3]float64

// Vec returns t as a vector.
func (t Triple) Vec() Vec { return Vec{X: t[0], Y: t[1], Z: t[2]} }

// TripleOf returns v as documents write it.
func TripleOf(v Vec) Triple { return Triple{v.X, v.Y, v.Z} }
