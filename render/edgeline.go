package render

import (
	"math"

	"slowreveal/core/look"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// edgeLine is an edge of a shape, in the shape's frame.
type edgeLine struct {
	a, b   [3]float32
	n0, n1 [3]float32 // of the faces that meet there
	shows  shows
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
		return lines
	}
	for i, beside := range s.Beside() {
		l := &lines[i]
		if l.shows == always && beside != [2][3]float32{} {
			l.n0, l.n1, l.shows = beside[0], beside[1], notBehind
		}
	}
	return lines
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
	s := r.stroke(v, width)
	lines := r.scene.lines[p.shape]
	for i := range lines {
		l := &lines[i]
		if !eye.meets(l) && !(back && l.shows == notBehind) {
			continue
		}
		a, b := r.cameraPoint(l.a, out, v, pull), r.cameraPoint(l.b, out, v, pull)
		s.add(out, a, b, int32(-1-(p.firstEdge+i)))
	}
}

// stroke turns segments into strips of a width.
type stroke struct {
	r            *Renderer
	half, sx, sy float32
}

func (r *Renderer) stroke(v *View, width float64) stroke {
	return stroke{r, float32(width / 2), float32(float64(r.width) / 2 / v.Camera.tanH), float32(float64(r.height) / 2 / v.Camera.tanV)}
}

// add adds the strip of a segment, both ends in the camera's frame.
func (s *stroke) add(out *projected, a, b [3]float32, id int32) {
	if !cutNear(&a, &b) {
		return
	}
	wa, wb := 1/-a[2], 1/-b[2]
	ax, ay, bx, by := a[0]*wa*s.sx, a[1]*wa*s.sy, b[0]*wb*s.sx, b[1]*wb*s.sy
	if max(ax-bx, bx-ax, ay-by, by-ay) < 1e-4 {
		return
	}
	f := face{id: id, w: [4]float32{wa, wb, wa, wa}, half: max(1, int32(s.half*subPixel+0.5))}
	cx, cy := float32(s.r.width)/2, float32(s.r.height)/2
	for i, p := range [4][2]float32{{ax, ay}, {bx, by}, {ax, ay}, {ax, ay}} {
		x, y := cx+p[0], cy-p[1]
		x, y = x*subPixel, y*subPixel
		if x > guard || x < -guard || y > guard || y < -guard {
			return
		}
		f.x[i], f.y[i] = int32(math.Floor(float64(x)+0.5)), int32(math.Floor(float64(y)+0.5))
	}
	s.r.bin(out, &f, false)
}

// projectFlow lists the dashes of the flow lines, as if they were one more part.
func (r *Renderer) projectFlow(v *View) {
	k := len(r.scene.parts)
	out := &r.seen[k]
	out.forget()
	out.opacity, out.solid, out.depth = 1, true, 0
	inverse := v.Camera.eye.Inverse()
	s := r.stroke(v, r.edgeWidth)
	for i := range v.Flow {
		v.Flow[i].Dashes(r.scene.dash, func(a, b space.Vec) {
			a, b = inverse.Apply(a), inverse.Apply(b)
			s.add(out, v.Camera.bend(narrow(space.TripleOf(a))), v.Camera.bend(narrow(space.TripleOf(b))), -1-int32(r.scene.edges))
		})
	}
	out.visible = len(out.faces) > 0
	out.sortTiles(len(r.bins))
}

func (r *Renderer) cameraPoint(p [3]float32, out *projected, v *View, pull float32) [3]float32 {
	c := out.toCamera.Apply(space.Vec{X: float64(p[0]), Y: float64(p[1]), Z: float64(p[2])})
	q := v.Camera.bend([3]float32{float32(c.X), float32(c.Y), float32(c.Z)})
	return [3]float32{q[0] * pull, q[1] * pull, q[2] * pull}
}

// cutNear cuts a segment at the near plane; false when nothing is left.
func cutNear(a, b *[3]float32) bool {
	if a[2] > -near && b[2] > -near {
		return false
	}
	if a[2] > -near {
		a, b = b, a
	}
	if b[2] > -near {
		u := (-near - a[2]) / (b[2] - a[2])
		*b = [3]float32{a[0] + (b[0]-a[0])*u, a[1] + (b[1]-a[1])*u, -near}
	}
	return true
}
