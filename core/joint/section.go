package joint

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// around is a shape seen along an axis: its points as (u, v) across the axis and w along it, mm.
type around struct {
	shape  *solid.Shape
	axis   space.Vec
	u, v   space.Vec // across it, of unit length like it
	points [][3]float64
	same   []uint32 // of each vertex: the first one at the same place
	low    float64  // along the axis
	high   float64
}

// look lays a shape around the axis through centre.
func look(s *solid.Shape, centre, axis space.Vec) *around {
	u := r3.Cross(axis, space.Vec{X: 1})
	if math.Abs(axis.X) > 0.7 {
		u = r3.Cross(axis, space.Vec{Y: 1})
	}
	u = r3.Unit(u)
	return lookAcross(s, centre, axis, u, r3.Cross(axis, u))
}

// lookAcross lays a shape around the axis through centre, u and v across it.
func lookAcross(s *solid.Shape, centre, axis, u, v space.Vec) *around {
	n := len(s.Positions) / 3
	a := &around{
		shape:  s,
		axis:   axis,
		u:      u,
		v:      v,
		points: make([][3]float64, n),
		same:   make([]uint32, n),
		low:    math.Inf(1),
		high:   math.Inf(-1),
	}
	first := make(map[[3]float32]uint32, n)
	for i := range n {
		p := [3]float32{s.Positions[3*i], s.Positions[3*i+1], s.Positions[3*i+2]}
		if at, seen := first[p]; seen {
			a.same[i] = at
		} else {
			first[p], a.same[i] = uint32(i), uint32(i)
		}
		d := r3.Sub(space.Vec{X: float64(p[0]), Y: float64(p[1]), Z: float64(p[2])}, centre)
		a.points[i] = [3]float64{r3.Dot(d, u), r3.Dot(d, v), r3.Dot(d, axis)}
		a.low, a.high = min(a.low, a.points[i][2]), max(a.high, a.points[i][2])
	}
	return a
}

// crossing is where an edge of the mesh goes through the plane of a section.
type crossing [2]uint32

// loops returns the closed outlines of the section at w that go around the axis. Material lies to their left: outlines go
// anticlockwise, holes clockwise.
func (a *around) loops(w float64) (list []outline) {
	for _, loop := range a.outlines(w) {
		turned := 0.0
		for i, p := range loop {
			q := loop[(i+1)%len(loop)]
			turned += math.Atan2(p[0]*q[1]-p[1]*q[0], p[0]*q[0]+p[1]*q[1])
		}
		if math.Abs(math.Abs(turned)-2*math.Pi) < 0.1 {
			list = append(list, loop)
		}
	}
	return list
}

// outline is a closed line across an axis, (u, v) of its corners, mm.
type outline [][2]float64

// outlines returns all closed outlines of the section at w, in the order of the shape's triangles.
func (a *around) outlines(w float64) (list []outline) {
	next, place := map[crossing]crossing{}, map[crossing][2]float64{}
	var starts []crossing
	t := a.shape.Triangles
	for i := 0; i+2 < len(t); i += 3 {
		if from, ok := a.cross(t[i:i+3], w, next, place); ok {
			starts = append(starts, from)
		}
	}
	for _, start := range starts {
		var loop outline
		at := start
		for {
			to, ok := next[at]
			if !ok {
				break // it has been gone along, or the shape is open
			}
			delete(next, at)
			loop = append(loop, place[at])
			if at = to; at == start {
				list = append(list, loop)
				break
			}
		}
	}
	return list
}

// cross adds the piece of a section that goes through a triangle, and says where it comes in.
func (a *around) cross(
	t []uint32, w float64, next map[crossing]crossing, place map[crossing][2]float64,
) (from crossing, ok bool) {
	var to crossing
	found := 0
	for k := range 3 {
		i, j := a.same[t[k]], a.same[t[(k+1)%3]]
		p, q := &a.points[i], &a.points[j]
		up := p[2] < w && q[2] >= w
		if !up && !(p[2] >= w && q[2] < w) {
			continue
		}
		at := crossing{min(i, j), max(i, j)}
		share := (w - p[2]) / (q[2] - p[2])
		place[at] = [2]float64{p[0] + share*(q[0]-p[0]), p[1] + share*(q[1]-p[1])}
		// Seen from outside a triangle goes anticlockwise: where its side leads down the section comes in.
		if up {
			to = at
		} else {
			from = at
		}
		found++
	}
	if found != 2 {
		return from, false
	}
	next[from] = to
	return from, true
}
