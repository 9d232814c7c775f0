package render

import (
	"math/bits"

	"slowreveal/core/solid"
)

// row is the work space for a row of a tile: what its pixels look like.
type row struct {
	rgb   [3 * tileSide]float32 // display values
	bytes [3 * tileSide]byte    // the same as the picture has them
	// Which pixels the picture shows already, which are known from the ground, which belong
	// to the same faces there, and which are found and to be kept there.
	leave, known, same, found uint64

	sheets [tileSide]sheet // of one see-through part
	points points
}

// at returns the display values of a pixel.
func (w *row) at(x int) *[3]float32 { return (*[3]float32)(w.rgb[3*x:]) }

// resolve turns what is visible into pixels of the picture: the paper, then the
// solid parts, then the see-through ones from far to near. What the ground shows
// there already is left alone.
func (r *Renderer) resolve(t *tile, v *View, l *lights, g *ground) {
	for y := range t.h {
		p := r.paperRow(t, y)
		w := &t.row
		w.points.clear()
		t.whatToDo(g, y)
		for known := w.known; known != 0; {
			x, n := nextRun(known)
			copy(w.rgb[3*x:3*(x+n)], g.colour[3*(y*tileSide+x):])
			known &^= pixelsOf(x, n)
		}
		_, whole, goesOn := kernel.whose(t.solid.rowOf(y))
		dy := float32(v.Camera.tanV) - (float32(t.y0+y)+0.5)*r.rayDown
		for open := pixelsOf(0, t.w) &^ (w.known | w.leave); open != 0; {
			x := bits.TrailingZeros64(open)
			n := 1
			if whole>>x&1 == 0 {
				r.lookAtMixed(t, x, y, dy, p, v, l)
			} else {
				n += bits.TrailingZeros64(^((goesOn & open) >> x >> 1))
				r.lookAt(t, x, n, y, dy, p, v, l)
			}
			open &^= pixelsOf(x, n)
		}
		w.points.shade(l)
		w.gather()
		r.writeRow(t, y, g)
	}
}

// whatToDo tells what is to be done about the pixels of a row.
func (t *tile) whatToDo(g *ground, y int) {
	w := &t.row
	w.leave, w.known, w.same, w.found = 0, 0, 0, 0
	if g == nil {
		return
	}
	w.same = kernel.alike(t.solid.rowOf(y), g.solid.rowOf(y)) & pixelsOf(0, t.w)
	w.found = w.same &^ g.known[y]
	w.leave = w.same & g.known[y] & g.shown[y] &^ t.covered[y]
	w.known = w.same & g.known[y] &^ w.leave
}

// lookAt finds what n pixels are made of that have one owner.
func (r *Renderer) lookAt(t *tile, x, n, y int, dy float32, p *paperRow, v *View, l *lights) {
	w := &t.row
	switch id := t.solid.owner[(y*tileSide+x)*samples]; {
	case id > nobody:
		w.points.addRun(r.facetOf(t, id), r.rayAt(v, t.x0), r.rayAcross, dy, x, n, r.flatStep)
	case id == nobody:
		copy(w.rgb[3*x:], r.paperAt(t, p, x, n, v, l))
	default:
		for i := range n {
			*w.at(x + i) = l.ink
		}
	}
}

// rayAt returns how far to the right the ray through a column of pixels goes.
func (r *Renderer) rayAt(v *View, x int) float32 {
	return (float32(x)+0.5)*r.rayAcross - float32(v.Camera.tanH)
}

// lookAtMixed finds what a pixel is made of that several faces share: the mean over its
// samples, each part shaded once. The first of a part's faces there stands for the
// others, which differ from it by less than can be seen where no edge lies between them.
func (r *Renderer) lookAtMixed(t *tile, x, y int, dy float32, p *paperRow, v *View, l *lights) {
	w := &t.row
	o := (*[samples]int32)(t.solid.owner[(y*tileSide+x)*samples:])
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
			w.add(x, (*[3]float32)(r.paperAt(t, p, x, 1, v, l)), weight)
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

// writeRow lays the see-through sheets over the row's pixels and puts them into the
// picture.
func (r *Renderer) writeRow(t *tile, y int, g *ground) {
	w := &t.row
	if g != nil {
		t.keep(y, g)
	}
	for covered := t.covered[y]; covered != 0; covered &= covered - 1 {
		x := bits.TrailingZeros64(covered)
		at, c := y*tileSide+x, w.at(x)
		for i := int(t.count[at]) - 1; i >= 0; i-- {
			s := &t.sheets[i][at]
			c[0], c[1], c[2] = c[0]+(s.rgb[0]-c[0])*s.alpha, c[1]+(s.rgb[1]-c[1])*s.alpha, c[2]+(s.rgb[2]-c[2])*s.alpha
		}
	}
	kernel.quantise(&w.rgb, &w.bytes)
	r.deepen(t, y)
	base := r.memory.base
	out := base.RGB[3*((t.y0+y)*base.Width+t.x0):][:3*t.w]
	for new := pixelsOf(0, t.w) &^ w.leave; new != 0; {
		x, n := nextRun(new)
		copy(out[3*x:3*(x+n)], w.bytes[3*x:])
		new &^= pixelsOf(x, n)
	}
}

// keep keeps in the ground what was found in a row.
func (t *tile) keep(y int, g *ground) {
	w := &t.row
	for found := w.found; found != 0; {
		x, n := nextRun(found)
		copy(g.colour[3*(y*tileSide+x):], w.rgb[3*x:3*(x+n)])
		found &^= pixelsOf(x, n)
	}
	g.known[y] |= w.found
	g.shown[y] = w.leave | w.same&g.known[y]&^t.covered[y]
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
