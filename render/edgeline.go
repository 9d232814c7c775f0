package render

import (
	"slowreveal/core/look"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// edgeLine is an edge of a shape, in the shape's frame.
type edgeLine struct {
	a, b   [3]float32
	n0, n1 [3]float32 // of the faces that meet there
	shows  shows
	joins  bool // whether it begins where the one before it in the list ends
}

// shows says from where a line shows.
type shows uint8

const (
	always      shows = iota // an edge of an open surface
	notBehind                // one that its own part hides where both faces look away
	onlyBetween              // where one face looks at the eye and the other away: as part of the outline
)

// edgeLinesOf returns the edges of a shape, told by its faces which of them it hides itself.
func edgeLinesOf(s *solid.Shape, closed bool) []edgeLine {
	lines := make([]edgeLine, len(s.Edges))
	for i := range s.Edges {
		e := &s.Edges[i]
		lines[i] = edgeLine{a: e.A, b: e.B, n0: e.N0, n1: e.N1}
		if !e.Feature() {
			lines[i].shows = onlyBetween
		}
	}
	if !closed {
		return chained(lines)
	}
	for i, beside := range s.Beside() {
		l := &lines[i]
		if l.shows == always && beside != [2][3]float32{} {
			l.n0, l.n1, l.shows = beside[0], beside[1], notBehind
		}
	}
	return chained(lines)
}

// eyeOf is where lines are looked at from, in the shape's frame.
type eyeOf struct {
	at, back [3]float32 // back is the way to an eye that is infinitely far away
	parallel bool
}

// meets reports whether a line shows.
func (e *eyeOf) meets(l *edgeLine) bool {
	if l.shows == always {
		return true
	}
	d := e.back
	if !e.parallel {
		d = [3]float32{e.at[0] - l.a[0], e.at[1] - l.a[1], e.at[2] - l.a[2]}
	}
	f0 := l.n0[0]*d[0]+l.n0[1]*d[1]+l.n0[2]*d[2] > 0
	f1 := l.n1[0]*d[0]+l.n1[1]*d[1]+l.n1[2]*d[2] > 0
	if l.shows == notBehind {
		return f0 || f1
	}
	return f0 != f1
}

// projectEdges adds the strips of a part's edges that show. Where its faces are on their
// way to nothing, those on its back do.
func (r *Renderer) projectEdges(out *projected, p *part, v *View, width float64, back bool) {
	inverse := out.toCamera.Inverse()
	eye := eyeOf{narrow(space.TripleOf(inverse.T)), narrow(space.TripleOf(inverse.R.Apply(space.Vec{Z: 1}))), v.Camera.parallel}
	pull := float32(1 - v.Camera.pull(look.Paper.Pull(float64(r.height))))
	toCamera := matrixOf(&out.toCamera)
	at := func(p *[3]float32) [3]float32 {
		q := v.Camera.bend(toCamera.apply(p))
		return [3]float32{q[0] * pull, q[1] * pull, q[2] * pull}
	}
	pen := pen{stroke: r.stroke(v, width), out: out}
	lines := r.scene.lines[p.shape]
	for i := range lines {
		l := &lines[i]
		if !eye.meets(l) && !(back && l.shows == notBehind) {
			pen.lift()
			continue
		}
		if !l.joins || !pen.down {
			pen.lift()
			pen.put(at(&l.a))
		}
		pen.draw(at(&l.b), int32(-1-(p.firstEdge+i)))
	}
	pen.lift()
}

// chained brings lines that are drawn by themselves into such an order, and such a direction,
// that each which goes on where another ends follows it: the pieces of a curve. The others,
// of which only a few show at a time, come last.
func chained(lines []edgeLine) []edgeLine {
	type end struct {
		count int
		lines [2]int
	}
	ends := map[[3]float32]end{}
	for i := range lines {
		if lines[i].shows == onlyBetween {
			continue
		}
		for _, p := range [2][3]float32{lines[i].a, lines[i].b} {
			e := ends[p]
			e.lines[e.count&1] = i
			e.count++
			ends[p] = e
		}
	}
	order, done := make([]edgeLine, 0, len(lines)), make([]bool, len(lines))
	follow := func(i int, from [3]float32) {
		for joins := false; !done[i]; joins = true {
			done[i] = true
			l := lines[i]
			if l.a != from {
				l.a, l.b = l.b, l.a
			}
			l.joins = joins
			order = append(order, l)
			from = l.b
			if e := ends[from]; e.count == 2 {
				i = e.lines[0] + e.lines[1] - i
			}
		}
	}
	for _, loops := range [2]bool{false, true} {
		for i := range lines {
			switch l := &lines[i]; {
			case l.shows == onlyBetween || done[i]:
			case loops || ends[l.a].count != 2:
				follow(i, l.a)
			case ends[l.b].count != 2:
				follow(i, l.b)
			}
		}
	}
	for i := range lines {
		if lines[i].shows == onlyBetween {
			order = append(order, lines[i])
		}
	}
	return order
}
