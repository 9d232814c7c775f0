package clearance

import (
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// Slack is how deep parts may lie in each other without standing in each other's
// way, mm: each is taken thinner by half of it all around. A pin slides in a bore
// of its own size, although the facets of both cross.
const Slack = 0.1

// threadSlack takes the place of Slack between parts that lie in each other
// deeper than that from the beginning: a screw in a hole of its core's diameter,
// or teeth, mm.
const threadSlack = 1.0

// Slim is a shape that is thinner by half a slack.
type Slim struct {
	Tree *solid.BVH
}

// NewSlim moves every corner inwards so that each of the faces around it moves
// by half a slack: by the sum of their normals, of which those within about
// 25° of each other count as one.
func NewSlim(s *solid.Shape, slack float64) *Slim {
	type corner [3]float32
	normals := map[corner][]space.Vec{}
	at := func(v uint32) corner { return corner(s.Positions[3*v : 3*v+3]) }
	for t := 0; t < len(s.Triangles); t += 3 {
		tri := triangleOf(s.Positions, s.Triangles[t:t+3])
		n, area := tri.Normal()
		if area == 0 {
			continue
		}
		for _, v := range s.Triangles[t : t+3] {
			known := false
			for _, o := range normals[at(v)] {
				known = known || r3.Dot(o, n) > 0.9
			}
			if !known {
				normals[at(v)] = append(normals[at(v)], n)
			}
		}
	}
	thin := &solid.Shape{Positions: make([]float32, len(s.Positions)), Triangles: s.Triangles, Bounds: s.Bounds}
	for v := range uint32(len(s.Positions) / 3) {
		var in space.Vec
		for _, n := range normals[at(v)] {
			in = r3.Sub(in, n)
		}
		if l := r3.Norm(in); l > 3 { // a sharp tip stays in its surroundings
			in = r3.Scale(3/l, in)
		}
		for k, d := range [3]float64{in.X, in.Y, in.Z} {
			thin.Positions[3*v+uint32(k)] = s.Positions[3*v+uint32(k)] + float32(d*slack/2)
		}
	}
	return &Slim{Tree: solid.NewBVH(thin)}
}

func triangleOf(positions []float32, tri []uint32) (t solid.Triangle) {
	for k, v := range tri {
		t[k] = space.Vec{X: float64(positions[3*v]), Y: float64(positions[3*v+1]), Z: float64(positions[3*v+2])}
	}
	return t
}
