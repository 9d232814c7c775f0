package formats

import (
	"errors"
	"math"

	"slowreveal/core/assembly"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// Affine is a map x ↦ M·x + T as files write it: M may stretch and mirror. T is
// in millimetres.
type Affine struct {
	M space.Mat3 // any 3 × 3 matrix here
	T space.Vec
}

// IdentityAffine is the map that leaves everything where it is.
var IdentityAffine = Affine{M: space.Identity3}

// Mul returns the map that applies b first and a after it.
func (a *Affine) Mul(b *Affine) Affine {
	t := a.M.Apply(b.T)
	return Affine{M: a.M.Mul(&b.M), T: space.Vec{X: t.X + a.T.X, Y: t.Y + a.T.Y, Z: t.Z + a.T.Z}}
}

// Finite reports whether all numbers of the map are finite.
func (a *Affine) Finite() bool {
	sum := a.T.X + a.T.Y + a.T.Z
	for _, v := range a.M {
		sum += v
	}
	return !math.IsNaN(sum) && !math.IsInf(sum, 0)
}

// Split divides a map into a rigid pose and what is left of it, a stretch in
// the node's own frame: M = R·S by polar decomposition (Higham's iteration
// towards the nearest orthogonal matrix). A mirroring goes into S.
func (a *Affine) Split() (space.Rigid, space.Mat3, error) {
	if orthonormal(&a.M) {
		return space.Rigid{R: a.M.Quat().Matrix(), T: a.T}, space.Identity3, nil
	}
	q := a.M
	if det := q.Det(); !(math.Abs(det) > 1e-18) {
		return space.Rigid{}, space.Identity3, ErrFlat
	}
	for range 100 {
		inv := InverseTransposed(&q)
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
	if q.Det() < 0 {
		for i := range q {
			q[i] = -q[i]
		}
	}
	q = q.Quat().Matrix()
	back := q.Transposed()
	return space.Rigid{R: q, T: a.T}, back.Mul(&a.M), nil
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
	return m.Det() > 0
}

// InverseTransposed returns the matrix that takes normals along where m takes
// points.
func InverseTransposed(m *space.Mat3) space.Mat3 {
	d := m.Det()
	return space.Mat3{
		(m[4]*m[8] - m[5]*m[7]) / d, (m[5]*m[6] - m[3]*m[8]) / d, (m[3]*m[7] - m[4]*m[6]) / d,
		(m[2]*m[7] - m[1]*m[8]) / d, (m[0]*m[8] - m[2]*m[6]) / d, (m[1]*m[6] - m[0]*m[7]) / d,
		(m[1]*m[5] - m[2]*m[4]) / d, (m[2]*m[3] - m[0]*m[5]) / d, (m[0]*m[4] - m[1]*m[3]) / d,
	}
}

// NodeTransform is where a node stands: the map that the file gives it, and the rigid
// pose that it gets in the assembly. Between the two lies a stretch.
type NodeTransform struct {
	file  Affine
	rigid space.Rigid
}

// Origin is the place of what nothing moves.
var Origin = NodeTransform{IdentityAffine, space.Identity}

// ErrFlat says that a node is scaled to nothing in some direction.
var ErrFlat = errors.New("its scale is zero in some direction")

// Child returns the place of a node below p that the file puts at local, its
// pose in p, and the stretch that its shape must take.
func (p *NodeTransform) Child(local *Affine) (NodeTransform, assembly.Pose, space.Mat3, error) {
	here := p.file.Mul(local)
	if !here.Finite() {
		return NodeTransform{}, assembly.Pose{}, space.Identity3, errors.New("its pose is not finite")
	}
	rigid, stretch, err := here.Split()
	if err != nil {
		return NodeTransform{}, assembly.Pose{}, stretch, err
	}
	inverse := p.rigid.Inverse()
	return NodeTransform{here, rigid}, assembly.PoseOf(inverse.Mul(&rigid)), stretch, nil
}

// ScaleShear applies m to a mesh: to its points, to its normals as normals go, and
// to the sense of its triangles where m mirrors.
func ScaleShear(mesh *solid.Mesh, m *space.Mat3) {
	if *m == space.Identity3 {
		return
	}
	apply(mesh.Positions, m)
	turn := InverseTransposed(m)
	apply(mesh.Normals, &turn)
	if m.Det() < 0 {
		for t := 0; t+2 < len(mesh.Triangles); t += 3 {
			mesh.Triangles[t+1], mesh.Triangles[t+2] = mesh.Triangles[t+2], mesh.Triangles[t+1]
		}
	}
}

func apply(points []float32, m *space.Mat3) {
	for i := 0; i+2 < len(points); i += 3 {
		v := m.Apply(space.Vec{X: float64(points[i]), Y: float64(points[i+1]), Z: float64(points[i+2])})
		points[i], points[i+1], points[i+2] = float32(v.X), float32(v.Y), float32(v.Z)
	}
}
