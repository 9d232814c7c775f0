package render

import (
	"slowreveal/core/look"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// edgeLine is a line of a shape.
type edgeLine struct {
	solid.DrawnEdge
	joins bool // whether it begins where the one before it in the list ends
}

// edgeLinesOf returns the lines of a shape in the order in which a pen draws them.
func edgeLinesOf(s *solid.Shape) []edgeLine {
	lines := s.DrawnEdges()
	out := make([]edgeLine, len(lines))
	for i := range lines {
		out[i].DrawnEdge = lines[i]
	}
	return chained(out)
}

// eyeOf is where lines are looked at from, in the shape's frame.
type eyeOf struct {
	at, back     [3]float32 // back is the way to an eye that is infinitely far away
	orthographic bool
}

// meets reports whether a line shows, and whether as part of the contour.
func (e *eyeOf) meets(l *solid.DrawnEdge) (shows, contour bool) {
	d := e.back
	if !e.orthographic {
		d = [3]float32{e.at[0] - l.A[0], e.at[1] - l.A[1], e.at[2] - l.A[2]}
	}
	f0 := l.N0[0]*d[0]+l.N0[1]*d[1]+l.N0[2]*d[2] > 0
	f1 := l.N1[0]*d[0]+l.N1[1]*d[1]+l.N1[2]*d[2] > 0
	switch contour = f0 != f1; l.Shows {
	case solid.Always:
		return true, contour
	case solid.NotBehind:
		return f0 || f1, contour
	}
	return contour, contour
}

// nibs finds how a part's lines are drawn. See docs/look.md.
type nibs struct {
	edge, contour float32    // half of their widths, pixels
	room          float32    // half of the share of the gap between lines that they may take
	normal        [9]float32 // into the camera's frame
	sy            float32
	orthographic  float32 // the distance that scales a parallel picture, mm, or 0
}

func (r *Renderer) nibs(v *View, m *matrix, sy float32, strength float64) nibs {
	half := float32(strength / 2)
	n := nibs{
		float32(r.edgeWidth) * half,
		float32(r.contourWidth) * half,
		float32(look.Default.LineRoom) * half,
		m.r,
		sy,
		0,
	}
	if v.Camera.orthographic {
		n.orthographic = float32(v.Camera.distance)
	}
	return n
}

// of is how a line is drawn whose first end is at p in the camera's frame.
func (s *nibs) of(l *solid.DrawnEdge, p *[3]float32, contour bool) (n nib) {
	n.half = s.edge
	away := -p[2]
	if s.orthographic > 0 {
		away = s.orthographic
	}
	if contour {
		n.half = s.contour
		x, y, z := l.N0[0]+l.N1[0], l.N0[1]+l.N1[1], l.N0[2]+l.N1[2]
		k := &s.normal
		nx, ny, nz := k[0]*x+k[1]*y+k[2]*z, k[3]*x+k[4]*y+k[5]*z, k[6]*x+k[7]*y+k[8]*z
		if s.orthographic > 0 {
			nz = 0
		}
		n.out = [2]float32{nx*away + p[0]*nz, -(ny*away + p[1]*nz)}
	}
	if room := l.Apart * s.sy / away * s.room; away > 0 && room*look.SlantLeast < n.half {
		n.half = min(n.half, room*s.slant(l, p))
		if l.Shows == solid.OnlyBetween { // a wire is a line of its own
			n.half = max(n.half, min(s.edge, s.contour))
		}
	}
	return n
}

// slant is how much narrower the gap beside a line is seen, because its surface is seen aslant.
func (s *nibs) slant(l *solid.DrawnEdge, p *[3]float32) float32 {
	n := [3]float32{l.N0[0] + l.N1[0], l.N0[1] + l.N1[1], l.N0[2] + l.N1[2]}
	along := [3]float32{l.B[0] - l.A[0], l.B[1] - l.A[1], l.B[2] - l.A[2]}
	beside := cross(&n, &along)
	k := &s.normal
	x, y, z := k[0]*beside[0]+k[1]*beside[1]+k[2]*beside[2], k[3]*beside[0]+k[4]*beside[1]+k[5]*beside[2], k[6]*beside[0]+k[7]*beside[1]+k[8]*beside[2]
	long := x*x + y*y + z*z
	if long == 0 {
		return 1
	}
	depth := z * z / long
	if s.orthographic == 0 {
		d := x*p[0] + y*p[1] + z*p[2]
		depth = d * d / (long * (p[0]*p[0] + p[1]*p[1] + p[2]*p[2]))
	}
	return max(root(max(1-depth, 0)), look.SlantLeast)
}

// projectEdges adds the strips of a part's edges that show, as wide as their strength says. Where its faces are on
// their way to nothing, those on its back do.
func (r *Renderer) projectEdges(out *projected, p *part, v *View, strength float64, back bool) {
	inverse := out.toCamera.Inverse()
	eye := eyeOf{
		narrow(space.Vec3Of(inverse.T)),
		narrow(space.Vec3Of(inverse.R.Apply(space.Vec{Z: 1}))),
		v.Camera.orthographic,
	}
	pull := float32(1 - v.Camera.pull(look.Default.Pull(float64(r.height))))
	toCamera := matrixOf(&out.toCamera)
	seen := func(p [3]float32) [3]float32 {
		q := v.Camera.toPerspective(p)
		return [3]float32{q[0] * pull, q[1] * pull, q[2] * pull}
	}
	pen := pen{stroke: r.stroke(v), out: out}
	nibs := r.nibs(v, &toCamera, pen.sy, strength)
	lines := r.scene.lines[p.shape]
	for i := range lines {
		l := &lines[i]
		shows, contour := eye.meets(&l.DrawnEdge)
		if !shows && !(back && l.Shows == solid.NotBehind) {
			pen.lift()
			continue
		}
		from := toCamera.apply(&l.A)
		n := nibs.of(&l.DrawnEdge, &from, contour)
		if 2*n.half < thinnestLine {
			pen.lift()
			continue
		}
		if !l.joins || !pen.down {
			pen.lift()
			pen.put(seen(from))
		}
		pen.draw(seen(toCamera.apply(&l.B)), n, int32(-1-(p.firstEdge+i)))
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
		if lines[i].Shows == solid.OnlyBetween {
			continue
		}
		for _, p := range [2][3]float32{lines[i].A, lines[i].B} {
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
			if l.A != from {
				l.A, l.B = l.B, l.A
			}
			l.joins = joins
			order = append(order, l)
			from = l.B
			if e := ends[from]; e.count == 2 {
				i = e.lines[0] + e.lines[1] - i
			}
		}
	}
	for _, loops := range [2]bool{false, true} {
		for i := range lines {
			switch l := &lines[i]; {
			case l.Shows == solid.OnlyBetween || done[i]:
			case loops || ends[l.A].count != 2:
				follow(i, l.A)
			case ends[l.B].count != 2:
				follow(i, l.B)
			}
		}
	}
	for i := range lines {
		if lines[i].Shows == solid.OnlyBetween {
			order = append(order, lines[i])
		}
	}
	return order
}
