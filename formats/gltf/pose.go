package gltf

import (
	"errors"
	"math"

	"github.com/qmuntal/gltf"

	"slowreveal/core/space"
)

const millimetres = 1000 // in a metre

// localOf returns a node's own map, from its matrix or from its translation,
// rotation and scale.
func localOf(n *gltf.Node) (affine, error) {
	var a affine
	if m := n.MatrixOrDefault(); m != gltf.DefaultMatrix {
		a.m = space.Mat3{m[0], m[4], m[8], m[1], m[5], m[9], m[2], m[6], m[10]}
		a.t = space.Vec{X: m[12] * millimetres, Y: m[13] * millimetres, Z: m[14] * millimetres}
	} else {
		q, s, t := space.Quat(n.RotationOrDefault()), n.ScaleOrDefault(), n.Translation
		if l := q.Norm(); l < 0.9 || l > 1.1 {
			return a, errors.New("its rotation is not a quaternion of length 1")
		}
		r := q.Unit().Matrix()
		a.m = space.Mat3{r[0] * s[0], r[1] * s[1], r[2] * s[2], r[3] * s[0], r[4] * s[1], r[5] * s[2], r[6] * s[0], r[7] * s[1], r[8] * s[2]}
		a.t = space.Vec{X: t[0] * millimetres, Y: t[1] * millimetres, Z: t[2] * millimetres}
	}
	sum := a.t.X + a.t.Y + a.t.Z
	for _, v := range a.m {
		sum += v
	}
	if math.IsNaN(sum) || math.IsInf(sum, 0) {
		return a, errors.New("its pose is not finite")
	}
	return a, nil
}

// split divides a map into a rigid pose and what is left of it, a stretch in
// the node's own frame: M = R·S by polar decomposition (Higham's iteration
// towards the nearest orthogonal matrix). A mirroring goes into S.
func split(a *affine) (space.Rigid, space.Mat3, error) {
	if orthonormal(&a.m) {
		return space.Rigid{R: a.m.Quat().Matrix(), T: a.t}, space.Identity3, nil
	}
	q := a.m
	if det := determinant(&q); !(math.Abs(det) > 1e-18) {
		return space.Rigid{}, space.Identity3, errors.New("its scale is zero in some direction")
	}
	for range 100 {
		inv := inverseTransposed(&q)
		change := 0.0
		for i := range q {
			next := (q[i] + inv[i]) / 2
			change = math.Max(change, math.Abs(next-q[i]))
			q[i] = next
		}
		if change < 1e-14 {
			break
		}
	}
	if determinant(&q) < 0 {
		for i := range q {
			q[i] = -q[i]
		}
	}
	q = q.Quat().Matrix()
	back := q.Transposed()
	return space.Rigid{R: q, T: a.t}, back.Mul(&a.m), nil
}

// orthonormal reports whether m is a rotation but for the noise of 32-bit
// numbers.
func orthonormal(m *space.Mat3) bool {
	t := m.Transposed()
	p := t.Mul(m)
	for i := range p {
		if math.Abs(p[i]-space.Identity3[i]) > 1e-5 {
			return false
		}
	}
	return determinant(m) > 0
}

func determinant(m *space.Mat3) float64 {
	return m[0]*(m[4]*m[8]-m[5]*m[7]) - m[1]*(m[3]*m[8]-m[5]*m[6]) + m[2]*(m[3]*m[7]-m[4]*m[6])
}

func inverseTransposed(m *space.Mat3) space.Mat3 {
	d := determinant(m)
	return space.Mat3{
		(m[4]*m[8] - m[5]*m[7]) / d, (m[5]*m[6] - m[3]*m[8]) / d, (m[3]*m[7] - m[4]*m[6]) / d,
		(m[2]*m[7] - m[1]*m[8]) / d, (m[0]*m[8] - m[2]*m[6]) / d, (m[1]*m[6] - m[0]*m[7]) / d,
		(m[1]*m[5] - m[2]*m[4]) / d, (m[2]*m[3] - m[0]*m[5]) / d, (m[0]*m[4] - m[1]*m[3]) / d,
	}
}
