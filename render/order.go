package render

import (
	"slices"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// meshFace is what is drawn at once of a shape: a triangle, or two that make a flat quadrangle
// without a dent. Walls of cylinders and prisms mostly are such; it takes half the time.
type meshFace struct {
	// corner holds the first triangle's corners, then the other's corner beyond the edge from 1
	// to 2, which they share, or 2 once more.
	corner        [4]uint32
	first, second int32 // numbers of the triangles; second is −1 where there is one
}

// order is in which order a shape's faces are drawn: those that look away from its middle
// first, which hide most of the others (the walls of bores and pockets).
type order struct{ outer, inner []meshFace }

func orderOf(s *solid.Shape) (o order) {
	middle := s.Bounds.Centre()
	for _, f := range facesOf(s) {
		a := vertexOf(s.Positions, f.corner[0])
		b := vertexOf(s.Positions, f.corner[1])
		c := vertexOf(s.Positions, f.corner[2])
		if r3.Dot(r3.Cross(r3.Sub(b, a), r3.Sub(c, a)), r3.Sub(a, middle)) >= 0 {
			o.outer = append(o.outer, f)
		} else {
			o.inner = append(o.inner, f)
		}
	}
	return o
}

// turn returns triangles that begin with the corners that faces are told from.
func (o *order) turn(triangles []uint32) []uint32 {
	turned := slices.Clone(triangles)
	for _, list := range [][]meshFace{o.outer, o.inner} {
		for i := range list {
			copy(turned[3*list[i].first:], list[i].corner[:3])
		}
	}
	return turned
}

func vertexOf(values []float32, i uint32) space.Vec {
	p := values[3*i : 3*i+3]
	return space.Vec{X: float64(p[0]), Y: float64(p[1]), Z: float64(p[2])}
}

// facesOf divides a shape into its faces: every triangle is joined with the neighbour across
// its longest edge that makes a quadrangle with it.
func facesOf(s *solid.Shape) []meshFace {
	beyond := neighboursOf(s)
	patch := make([]int32, len(s.Triangles)/3)
	for i, p := range s.Submeshes {
		for t := p.First; t < p.First+p.Count; t++ {
			patch[t] = int32(i)
		}
	}
	taken := make([]bool, len(patch))
	faces := make([]meshFace, 0, len(patch)/2)
	for t := range int32(len(patch)) {
		if taken[t] {
			continue
		}
		best, length := meshFace{second: -1}, 0.0
		for k := range int32(3) {
			h := beyond[3*t+k]
			if h < 0 || h/3 < t || taken[h/3] || patch[h/3] != patch[t] {
				continue
			}
			f, ok := quadrangle(s, 3*t+k, h)
			if !ok {
				f, ok = quadrangle(s, h, 3*t+k)
			}
			if l := r3.Norm2(r3.Sub(vertexOf(s.Positions, f.corner[1]), vertexOf(s.Positions, f.corner[2]))); ok &&
				l > length {
				best, length = f, l
			}
		}
		if best.second < 0 {
			c := s.Triangles[3*t : 3*t+3]
			best = meshFace{corner: [4]uint32{c[0], c[1], c[2], c[2]}, first: t, second: -1}
		} else {
			taken[best.first], taken[best.second] = true, true
		}
		faces = append(faces, best)
	}
	return faces
}

// neighboursOf returns for each side of each triangle, 3·triangle + number, that of another
// which runs the other way between the same vertices; −1 where there is none.
func neighboursOf(s *solid.Shape) []int32 {
	first, next := make([]int32, len(s.Positions)/3), make([]int32, len(s.Triangles))
	for i := range first {
		first[i] = -1
	}
	for h, v := range s.Triangles { // the sides that begin at a vertex are a list
		next[h], first[v] = first[v], int32(h)
	}
	beyond := make([]int32, len(s.Triangles))
	for h, v := range s.Triangles {
		beyond[h] = -1
		for g := first[s.Triangles[after(int32(h))]]; g >= 0; g = next[g] {
			if s.Triangles[after(g)] == v {
				beyond[h] = g
				break
			}
		}
	}
	return beyond
}

// after returns the side of the same triangle that follows.
func after(h int32) int32 {
	if h%3 == 2 {
		return h - 2
	}
	return h + 1
}

// How well two triangles must fit to be one face: their fourth corner lies in the plane of the
// first within so much of the diagonal, and its normal is what the first one's say it is.
const (
	flatEnough = 2e-5
	sameNormal = 0.01
)

// quadrangle joins the triangles of two sides h and g that meet. The corner of the first
// that is not on them is what points of the face are told from; see facetOf.
func quadrangle(s *solid.Shape, h, g int32) (f meshFace, ok bool) {
	f = meshFace{first: h / 3, second: g / 3}
	f.corner = [4]uint32{
		s.Triangles[after(after(h))],
		s.Triangles[h],
		s.Triangles[after(h)],
		s.Triangles[after(after(g))],
	}
	var p [4]space.Vec
	for i := range p {
		p[i] = r3.Sub(vertexOf(s.Positions, f.corner[i]), vertexOf(s.Positions, f.corner[0]))
	}
	up := r3.Cross(p[1], p[2])
	size := r3.Dot(up, up)
	if size == 0 || r3.Dot(up, p[3])*r3.Dot(up, p[3]) > flatEnough*flatEnough*size*r3.Norm2(r3.Sub(p[2], p[1])) {
		return f, false
	}
	u, v := r3.Dot(r3.Cross(p[3], p[2]), up)/size, r3.Dot(r3.Cross(p[1], p[3]), up)/size
	// Inside 0 … 1 facets can tell; more than 0 is without a dent.
	if u < 1e-3 || v < 1e-3 || u > 1.001 || v > 1.001 || u+v < 1.001 {
		return f, false
	}
	n := vertexOf(s.Normals, f.corner[0])
	told := r3.Add(
		n,
		r3.Add(
			r3.Scale(u, r3.Sub(vertexOf(s.Normals, f.corner[1]), n)),
			r3.Scale(v, r3.Sub(vertexOf(s.Normals, f.corner[2]), n)),
		),
	)
	return f, r3.Norm(r3.Sub(told, vertexOf(s.Normals, f.corner[3]))) <= sameNormal
}
