package removal

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// mostWays is how many directions are tried for one unit.
const mostWays = 24

// waysFor lists the directions worth trying for a unit, the likeliest first: a fastener's way out; away from what it
// touches; along its holes and shafts; its own axes and those of the assembly.
func (s *search) waysFor(u *unit) []int {
	var list []int
	add := func(d space.Vec) {
		v, ok := space.Normalize(d)
		if !ok || s.avoided(v) || len(list) >= mostWays {
			return
		}
		if w := s.wayOf(v); !slices.Contains(list, w) {
			list = append(list, w)
		}
	}
	both := func(d space.Vec) { add(d); add(r3.Scale(-1, d)) }
	for _, p := range s.choices.Prefer {
		add(p.Vec())
	}
	if len(u.parts) == 1 {
		if g := s.fastener(u.parts[0]); g != nil {
			out := s.world[u.parts[0]].R.Apply(g.Out.Vec())
			if both(out); g.Lead > 0 {
				return list[:min(len(list), 2)]
			}
		}
	}
	for k := range 3 {
		both(s.world[0].R.Column(k))
	}
	for k := range 3 {
		both(s.world[u.node].R.Column(k))
	}
	in := s.in(u)
	for _, p := range u.parts {
		for _, t := range s.touching[p] {
			if in[t.node] || !s.there[t.node] {
				continue
			}
			if t.normal != (space.Vec{}) {
				add(r3.Scale(-1, t.normal))
			}
			for _, axis := range s.axes(p) {
				both(s.world[p].R.Apply(axis.Axis.Vec()))
			}
		}
	}
	return list
}

func (s *search) avoided(d space.Vec) bool {
	for _, a := range s.choices.Avoid {
		if v, ok := space.Normalize(a.Vec()); ok && r3.Dot(v, d) > 0.999 {
			return true
		}
	}
	return false
}

// axes are a part's largest round surfaces, of two axes at most, in its own frame.
func (s *search) axes(part int) []solid.Feature {
	shape := s.nodes[part].Shape
	s.mu.Lock()
	known, ok := s.features[shape]
	s.mu.Unlock()
	if ok {
		return known
	}
	var round []solid.Feature
	for _, f := range s.subject.Shapes[shape].Features().List {
		if f.Kind == solid.Cylinder && f.Turn > 0.4 {
			round = append(round, f)
		}
	}
	slices.SortStableFunc(round, func(a, b solid.Feature) int {
		if a.Area > b.Area {
			return -1
		}
		if a.Area < b.Area {
			return 1
		}
		return 0
	})
	list := []solid.Feature{}
	for _, f := range round {
		known := slices.ContainsFunc(
			list,
			func(have solid.Feature) bool { return math.Abs(r3.Dot(have.Axis.Vec(), f.Axis.Vec())) > 0.999 },
		)
		if !known && len(list) < 2 {
			list = append(list, f)
		}
	}
	s.mu.Lock()
	s.features[shape] = list
	s.mu.Unlock()
	return list
}

type topKey struct{ part, way int }

// framed is the rotation whose columns are across, up and along a direction.
func framed(d space.Vec) space.Mat3 {
	side := space.Vec{X: 1}
	if math.Abs(d.X) > 0.7 {
		side = space.Vec{Y: 1}
	}
	u := r3.Unit(r3.Cross(side, d))
	v := r3.Cross(d, u)
	return space.Mat3{u.X, v.X, d.X, u.Y, v.Y, d.Y, u.Z, v.Z, d.Z}
}

// span is the box of a part in a frame whose Z is a way.
func (s *search) span(part, way int) space.Box {
	key := topKey{part, way}
	s.mu.Lock()
	d := s.ways[way]
	have, ok := s.tops[key]
	s.mu.Unlock()
	if ok {
		return have
	}
	f := framed(d)
	box := space.EmptyBox
	shape := s.subject.Shapes[s.nodes[part].Shape]
	for i := 0; i < len(shape.Positions); i += 3 {
		p := s.world[part].Apply(
			space.Vec{
				X: float64(shape.Positions[i]),
				Y: float64(shape.Positions[i+1]),
				Z: float64(shape.Positions[i+2]),
			},
		)
		box = box.With(f.ApplyInverse(p))
	}
	s.mu.Lock()
	s.tops[key] = box
	s.mu.Unlock()
	return box
}

// out is how far a unit has to go along a way until nothing that is there stands beside it any longer: the column above
// it is clear, mm.
func (s *search) out(u *unit, way int) float64 {
	own := space.EmptyBox
	for _, p := range u.parts {
		own = own.Union(s.span(p, way))
	}
	in := s.in(u)
	far := 0.0
	for o, there := range s.there {
		if there && !in[o] {
			far = max(far, s.top(o, way, own)-own.Min.Z)
		}
	}
	return far
}

// top is how high a part reaches in the column of a box that stands along a way, minus infinity where it does not reach
// into it.
func (s *search) top(part, way int, column space.Box) float64 {
	none := math.Inf(-1)
	const edge = 1e-3 // mm
	box := s.span(part, way)
	if box.Max.Z <= column.Min.Z || box.Min.X >= column.Max.X-edge || box.Max.X <= column.Min.X+edge ||
		box.Min.Y >= column.Max.Y-edge ||
		box.Max.Y <= column.Min.Y+edge {
		return none
	}
	if box.Min.X >= column.Min.X && box.Max.X <= column.Max.X && box.Min.Y >= column.Min.Y &&
		box.Max.Y <= column.Max.Y {
		return box.Max.Z
	}
	f := framed(s.way(way))
	shape := s.subject.Shapes[s.nodes[part].Shape]
	inverse := space.Rigid{R: f.Transposed()}
	to := inverse.Mul(&s.world[part])
	at := func(v uint32) space.Vec {
		return to.Apply(
			space.Vec{
				X: float64(shape.Positions[3*v]),
				Y: float64(shape.Positions[3*v+1]),
				Z: float64(shape.Positions[3*v+2]),
			},
		)
	}
	most := none
	for t := 0; t < len(shape.Triangles); t += 3 {
		a, b, c := at(shape.Triangles[t]), at(shape.Triangles[t+1]), at(shape.Triangles[t+2])
		if max(a.Z, b.Z, c.Z) > most {
			most = max(most, highestIn([]space.Vec{a, b, c}, column))
		}
	}
	return most
}

// highestIn is the greatest Z of a polygon inside the sides of a box (Sutherland and Hodgman's clipping, 1974, from
// memory), minus infinity outside of it.
func highestIn(polygon []space.Vec, box space.Box) float64 {
	inside := [4]func(p space.Vec) float64{
		func(p space.Vec) float64 { return p.X - box.Min.X }, func(p space.Vec) float64 { return box.Max.X - p.X },
		func(p space.Vec) float64 { return p.Y - box.Min.Y }, func(p space.Vec) float64 { return box.Max.Y - p.Y }}
	for _, side := range inside {
		var next []space.Vec
		for i, p := range polygon {
			q := polygon[(i+1)%len(polygon)]
			a, b := side(p), side(q)
			if a >= 0 {
				next = append(next, p)
			}
			if a*b < 0 {
				next = append(next, r3.Add(p, r3.Scale(a/(a-b), r3.Sub(q, p))))
			}
		}
		if polygon = next; len(polygon) == 0 {
			return math.Inf(-1)
		}
	}
	most := math.Inf(-1)
	for _, p := range polygon {
		most = max(most, p.Z)
	}
	return most
}
