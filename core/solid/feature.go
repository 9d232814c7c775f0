package solid

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/space"
)

// FeatureKind says what a feature is.
type FeatureKind string

// The kinds of features.
const (
	Plane    FeatureKind = "plane"    // Axis is its outward normal
	Cylinder FeatureKind = "cylinder" // Axis is its axis
	Line     FeatureKind = "line"     // a straight edge; Axis is its direction
)

// Feature is something on a shape that a person can point at to give a
// direction, an axis or a centre. All in the shape's frame, mm.
type Feature struct {
	Kind FeatureKind `json:"kind"`
	// Centre is the middle of a plane's area or of an edge, or the point of a
	// cylinder's axis half-way along it.
	Centre space.Triple `json:"centre"`
	Axis   space.Triple `json:"axis"` // of unit length
	Radius float64      `json:"radius,omitempty"`
	// Length is that of an edge or of a cylinder along its axis.
	Length float64 `json:"length,omitempty"`
	Area   float64 `json:"area,omitempty"`
	// Hole says that a cylinder is looked at from inside.
	Hole bool `json:"hole,omitempty"`
	// Turn is how much of the full round a cylinder covers, 0…1.
	Turn float64 `json:"turn,omitempty"`
}

// Features are what a shape offers.
type Features struct {
	List []Feature
	// Of gives each triangle the index of its feature in List, −1 for none.
	Of []int32
}

const (
	flatAngle  = 0.5 * math.Pi / 180 // between triangles of one plane
	steepAngle = 42 * math.Pi / 180  // between neighbouring facets of a cylinder, at most
	roundness  = 2e-3                // of the radius: how far corners may lie from a cylinder
)

// facet is a connected run of triangles in one plane.
type facet struct {
	triangles  []uint32
	normal     space.Vec
	area       float64
	neighbours []link
}

type link struct {
	facet int32
	along space.Vec // direction of the common edge
}

// Features finds planes, cylinders and straight edges. Neighbouring facets
// whose corners lie on one cylinder make a cylinder; other facets of some size
// are planes.
func (s *Shape) Features() Features {
	facets, of := s.facets()
	f := finder{shape: s, facets: facets, taken: make([]int32, len(facets)), out: Features{Of: make([]int32, len(s.Triangles)/3)}}
	for i := range f.taken {
		f.taken[i] = -1
	}
	f.cylinders()
	f.planes()
	for t, facet := range of {
		f.out.Of[t] = f.taken[facet]
	}
	f.lines()
	return f.out
}

func (s *Shape) facets() ([]facet, []int32) {
	welded, points := weld(s.Positions)
	n := len(s.Triangles) / 3
	beside := s.neighbours(welded)
	of := make([]int32, n)
	for t := range of {
		of[t] = -1
	}
	normals := make([]space.Vec, n)
	for t := range n {
		normals[t], _ = space.Unit(cross2(s.Positions, s.Triangles[3*t:3*t+3]))
	}
	var facets []facet
	cosFlat := math.Cos(flatAngle)
	for start := range n {
		if of[start] >= 0 {
			continue
		}
		id := int32(len(facets))
		f := facet{normal: normals[start]}
		of[start] = id
		queue := []uint32{uint32(start)}
		for len(queue) > 0 {
			t := queue[0]
			queue = queue[1:]
			f.triangles = append(f.triangles, t)
			f.area += area(s.Positions, s.Triangles[3*t:3*t+3])
			for k := range 3 {
				o := beside[3*int(t)+k]
				if o >= 0 && of[o] < 0 && r3.Dot(f.normal, normals[o]) > cosFlat {
					of[o] = id
					queue = append(queue, uint32(o))
				}
			}
		}
		facets = append(facets, f)
	}
	for i := range facets {
		for _, t := range facets[i].triangles {
			for k := range 3 {
				o := beside[3*int(t)+k]
				if o < 0 || of[o] == int32(i) {
					continue
				}
				a, b := points[welded[s.Triangles[3*int(t)+k]]], points[welded[s.Triangles[3*int(t)+(k+1)%3]]]
				along, ok := space.Unit(space.Vec{X: float64(b[0] - a[0]), Y: float64(b[1] - a[1]), Z: float64(b[2] - a[2])})
				if ok {
					facets[i].neighbours = append(facets[i].neighbours, link{of[o], along})
				}
			}
		}
	}
	return facets, of
}

