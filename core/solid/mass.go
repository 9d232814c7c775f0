package solid

import (
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/space"
)

// Mass is what a shape measures, as if it were filled with one material of
// density 1.
type Mass struct {
	Volume float64 `json:"volume"` // mm³, 0 where the surface is open
	Area   float64 `json:"area"`   // mm²
	// Centroid is that of the volume, of the surface where it is open; mm.
	Centroid space.Vec3 `json:"centroid"`
	// Moments are the principal moments of inertia about the centroid, mm⁵,
	// ascending; for an open surface those of its area, mm⁴.
	Moments [3]float64 `json:"moments"`
	// Axes are the principal axes in the shape's frame, as columns.
	Axes   space.Mat3 `json:"axes"`
	Closed bool       `json:"closed"`
}

// Mass measures the shape. The integrals over the volume are sums over the
// tetrahedra between a point and the triangles (divergence theorem); ∫xᵢxⱼ over
// a tetrahedron after F. Tonon, "Explicit exact formulas for the 3-D
// tetrahedron inertia tensor", 2004 (from memory).
func (s *Shape) Mass() Mass {
	m := Mass{Closed: s.Closed()}
	from := s.Bounds.Centre() // near the triangles, so that little cancels
	var volume, area, second sums
	for t := 0; t < len(s.Triangles); t += 3 {
		a, b, c := s.corners(t, from)
		n := r3.Cross(r3.Sub(b, a), r3.Sub(c, a))
		six := r3.Dot(a, n)
		volume.add(six/24, six/120, a, b, c)
		double := r3.Norm(n)
		area.add(double/6, double/24, a, b, c)
		m.Volume += six / 6
		m.Area += double / 2
	}
	second, weight := volume, m.Volume
	if !m.Closed || m.Volume <= 0 {
		m.Volume, m.Closed = 0, false
		second, weight = area, m.Area
	}
	centre := r3.Scale(1/weight, second.first)
	m.Centroid = space.Vec3Of(r3.Add(from, centre))
	about := second.about(centre, weight)
	trace := about[0] + about[4] + about[8]
	inertia := space.Mat3{
		trace - about[0],
		-about[1],
		-about[2],
		-about[3],
		trace - about[4],
		-about[5],
		-about[6],
		-about[7],
		trace - about[8],
	}
	m.Moments, m.Axes = space.Principal(inertia)
	return m
}

// corners returns the corners of the triangle whose indices begin at t, seen
// from a point.
func (s *Shape) corners(t int, from space.Vec) (a, b, c space.Vec) {
	return r3.Sub(at(s.Positions, s.Triangles[t]), from),
		r3.Sub(at(s.Positions, s.Triangles[t+1]), from),
		r3.Sub(at(s.Positions, s.Triangles[t+2]), from)
}

// sums are the first and second moments ∫x and ∫xᵢxⱼ.
type sums struct {
	first  space.Vec
	second space.Mat3
}

// add adds a simplex with the corners a, b, c (and, of a tetrahedron, the
// origin): w1·Σv to the first moments and w2·(Σvᵢvⱼ + ΣvᵢΣvⱼ) to the second.
func (m *sums) add(w1, w2 float64, a, b, c space.Vec) {
	sum := r3.Add(a, r3.Add(b, c))
	m.first = r3.Add(m.first, r3.Scale(w1, sum))
	for _, v := range [4]space.Vec{a, b, c, sum} {
		x := [3]float64{v.X, v.Y, v.Z}
		for i := range 3 {
			for j := range 3 {
				m.second[3*i+j] += w2 * x[i] * x[j]
			}
		}
	}
}

// about returns the second moments about another point.
func (m *sums) about(p space.Vec, weight float64) space.Mat3 {
	x := [3]float64{p.X, p.Y, p.Z}
	out := m.second
	for i := range 3 {
		for j := range 3 {
			out[3*i+j] -= weight * x[i] * x[j]
		}
	}
	return out
}
