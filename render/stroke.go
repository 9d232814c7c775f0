package render

import (
	"math"

	"slowreveal/core/look"
	"slowreveal/core/space"
)

// stroke turns segments into strips.
type stroke struct {
	r      *Renderer
	sx, sy float32
}

func (r *Renderer) stroke(v *View) stroke {
	return stroke{r, float32(float64(r.width) / 2 / v.Camera.tanH), float32(float64(r.height) / 2 / v.Camera.tanV)}
}

// nib is how a segment is drawn.
type nib struct {
	half float32 // of its width, in pixels
	// out is where the strip lies beside its segment, on the screen, y downwards; zero for a strip on both sides.
	out [2]float32
}

// beside reports whether the strip lies beside its segment.
func (n *nib) beside() bool { return n.out != [2]float32{} }

// add adds the strip of a segment, both ends in the camera's frame.
func (s *stroke) add(out *projected, a, b [3]float32, n nib, id int32) {
	if !cutNear(&a, &b) {
		return
	}
	wa, wb := 1/-a[2], 1/-b[2]
	cx, cy := float32(s.r.width)/2, float32(s.r.height)/2
	from := [2]float32{(cx + a[0]*wa*s.sx) * subPixel, (cy - a[1]*wa*s.sy) * subPixel}
	to := [2]float32{(cx + b[0]*wb*s.sx) * subPixel, (cy - b[1]*wb*s.sy) * subPixel}
	n.half *= subPixel
	if f, ok := stripOf(from, to, wa, wb, n, id); ok {
		s.r.note(out, &f)
	}
}

// stripOf returns the strip of a segment: what lies within half a width of it, and not
// further past its ends than a quarter, so that the pieces of a curve join. Beside the segment the whole
// width lies on one side, and the ends reach further, for there curves open where they turn. All is in
// 1/256 pixel; wa and wb are 1/z of the ends. A segment without length has none, nor has one that
// reaches far out of the frame.
func stripOf(a, b [2]float32, wa, wb float32, n nib, id int32) (f face, ok bool) {
	dx, dy := b[0]-a[0], b[1]-a[1]
	length := float32(math.Sqrt(float64(dx*dx + dy*dy)))
	if length < shortest || max(a[0], -a[0], a[1], -a[1], b[0], -b[0], b[1], -b[1]) > guard-subPixel*tileSide {
		return f, false
	}
	scale := max(n.half, thinnest) / length
	tx, ty := dx*scale, dy*scale
	over, asideX, asideY := float32(look.LineEnd), float32(0), float32(0)
	if n.beside() {
		over, asideX, asideY = look.ContourEnd, ty, -tx
		if n.out[0]*ty-n.out[1]*tx < 0 {
			asideX, asideY = -ty, tx
		}
	}
	x0, y0, x1, y1 := a[0]-tx*over+asideX, a[1]-ty*over+asideY, b[0]+tx*over+asideX, b[1]+ty*over+asideY
	f = face{id: id, edge: true}
	f.x = [4]int32{rounded(x0 + ty), rounded(x1 + ty), rounded(x0 - ty), rounded(x1 - ty)}
	f.y = [4]int32{rounded(y0 - tx), rounded(y1 - tx), rounded(y0 + tx), rounded(y1 + tx)}
	beyond := (wb - wa) * scale * over
	f.w = [4]float32{wa - beyond, wb + beyond, wa, wb}
	return f, true
}

const (
	shortest = 1e-4 * subPixel              // of segments
	thinnest = look.Thinnest / 2 * subPixel // half of a strip: its corners stay four when they are rounded
	// thinnestLine is the width of lines that are not drawn any more, pixels.
	thinnestLine = look.Thinnest
)

func rounded(x float32) int32 { return int32(math.Floor(float64(x) + 0.5)) }

// projectFlow lists the dashes of the flow lines, as if they were one more part.
func (r *Renderer) projectFlow(v *View) {
	k := len(r.scene.parts)
	out := &r.seen[k]
	out.forget()
	out.opacity, out.solid, out.depth = 1, true, 0
	inverse := v.Camera.eye.Inverse()
	s, line := r.stroke(v), nib{half: float32(r.edgeWidth / 2)}
	for i := range v.Flow {
		v.Flow[i].Dashes(r.scene.dash, func(a, b space.Vec) {
			a, b = inverse.Apply(a), inverse.Apply(b)
			s.add(
				out,
				v.Camera.toPerspective(narrow(space.Vec3Of(a))),
				v.Camera.toPerspective(narrow(space.Vec3Of(b))),
				line,
				-1-int32(r.scene.edges),
			)
		})
	}
	out.visible = len(out.faces) > 0
	out.sortTiles(len(r.bins))
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

// pen draws curves of short pieces. Where points of one lie within bendless pixels of the
// straight line between others, they are passed over: a small circle is a polygon of a few
// sides and not of eighty.
type pen struct {
	stroke
	out      *projected
	down     bool       // whether it has a beginning
	moved    bool       // and an end
	from, to [3]float32 // in the camera's frame
	id       int32
	nib      nib                // of the pieces that are on the way
	begin    [2]float32         // on the screen, pixels
	passed   [passes][2]float32 // points on the way
	n        int
	end      [2]float32
}

const (
	bendless = 0.1
	passes   = 6
)

// put begins a curve.
func (p *pen) put(at [3]float32) {
	p.down, p.moved, p.n = true, false, 0
	p.from, p.begin = at, p.screen(&at)
}

// draw goes on to a point. id is that of the piece.
func (p *pen) draw(to [3]float32, n nib, id int32) {
	end := p.screen(&to)
	switch {
	case !p.moved:
		p.id, p.nib = id, n
	case p.nib.like(&n) && p.passes(&to, end):
		p.passed[p.n] = p.end
		p.n++
	default:
		p.add(p.out, p.from, p.to, p.nib, p.id)
		p.from, p.begin, p.n, p.id, p.nib = p.to, p.end, 0, id, n
	}
	p.to, p.end, p.moved = to, end, true
}

// lift ends a curve.
func (p *pen) lift() {
	if p.down && p.moved {
		p.add(p.out, p.from, p.to, p.nib, p.id)
	}
	p.down = false
}

// like reports whether two pieces may be drawn as one.
func (n *nib) like(o *nib) bool {
	return n.half == o.half && n.beside() == o.beside() && n.out[0]*o.out[0]+n.out[1]*o.out[1] >= 0
}

// passes reports whether a straight line to a point does for those on the way.
func (p *pen) passes(to *[3]float32, end [2]float32) bool {
	if p.n == passes || p.from[2] > -near || p.to[2] > -near || to[2] > -near {
		return false
	}
	dx, dy := end[0]-p.begin[0], end[1]-p.begin[1]
	length := dx*dx + dy*dy
	near := func(q *[2]float32) bool {
		x, y := q[0]-p.begin[0], q[1]-p.begin[1]
		along := x*dx + y*dy
		if along < 0 || along > length {
			return false
		}
		aside := x*dy - y*dx
		return aside*aside <= bendless*bendless*length
	}
	if !near(&p.end) {
		return false
	}
	for i := range p.n {
		if !near(&p.passed[i]) {
			return false
		}
	}
	return true
}

// screen returns where a point is on the screen, from its middle, in pixels.
func (s *stroke) screen(p *[3]float32) [2]float32 {
	w := 1 / -p[2]
	return [2]float32{p[0] * w * s.sx, p[1] * w * s.sy}
}
