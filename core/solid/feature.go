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
	Centre space.Vec3 `json:"centre"`
	Axis   space.Vec3 `json:"axis"` // of unit length
	Radius float64    `json:"radius,omitempty"`
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
	f := finder{
		shape:  s,
		facets: facets,
		taken:  make([]int32, len(facets)),
		out:    Features{Of: make([]int32, len(s.Triangles)/3)},
	}
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
		normals[t], _ = space.Normalize(cross2(s.Positions, s.Triangles[3*t:3*t+3]))
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
				along, ok := space.Normalize(
					space.Vec{X: float64(b[0] - a[0]), Y: float64(b[1] - a[1]), Z: float64(b[2] - a[2])},
				)
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
		f.add(
			[]int32{int32(i)},
			Feature{Kind: Plane, Centre: space.Vec3Of(middle), Axis: space.Vec3Of(c.normal), Area: c.area},
		)
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
			lines = append(
				lines,
				Feature{
					Kind:   Line,
					Centre: space.Vec3Of(r3.Scale(0.5, r3.Add(a, b))),
					Axis:   space.Vec3Of(positive(r3.Scale(1/l, d))),
					Length: l,
				},
			)
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
