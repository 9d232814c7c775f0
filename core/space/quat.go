package space

import "math"

// Quat is a rotation as a unit quaternion in the order of glTF 2.0: x, y, z, w.
// Documents carry orientations in this form.
type Quat [4]float64

// NoRotation is the quaternion of the identity.
var NoRotation = Quat{0, 0, 0, 1}

// Matrix returns the rotation matrix of q (glTF 2.0, 3.5.3; q is taken to be
// of unit length).
func (q Quat) Matrix() Mat3 {
	x, y, z, w := q[0], q[1], q[2], q[3]
	return Mat3{
		1 - 2*(y*y+z*z), 2 * (x*y - z*w), 2 * (x*z + y*w),
		2 * (x*y + z*w), 1 - 2*(x*x+z*z), 2 * (y*z - x*w),
		2 * (x*z - y*w), 2 * (y*z + x*w), 1 - 2*(x*x+y*y),
	}
}

// Norm returns the length of q.
func (q Quat) Norm() float64 {
	return math.Sqrt(q[0]*q[0] + q[1]*q[1] + q[2]*q[2] + q[3]*q[3])
}

// Normalized returns q scaled to length one, or NoRotation when q has no length.
func (q Quat) Normalized() Quat {
	n := q.Norm()
	if !(n > 0) || math.IsInf(n, 0) {
		return NoRotation
	}
	return Quat{q[0] / n, q[1] / n, q[2] / n, q[3] / n}
}

// Quat returns the unit quaternion of the rotation m (Shepperd's method: the
// largest component first, so that no division by a small number occurs).
func (m *Mat3) Quat() Quat {
	t := m[0] + m[4] + m[8]
	var q Quat
	switch {
	case t > 0:
		s := 2 * math.Sqrt(t+1)
		q = Quat{(m[7] - m[5]) / s, (m[2] - m[6]) / s, (m[3] - m[1]) / s, s / 4}
	case m[0] > m[4] && m[0] > m[8]:
		s := 2 * math.Sqrt(1+m[0]-m[4]-m[8])
		q = Quat{s / 4, (m[1] + m[3]) / s, (m[2] + m[6]) / s, (m[7] - m[5]) / s}
	case m[4] > m[8]:
		s := 2 * math.Sqrt(1+m[4]-m[0]-m[8])
		q = Quat{(m[1] + m[3]) / s, s / 4, (m[5] + m[7]) / s, (m[2] - m[6]) / s}
	default:
		s := 2 * math.Sqrt(1+m[8]-m[0]-m[4])
		q = Quat{(m[2] + m[6]) / s, (m[5] + m[7]) / s, s / 4, (m[3] - m[1]) / s}
	}
	return q.Normalized()
}

// Slerp goes from a to b along the shorter great arc, u from 0 to 1 (glTF 2.0,
// appendix C.4). At u = 0 it returns a itself, at u = 1 b itself.
func Slerp(a, b Quat, u float64) Quat {
	switch {
	case u <= 0:
		return a
	case u >= 1:
		return b
	}
	d := a[0]*b[0] + a[1]*b[1] + a[2]*b[2] + a[3]*b[3]
	sign := 1.0
	if d < 0 {
		d, sign = -d, -1
	}
	ka, kb := 1-u, u*sign
	if d < 0.9995 { // closer than that, the straight line is as good and safer
		angle := math.Acos(d)
		s := math.Sin(angle)
		ka, kb = math.Sin((1-u)*angle)/s, math.Sin(u*angle)/s*sign
	}
	return Quat{ka*a[0] + kb*b[0], ka*a[1] + kb*b[1], ka*a[2] + kb*b[2], ka*a[3] + kb*b[3]}.Normalized()
}

// LookAlong returns the orientation of a camera that looks along direction
// with up as near to its +Y as can be. A camera looks along its own −Z. When
// direction and up are parallel, +Z or −Z of the world serves as up.
func LookAlong(direction, up Vec) Quat {
	back := normalized(Vec{X: -direction.X, Y: -direction.Y, Z: -direction.Z})
	right := cross(up, back)
	if length(right) < 1e-9 {
		right = cross(Vec{Z: -math.Copysign(1, back.Y)}, back)
	}
	right = normalized(right)
	top := cross(back, right)
	m := Mat3{right.X, top.X, back.X, right.Y, top.Y, back.Y, right.Z, top.Z, back.Z}
	return m.Quat()
}

func cross(a, b Vec) Vec {
	return Vec{X: a.Y*b.Z - a.Z*b.Y, Y: a.Z*b.X - a.X*b.Z, Z: a.X*b.Y - a.Y*b.X}
}

func length(v Vec) float64 { return math.Sqrt(v.X*v.X + v.Y*v.Y + v.Z*v.Z) }

func normalized(v Vec) Vec {
	l := length(v)
	if !(l > 0) {
		return Vec{}
	}
	return Vec{X: v.X / l, Y: v.Y / l, Z: v.Z / l}
}

// Normalize returns v scaled to length one, and false when v has no usable length.
func Normalize(v Vec) (Vec, bool) {
	l := length(v)
	if !(l > 1e-12) || math.IsInf(l, 0) {
		return Vec{}, false
	}
	return Vec{X: v.X / l, Y: v.Y / l, Z: v.Z / l}, true
}
