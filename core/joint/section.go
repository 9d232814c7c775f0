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
	v := r3.Cross(axis, u)
	n := len(s.Positions) / 3
	a := &around{shape: s, points: make([][3]float64, n), same: make([]uint32, n), low: math.Inf(1), high: math.Inf(-1)}
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
func (a *around) loops(w float64) (list [][][2]float64) {
	next, place := map[crossing]crossing{}, map[crossing][2]float64{}
	t := a.shape.Triangles
	for i := 0; i+2 < len(t); i += 3 {
		a.cross(t[i:i+3], w, next, place)
	}
	for start := range place { // in any order: what is counted does not depend on it
		if _, ok := next[start]; !ok {
			continue
		}
		var loop [][2]float64
		turned, at := 0.0, start
		closed := false
		for {
			to, ok := next[at]
			if !ok {
				break
			}
			delete(next, at)
			p, q := place[at], place[to]
			loop = append(loop, p)
			turned += math.Atan2(p[0]*q[1]-p[1]*q[0], p[0]*q[0]+p[1]*q[1])
			if at = to; at == start {
				closed = true
				break
			}
		}
		if closed && math.Abs(math.Abs(turned)-2*math.Pi) < 0.1 {
			list = append(list, loop)
		}
	}
	return list
}

// cross adds the piece of a section that goes through a triangle.
func (a *around) cross(t []uint32, w float64, next map[crossing]crossing, place map[crossing][2]float64) {
	var from, to crossing
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
	if found == 2 {
		next[from] = to
	}
}
