package gltf

import (
	"errors"

	"github.com/qmuntal/gltf"

	"slowreveal/core/space"
	"slowreveal/formats"
)

// localOf returns a node's own map, mm, from its matrix or from its translation,
// rotation and scale.
func localOf(n *gltf.Node, mm float64) (formats.Affine, error) {
	var a formats.Affine
	if m := n.MatrixOrDefault(); m != gltf.DefaultMatrix {
		a.M = space.Mat3{m[0], m[4], m[8], m[1], m[5], m[9], m[2], m[6], m[10]}
		a.T = space.Vec{X: m[12] * mm, Y: m[13] * mm, Z: m[14] * mm}
	} else {
		// the scale as it is: the library takes one of nothing for none
		q, s, t := space.Quat(n.RotationOrDefault()), n.Scale, n.Translation
		if l := q.Norm(); l < 0.9 || l > 1.1 {
			return a, errors.New("its rotation is not a quaternion of length 1")
		}
		r := q.Normalized().Matrix()
		a.M = space.Mat3{r[0] * s[0], r[1] * s[1], r[2] * s[2], r[3] * s[0], r[4] * s[1], r[5] * s[2], r[6] * s[0], r[7] * s[1], r[8] * s[2]}
		a.T = space.Vec{X: t[0] * mm, Y: t[1] * mm, Z: t[2] * mm}
	}
	if !a.Finite() {
		return a, errors.New("its pose is not finite")
	}
	return a, nil
}
