package demo

import (
	"math"

	"slowreveal/core/outline"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// body collects the faces of a part in its own frame. Its methods add faces
// and return it, so that a part reads like a description.
type body struct {
	positions []float32
	triangles []uint32
	patches   []solid.Submesh
}

func (b *body) vertex(x, y, z float64) uint32 {
	b.positions = append(b.positions, float32(x), float32(y), float32(z))
	return uint32(len(b.positions)/3 - 1)
}

func (b *body) face(v ...uint32) { b.triangles = append(b.triangles, v...) }

// patch ends the current patch: what follows wears the next finish.
func (b *body) patch() *body {
	first := uint32(0)
	if n := len(b.patches); n > 0 {
		first = b.patches[n-1].First + b.patches[n-1].Count
	}
	b.patches = append(b.patches, solid.Submesh{First: first, Count: uint32(len(b.triangles)/3) - first})
	return b
}

// cap adds a flat face at height z with holes; up says which way it looks.
func (b *body) cap(z float64, up bool, outer polygon, holes ...polygon) *body {
	inner := make([][]point, len(holes))
	for i, h := range holes {
		inner[i] = h
	}
	points, triangles := outline.Triangulate(outer, inner...)
	base := uint32(len(b.positions) / 3)
	for _, p := range points {
		b.vertex(p[0], p[1], z)
	}
	for _, t := range triangles {
		i, j, k := base+uint32(t[0]), base+uint32(t[1]), base+uint32(t[2])
		if !up {
			j, k = k, j
		}
		b.face(i, j, k)
	}
	return b
}

// wall adds the side of a prism; out says whether it looks outwards.
func (b *body) wall(p polygon, z0, z1 float64, out bool) *body {
	n := uint32(len(p))
	base := uint32(len(b.positions) / 3)
	for _, q := range p {
		b.vertex(q[0], q[1], z0)
		b.vertex(q[0], q[1], z1)
	}
	for i := range n {
		k := (i + 1) % n
		a, c, d, e := base+2*i, base+2*k, base+2*k+1, base+2*i+1
		if out {
			b.face(a, c, d, a, d, e)
		} else {
			b.face(a, d, c, a, e, d)
		}
	}
	return b
}

// prism adds a closed plate from z0 to z1 with holes through it.
func (b *body) prism(z0, z1 float64, outer polygon, holes ...polygon) *body {
	b.cap(z0, false, outer, holes...).cap(z1, true, outer, holes...).wall(outer, z0, z1, true)
	for _, h := range holes {
		b.wall(h, z0, z1, false)
	}
	return b
}

// box adds a closed cuboid around a centre.
func (b *body) box(x, y, z, w, h, d float64) *body {
	return b.prism(
		z-d/2,
		z+d/2,
		polygon{{x - w/2, y - h/2}, {x + w/2, y - h/2}, {x + w/2, y + h/2}, {x - w/2, y + h/2}},
	)
}

// lathe revolves a closed profile of (radius, height) about Z. Seen with the
// radius to the right and the height upwards it runs anticlockwise.
func (b *body) lathe(segments int, profile ...point) *body {
	n := len(profile)
	base := uint32(len(b.positions) / 3)
	for i := range segments {
		s, c := math.Sincos(2 * math.Pi * float64(i) / float64(segments))
		for _, p := range profile {
			b.vertex(p[0]*c, p[0]*s, p[1])
		}
	}
	for i := range segments {
		here, next := base+uint32(i*n), base+uint32((i+1)%segments*n)
		for k := range n {
			l := uint32((k + 1) % n)
			if profile[k][0] == 0 && profile[l][0] == 0 {
				continue // on the axis
			}
			a, c, d, e := here+uint32(k), next+uint32(k), next+l, here+l
			if profile[k][0] != 0 {
				b.face(a, c, d)
			}
			if profile[l][0] != 0 {
				b.face(a, d, e)
			}
		}
	}
	return b
}

// flank revolves one line of (radius, height) about Z; going up, it looks
// outwards.
func (b *body) flank(segments int, from, to point) *body {
	base := uint32(len(b.positions) / 3)
	for i := range segments {
		s, c := math.Sincos(2 * math.Pi * float64(i) / float64(segments))
		b.vertex(from[0]*c, from[0]*s, from[1])
		b.vertex(to[0]*c, to[0]*s, to[1])
	}
	for i := range uint32(segments) {
		a, c := base+2*i, base+2*((i+1)%uint32(segments))
		b.face(a, c, c+1, a, c+1, a+1)
	}
	return b
}

// ring adds a tube about Z from z0 to z1 with small chamfers outside.
func (b *body) ring(inner, outer, z0, z1, chamfer float64, segments int) *body {
	return b.lathe(segments, point{inner, z0}, point{outer - chamfer, z0}, point{outer, z0 + chamfer},
		point{outer, z1 - chamfer}, point{outer - chamfer, z1}, point{inner, z1})
}

// rod adds a full cylinder about Z with chamfered ends.
func (b *body) rod(r, z0, z1, chamfer float64, segments int) *body {
	return b.lathe(segments, point{0, z0}, point{r - chamfer, z0}, point{r, z0 + chamfer},
		point{r, z1 - chamfer}, point{r - chamfer, z1}, point{0, z1})
}

// sweep adds a tube along a path of points: outer and inner radius.
func (b *body) sweep(path []space.Vec, outer, inner float64, segments int) *body {
	n := len(path)
	up := space.Vec{Z: 1}
	base := uint32(len(b.positions) / 3)
	for i, p := range path {
		before, after := path[max(i-1, 0)], path[min(i+1, n-1)]
		t, _ := space.Normalize(space.Vec{X: after.X - before.X, Y: after.Y - before.Y, Z: after.Z - before.Z})
		side, _ := space.Normalize(crossOf(up, t))
		top := crossOf(t, side)
		for _, r := range []float64{outer, inner} {
			for k := range segments {
				s, c := math.Sincos(2 * math.Pi * float64(k) / float64(segments))
				b.vertex(p.X+r*(c*side.X+s*top.X), p.Y+r*(c*side.Y+s*top.Y), p.Z+r*(c*side.Z+s*top.Z))
			}
		}
	}
	m := uint32(segments)
	for i := range uint32(n - 1) {
		for k := range m {
			l := (k + 1) % m
			a, c := base+i*2*m, base+(i+1)*2*m
			b.face(a+k, a+l, c+l, a+k, c+l, c+k)
			b.face(a+m+k, c+m+l, a+m+l, a+m+k, c+m+k, c+m+l)
		}
	}
	for k := range m {
		l, a, c := (k+1)%m, base, base+uint32(n-1)*2*m
		b.face(a+k, a+m+l, a+l, a+k, a+m+k, a+m+l)
		b.face(c+k, c+l, c+m+l, c+k, c+m+l, c+m+k)
	}
	return b
}

func crossOf(a, b space.Vec) space.Vec {
	return space.Vec{X: a.Y*b.Z - a.Z*b.Y, Y: a.Z*b.X - a.X*b.Z, Z: a.X*b.Y - a.Y*b.X}
}

// shape turns the body into a shape. A body of this package that is not sound
// is a mistake in this package.
func (b *body) shape() *solid.Shape {
	if len(b.patches) > 0 {
		b.patch()
	}
	s, _, err := solid.New(solid.Mesh{Positions: b.positions, Triangles: b.triangles, Submeshes: b.patches})
	if err != nil {
		panic("demo: " + err.Error())
	}
	return s
}
