package space

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"
)

// Vec is a point or direction in millimetres.
type Vec = r3.Vec

// Mat3 is a rotation matrix in row-major order. Its columns are the rotated
// axes.
type Mat3 [9]float64

// Identity3 is the rotation that changes nothing.
var Identity3 = Mat3{1, 0, 0, 0, 1, 0, 0, 0, 1}

// Apply returns m·v.
func (m *Mat3) Apply(v Vec) Vec {
	return Vec{
		X: m[0]*v.X + m[1]*v.Y + m[2]*v.Z,
		Y: m[3]*v.X + m[4]*v.Y + m[5]*v.Z,
		Z: m[6]*v.X + m[7]*v.Y + m[8]*v.Z,
	}
}

// ApplyInverse returns mᵀ·v, which for a rotation is its inverse applied to v.
func (m *Mat3) ApplyInverse(v Vec) Vec {
	return Vec{
		X: m[0]*v.X + m[3]*v.Y + m[6]*v.Z,
		Y: m[1]*v.X + m[4]*v.Y + m[7]*v.Z,
		Z: m[2]*v.X + m[5]*v.Y + m[8]*v.Z,
	}
}

// Mul returns m·n: first n, then m.
func (m *Mat3) Mul(n *Mat3) Mat3 {
	return Mat3{
		m[0]*n[0] + m[1]*n[3] + m[2]*n[6], m[0]*n[1] + m[1]*n[4] + m[2]*n[7], m[0]*n[2] + m[1]*n[5] + m[2]*n[8],
		m[3]*n[0] + m[4]*n[3] + m[5]*n[6], m[3]*n[1] + m[4]*n[4] + m[5]*n[7], m[3]*n[2] + m[4]*n[5] + m[5]*n[8],
		m[6]*n[0] + m[7]*n[3] + m[8]*n[6], m[6]*n[1] + m[7]*n[4] + m[8]*n[7], m[6]*n[2] + m[7]*n[5] + m[8]*n[8],
	}
}

// Transposed returns mᵀ, for a rotation its inverse.
func (m *Mat3) Transposed() Mat3 {
	return Mat3{m[0], m[3], m[6], m[1], m[4], m[7], m[2], m[5], m[8]}
}

// Twist returns the vector of length 2 sin θ along the axis of a rotation by θ.
func (m *Mat3) Twist() Vec { return Vec{X: m[7] - m[5], Y: m[2] - m[6], Z: m[3] - m[1]} }

// Angle returns how far a rotation turns, rad, between 0 and π: 2 sin θ is the length of its twist, 1 + 2 cos θ its trace.
func (m *Mat3) Angle() float64 { return math.Atan2(r3.Norm(m.Twist())/2, (m[0]+m[4]+m[8]-1)/2) }

// Rigid is a rigid motion: x ↦ R·x + T. As a pose it maps a node's own frame
// to the frame of its parent (or to the assembly, or to the world).
type Rigid struct {
	R Mat3
	T Vec
}

// Identity is the motion that moves nothing.
var Identity = Rigid{R: Identity3}

// Apply moves the point v.
func (a *Rigid) Apply(v Vec) Vec {
	w := a.R.Apply(v)
	return Vec{X: w.X + a.T.X, Y: w.Y + a.T.Y, Z: w.Z + a.T.Z}
}

// Mul returns the motion that applies b first and a afterwards: a∘b. For
// poses, parent.Then(child) is the child's pose in the parent's frame's frame.
func (a *Rigid) Mul(b *Rigid) Rigid {
	return Rigid{R: a.R.Mul(&b.R), T: a.Apply(b.T)}
}

// Inverse returns the motion that undoes a.
func (a *Rigid) Inverse() Rigid {
	inv := Rigid{R: a.R.Transposed()}
	t := inv.R.Apply(a.T)
	inv.T = Vec{X: -t.X, Y: -t.Y, Z: -t.Z}
	return inv
}

// Translation returns the motion that shifts by d.
func Translation(d Vec) Rigid { return Rigid{R: Identity3, T: d} }

// AxisAngle returns the rotation by degrees about the unit vector axis, by
// Rodrigues' formula. Whole revolutions are taken off in degrees, where they
// are exact, so that any number of full turns gives exactly the identity; a
// caller that passes 1080·u therefore sweeps three turns and ends at rest.
func AxisAngle(axis Vec, degrees float64) Mat3 {
	rest := math.Mod(degrees, 360)
	if rest == 0 {
		return Identity3
	}
	s, c := math.Sincos(rest * (math.Pi / 180))
	v := 1 - c
	x, y, z := axis.X, axis.Y, axis.Z
	return Mat3{
		c + x*x*v, x*y*v - z*s, x*z*v + y*s,
		y*x*v + z*s, c + y*y*v, y*z*v - x*s,
		z*x*v - y*s, z*y*v + x*s, c + z*z*v,
	}
}

// TurnAbout returns the rotation by degrees about the line through pivot with
// the unit direction axis.
func TurnAbout(pivot, axis Vec, degrees float64) Rigid {
	r := AxisAngle(axis, degrees)
	return Rigid{R: r, T: r3.Sub(pivot, r.Apply(pivot))}
}

// Screw returns the axis of a motion that turns by angle, rad, about the unit direction axis: the point of it that is
// nearest to the origin, and how far the motion goes along it. Of x ↦ R·x + T, T without its part along the axis is
// (I − R)·pivot.
func (a *Rigid) Screw(axis Vec, angle float64) (pivot Vec, along float64) {
	along = r3.Dot(axis, a.T)
	across := r3.Sub(a.T, r3.Scale(along, axis))
	return r3.Scale(0.5, r3.Add(across, r3.Scale(1/math.Tan(angle/2), r3.Cross(axis, across)))), along
}

// Finite reports whether all components are finite numbers.
func Finite(v Vec) bool {
	return !math.IsNaN(v.X-v.X) && !math.IsNaN(v.Y-v.Y) && !math.IsNaN(v.Z-v.Z)
}