// neighbours gives each side of each triangle the triangle beyond it, −1 where
// there is none or more than one.
func (s *Shape) neighbours(welded []uint32) []int32 {
	beside := make([]int32, len(s.Triangles))
	first := make(map[edgeKey]int32, len(s.Triangles)/2)
	for i := range s.Triangles {
		t := i / 3 * 3
		a, b := welded[s.Triangles[i]], welded[s.Triangles[t+(i+1)%3]]
		key := edgeKey{min(a, b), max(a, b)}
		beside[i] = -1
		o, seen := first[key]
		switch {
		case !seen:
			first[key] = int32(i)
		case o >= 0:
			beside[i], beside[o] = o/3, int32(i/3)
			first[key] = -1 - o
		default: // a third triangle: the edge joins nobody
			beside[i], beside[-1-o] = -1, -1
		}
	}
	return beside
}

type finder struct {
	shape  *Shape
	facets []facet
	taken  []int32 // the feature of each facet, −1 for none yet
	out    Features
}

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
	if cos < math.Cos(steepAngle) || math.Abs(r3.Dot(a.normal, axis)) > 0.01 || math.Abs(r3.Dot(b.normal, axis)) > 0.01 {
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
			if seen[n.facet] || f.taken[n.facet] >= 0 || r3.Dot(other.normal, f.facets[members[at]].normal) < math.Cos(steepAngle) {
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
	return Feature{Kind: Cylinder, Centre: space.TripleOf(centre), Axis: space.TripleOf(positive(c.axis)), Radius: c.radius,
		Length: high - low, Area: size, Hole: c.hole, Turn: turn}
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

// positive turns a direction without a sense so that its largest part is
// positive.
func positive(v space.Vec) space.Vec {
	big := v.X
	if math.Abs(v.Y) > math.Abs(big)+1e-9 {
		big = v.Y
	}
	if math.Abs(v.Z) > math.Abs(big)+1e-9 {
		big = v.Z
	}
	if big < 0 {
		return r3.Scale(-1, v)
	}
	return v
}

func (f *finder) add(members []int32, feature Feature) {
	at := int32(len(f.out.List))
	f.out.List = append(f.out.List, feature)
	for _, m := range members {
		f.taken[m] = at
	}
}

// planes makes planes of the facets that are no cylinder's and not tiny.
func (f *finder) planes() {
	size := f.shape.Bounds.Size()
	least := 1e-5 * r3.Norm2(size)
	for i := range f.facets {
		c := &f.facets[i]
		if f.taken[i] >= 0 || c.area < least {
			continue
		}
		var middle space.Vec
		for _, t := range c.triangles {
			tri := f.shape.Triangles[3*t : 3*t+3]
			w := area(f.shape.Positions, tri) / (3 * c.area)
			for _, v := range tri {
				middle = r3.Add(middle, r3.Scale(w, at(f.shape.Positions, v)))
			}
		}
		f.add([]int32{int32(i)}, Feature{Kind: Plane, Centre: space.TripleOf(middle), Axis: space.TripleOf(c.normal), Area: c.area})
	}
}

// maxLines bounds how many straight edges a shape offers.
const maxLines = 400

// lines offers the longest straight feature edges.
func (f *finder) lines() {
	size := r3.Norm(f.shape.Bounds.Size())
	var lines []Feature
	for i := range f.shape.Edges {
		e := &f.shape.Edges[i]
		if !e.Feature() {
			continue
		}
		a, b := wide(e.A), wide(e.B)
		d := r3.Sub(b, a)
		if l := r3.Norm(d); l > 0.05*size {
			lines = append(lines, Feature{Kind: Line, Centre: space.TripleOf(r3.Scale(0.5, r3.Add(a, b))), Axis: space.TripleOf(positive(r3.Scale(1/l, d))), Length: l})
		}
	}
	slices.SortStableFunc(lines, func(x, y Feature) int {
		if x.Length > y.Length {
			return -1
		} else if x.Length < y.Length {
			return 1
		}
		return 0
	})
	f.out.List = append(f.out.List, lines[:min(len(lines), maxLines)]...)
}

func wide(p [3]float32) space.Vec {
	return space.Vec{X: float64(p[0]), Y: float64(p[1]), Z: float64(p[2])}
}
