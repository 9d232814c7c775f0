package solid

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/space"
)

// plane2 is a pair of directions across an axis.
type plane2 struct{ u, v space.Vec }

func across(axis space.Vec) plane2 {
	u := r3.Cross(axis, space.Vec{X: 1})
	if math.Abs(axis.X) > 0.7 {
		u = r3.Cross(axis, space.Vec{Y: 1})
	}
	u = r3.Unit(u)
	return plane2{u, r3.Cross(axis, u)}
}

func (p plane2) of(v space.Vec) (x, y float64) { return r3.Dot(v, p.u), r3.Dot(v, p.v) }

func (f *finder) cylinders() {
	for i := range f.facets {
		if f.taken[i] >= 0 {
			continue
		}
		for _, n := range f.facets[i].neighbours {
			if f.taken[n.facet] >= 0 || f.taken[i] >= 0 {
				continue
			}
			f.cylinder(int32(i), n.facet, n.along)
		}
	}
}

// cylinder tries the cylinder on which two neighbouring facets lie, with their
// common edge along its axis.
func (f *finder) cylinder(i, k int32, axis space.Vec) {
	a, b := &f.facets[i], &f.facets[k]
	cos := r3.Dot(a.normal, b.normal)
	if cos < math.Cos(steepAngle) || math.Abs(r3.Dot(a.normal, axis)) > 0.01 ||
		math.Abs(r3.Dot(b.normal, axis)) > 0.01 {
		return
	}
	p := across(axis)
	// The middles of two chords of a circle: its centre lies straight behind both.
	ax, ay, aw := f.chord(a, axis, p)
	bx, by, bw := f.chord(b, axis, p)
	nax, nay := p.of(a.normal)
	nbx, nby := p.of(b.normal)
	den := nax*nby - nay*nbx
	if math.Abs(den) < 1e-6 || aw == 0 || bw == 0 {
		return
	}
	back := ((ax-bx)*nby - (ay-by)*nbx) / den
	cx, cy := ax-back*nax, ay-back*nay
	radius := math.Hypot(back, aw/2)
	c := candidate{axis: axis, p: p, cx: cx, cy: cy, radius: radius, hole: back < 0}
	if !(radius < 1e5) || !f.lies(a, &c) || !f.lies(b, &c) {
		return
	}
	members := f.grow(i, &c)
	turn := f.coverage(members, &c)
	if len(members) < 3 || turn < 0.15 {
		return
	}
	f.add(members, f.cylinderFeature(members, &c, turn))
}

type candidate struct {
	axis           space.Vec
	p              plane2
	cx, cy, radius float64
	hole           bool
}

// chord returns the middle and the width of a facet across an axis.
func (f *finder) chord(c *facet, axis space.Vec, p plane2) (x, y, width float64) {
	side := r3.Cross(axis, c.normal)
	low, high := math.Inf(1), math.Inf(-1)
	var at0 space.Vec
	f.corners(c, func(v space.Vec) {
		d := r3.Dot(side, v)
		low, high = math.Min(low, d), math.Max(high, d)
		at0 = v
	})
	mid := r3.Add(at0, r3.Scale((low+high)/2-r3.Dot(side, at0), side))
	x, y = p.of(mid)
	return x, y, high - low
}

func (f *finder) corners(c *facet, do func(space.Vec)) {
	for _, t := range c.triangles {
		for k := range 3 {
			do(at(f.shape.Positions, f.shape.Triangles[3*t+uint32(k)]))
		}
	}
}

// lies reports whether all corners of a facet lie on a cylinder.
func (f *finder) lies(c *facet, on *candidate) bool {
	if math.Abs(r3.Dot(c.normal, on.axis)) > 0.02 {
		return false
	}
	ok := true
	f.corners(c, func(v space.Vec) {
		x, y := on.p.of(v)
		ok = ok && math.Abs(math.Hypot(x-on.cx, y-on.cy)-on.radius) <= roundness*on.radius+1e-3
	})
	return ok
}

func (f *finder) grow(from int32, c *candidate) []int32 {
	members, seen := []int32{from}, map[int32]bool{from: true}
	for at := 0; at < len(members); at++ {
		for _, n := range f.facets[members[at]].neighbours {
			other := &f.facets[n.facet]
			if seen[n.facet] || f.taken[n.facet] >= 0 ||
				r3.Dot(other.normal, f.facets[members[at]].normal) < math.Cos(steepAngle) {
				continue
			}
			if f.lies(other, c) {
				seen[n.facet] = true
				members = append(members, n.facet)
			}
		}
	}
	return members
}

// coverage returns how much of the round the members cover.
func (f *finder) coverage(members []int32, c *candidate) float64 {
	const cells = 360
	var hit [cells]bool
	for _, m := range members {
		low, high, first := 0.0, 0.0, math.NaN()
		f.corners(&f.facets[m], func(v space.Vec) {
			x, y := c.p.of(v)
			angle := math.Atan2(y-c.cy, x-c.cx)
			if math.IsNaN(first) {
				first = angle
			}
			d := math.Remainder(angle-first, 2*math.Pi)
			low, high = math.Min(low, d), math.Max(high, d)
		})
		for k := math.Floor((first + low) * cells / (2 * math.Pi)); k < (first+high)*cells/(2*math.Pi); k++ {
			hit[(int(k)%cells+cells)%cells] = true
		}
	}
	n := 0
	for _, h := range hit {
		if h {
			n++
		}
	}
	return float64(n) / cells
}

func (f *finder) cylinderFeature(members []int32, c *candidate, turn float64) Feature {
	low, high, size := math.Inf(1), math.Inf(-1), 0.0
	for _, m := range members {
		size += f.facets[m].area
		f.corners(&f.facets[m], func(v space.Vec) {
			d := r3.Dot(c.axis, v)
			low, high = math.Min(low, d), math.Max(high, d)
		})
	}
	f.refit(members, c)
	centre := r3.Add(r3.Add(r3.Scale(c.cx, c.p.u), r3.Scale(c.cy, c.p.v)), r3.Scale((low+high)/2, c.axis))
	return Feature{
		Kind:   Cylinder,
		Centre: space.Vec3Of(centre),
		Axis:   space.Vec3Of(positive(c.axis)),
		Radius: c.radius,
		Length: high - low,
		Area:   size,
		Hole:   c.hole,
		Turn:   turn,
	}
}

// refit moves a cylinder's axis and radius to what fits all corners best: the
// algebraic least-squares circle (I. Kåsa, 1976, from memory), seen from where
// the axis was found.
func (f *finder) refit(members []int32, c *candidate) {
	var xx, yy, xy, xz, yz, x1, y1, z1, n float64
	for _, m := range members {
		f.corners(&f.facets[m], func(v space.Vec) {
			x, y := c.p.of(v)
			x, y = x-c.cx, y-c.cy
			z := x*x + y*y
			xx, yy, xy, xz, yz = xx+x*x, yy+y*y, xy+x*y, xz+x*z, yz+y*z
			x1, y1, z1, n = x1+x, y1+y, z1+z, n+1
		})
	}
	normal := space.Mat3{xx, xy, x1, xy, yy, y1, x1, y1, n}
	d := normal.Det()
	if math.Abs(d) < 1e-12*n*xx*yy {
		return
	}
	solve := func(k int) float64 { // Cramer's rule
		m := normal
		m[k], m[3+k], m[6+k] = xz, yz, z1
		return m.Det() / d
	}
	a, b, r := solve(0), solve(1), solve(2)
	c.cx, c.cy, c.radius = c.cx+a/2, c.cy+b/2, math.Sqrt(math.Max(r+(a*a+b*b)/4, 0))
}
