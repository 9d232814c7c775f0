package render

import "slowreveal/core/solid"

// row is the work space for a row of a tile: what its pixels look like.
type row struct {
	rgb    [3 * tileSide]float32 // display values
	bytes  [3 * tileSide]byte    // the same as the picture has them
	todo   [tileSide]todo
	sheets [tileSide]sheet // of one see-through part
	spread [tileSide]uint8 // the pixels that have one
	points points
}

// at returns the display values of a pixel.
func (w *row) at(x int) *[3]float32 { return (*[3]float32)(w.rgb[3*x:]) }

// todo says what is to be done about a pixel.
type todo uint8

const (
	leave todo = iota // the picture shows it already
	known             // rgb is there
	open              // rgb will be there once the points are shaded
	found             // likewise, and it is to be kept in the ground
)

// resolve turns what is visible into pixels of the picture: the paper, then the
// solid parts, then the see-through ones from far to near. What the ground shows
// there already is left alone.
func (r *Renderer) resolve(t *tile, v *View, l *lights, g *ground) {
	for y := range t.h {
		p := r.paperRow(t, y, v, l)
		w := &t.row
		w.points.n = 0
		dy := float32(v.Camera.tanV) - (float32(t.y0+y)+0.5)*r.rayDown
		for x := 0; x < t.w; {
			at := y*tileSide + x
			w.todo[x] = t.whatToDo(g, at)
			switch w.todo[x] {
			case leave:
				x++
			case known:
				*w.at(x) = g.colour[at]
				x++
			default:
				x += r.lookAt(t, g, x, y, dy, p, v, l)
			}
		}
		w.points.shade(l)
		w.gather()
		r.writeRow(t, y, g)
	}
}

// whatToDo tells what is to be done about a pixel.
func (t *tile) whatToDo(g *ground, at int) todo {
	if g == nil || !t.sameAs(g, at) {
		return open
	}
	if !g.known[at] {
		return found
	}
	if t.count[at] == 0 && g.shown[at] {
		return leave
	}
	return known
}

// lookAt finds what a pixel is made of, and those to the right of it that belong to the
// same face; it returns how many.
func (r *Renderer) lookAt(t *tile, g *ground, x, y int, dy float32, p *paperRow, v *View, l *lights) int {
	w, at := &t.row, y*tileSide+x
	o := (*[samples]int32)(t.solid.owner[at*samples:])
	if o[0] != o[1] || o[1] != o[2] || o[2] != o[3] {
		r.lookAtMixed(t, o, x, dy, p, v, l)
		return 1
	}
	switch {
	case o[0] < 0:
		*w.at(x) = l.ink
		return 1
	case o[0] == nobody:
		*w.at(x) = *p.at(x, v, l)
		return 1
	}
	n := 1
	for ; x+n < t.w && *(*[samples]int32)(t.solid.owner[(at+n)*samples:]) == *o; n++ {
		if w.todo[x+n] = t.whatToDo(g, at+n); w.todo[x+n] < open {
			break
		}
	}
	clear(w.rgb[3*x : 3*(x+n)])
	w.points.addRun(r.facetOf(t, o[0]), r.rayAt(v, t.x0+x), r.rayAcross, dy, n, x)
	return n
}

// rayAt returns how far to the right the ray through a column of pixels goes.
func (r *Renderer) rayAt(v *View, x int) float32 {
	return (float32(x)+0.5)*r.rayAcross - float32(v.Camera.tanH)
}

// lookAtMixed finds what a pixel is made of that several faces share: the mean over its
// samples, each part shaded once. The first of a part's faces there stands for the
// others, which differ from it by less than can be seen where no edge lies between them.
func (r *Renderer) lookAtMixed(t *tile, o *[samples]int32, x int, dy float32, p *paperRow, v *View, l *lights) {
	w := &t.row
	dx := r.rayAt(v, t.x0+x)
	*w.at(x) = [3]float32{}
	var parts [samples]int32
	for s := range samples {
		parts[s] = r.scene.partOf[max(o[s], 0)]
		if o[s] < 0 {
			parts[s] = -2 // ink is ink
		}
	}
	for s := range samples {
		if parts[s] == counted {
			continue
		}
		n, part := 1, parts[s]
		for q := s + 1; q < samples; q++ {
			if parts[q] == part {
				n++
				parts[q] = counted
			}
		}
		weight := float32(n) * (1.0 / samples)
		switch {
		case part >= 0:
			w.points.add(r.facetOf(t, o[s]), dx, dy, weight, x)
		case o[s] == nobody:
			w.add(x, p.at(x, v, l), weight)
		default:
			w.add(x, &l.ink, weight)
		}
	}
}

// counted marks a sample whose part is dealt with.
const counted = int32(-3)

func (w *row) add(x int, c *[3]float32, weight float32) {
	p := w.at(x)
	p[0], p[1], p[2] = p[0]+c[0]*weight, p[1]+c[1]*weight, p[2]+c[2]*weight
}

// gather adds the shaded points to their pixels.
func (w *row) gather() {
	q := &w.points
	for i := range q.n {
		p, weight := w.at(int(q.pixel[i]&(tileSide-1))), q.weight[i]
		p[0], p[1], p[2] = p[0]+q.r[i]*weight, p[1]+q.g[i]*weight, p[2]+q.b[i]*weight
	}
}

// writeRow lays the see-through sheets over the row's pixels and puts them into the
// picture.
func (r *Renderer) writeRow(t *tile, y int, g *ground) {
	w, whole := &t.row, true
	if g != nil {
		whole = t.keep(y, g)
	}
	if t.covered[y] {
		for x := range t.w {
			at := y*tileSide + x
			for i := int(t.count[at]) - 1; i >= 0; i-- {
				s := &t.sheets[i][at]
				c := w.at(x)
				c[0], c[1], c[2] = c[0]+(s.rgb[0]-c[0])*s.alpha, c[1]+(s.rgb[1]-c[1])*s.alpha, c[2]+(s.rgb[2]-c[2])*s.alpha
			}
		}
	}
	r.deepen(t, y, whole)
	kernel.quantise(&w.rgb, &w.bytes)
	base := r.memory.base
	out := base.RGB[3*((t.y0+y)*base.Width+t.x0):][:3*t.w]
	if whole {
		copy(out, w.bytes[:])
		return
	}
	for x := range t.w {
		if w.todo[x] != leave {
			out[3*x], out[3*x+1], out[3*x+2] = w.bytes[3*x], w.bytes[3*x+1], w.bytes[3*x+2]
		}
	}
}

// keep keeps in the ground what was found in a row; it reports whether all pixels are
// to be written.
func (t *tile) keep(y int, g *ground) (whole bool) {
	whole = true
	for x := range t.w {
		at := y*tileSide + x
		switch t.row.todo[x] {
		case leave:
			whole = false
			continue
		case found:
			g.colour[at], g.known[at] = *t.row.at(x), true
		}
		g.shown[at] = t.count[at] == 0 && g.known[at] && t.sameAs(g, at)
	}
	return whole
}

// quantisePlain turns display values into what bytes hold.
func quantisePlain(in *[3 * tileSide]float32, out *[3 * tileSide]byte) {
	for i, v := range in {
		out[i] = byte(v*255 + 0.5)
	}
}

func patchOf(patches []solid.Patch, triangle int) int {
	for i := range patches {
		if triangle < int(patches[i].First+patches[i].Count) {
			return i
		}
	}
	return len(patches) - 1
}
