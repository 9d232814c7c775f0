package render

import (
	"math"
	"math/bits"
)

// row is the work space for a row of a tile: what its pixels look like.
type row struct {
	rgb    colours
	bytes  rowBytes // the same as the picture has them
	shares colours  // of the pixels that several share
	shared uint64   // which those are
	// Which pixels the picture shows already, which are known from the static tile, which belong
	// to the same faces there, and which are found and to be kept there.
	leave, known, same, found uint64

	alpha, depth [tileSide]float32 // of one see-through part's fragment
	points       shadingSamples
}

// resolve turns what is visible into pixels of the picture: the background, then the
// solid parts, then the see-through ones from far to near. What the static tile shows
// there already is left alone.
func (r *Renderer) resolve(t *tile, v *View, l *lights, g *staticTile) {
	for y := range t.h {
		w := &t.row
		t.whatToDo(g, y)
		if w.leave == pixelsOf(0, t.w) {
			continue
		}
		w.begin(float32(v.Camera.tanV) - (float32(t.y0+y)+0.5)*r.rayDown)
		open := pixelsOf(0, t.w) &^ (w.known | w.leave)
		whole, goesOn, background, ink := kernel.classifyRow(t.solid.rowOf(y))
		background, ink = background&open, ink&open
		if v.Inks != nil {
			ink = 0 // there are several
		}
		open &^= background | ink
		whole |= r.ofOnePart(t, y, open&^whole)
		goesOn &= whole & (whole << 1)
		surfaces := open & whole
		for open != 0 {
			x, n := lowest(open), 1
			if whole>>x&1 == 0 {
				r.lookAtMixed(t, x, y, v, l)
			} else {
				n += bits.TrailingZeros64(^((goesOn & open) >> x >> 1))
				w.points.addRun(r.triangleSetupOf(t, t.solid.id[sampleAt(x, y)]), x, n, r.flatStep)
			}
			open &^= pixelsOf(x, n)
		}
		w.points.shade(l)
		w.gather()
		r.occludeRow(t, y, surfaces, v)
		if w.known != 0 {
			kernel.choose(&w.rgb, &g.colour[y], w.known)
		}
		if background != 0 {
			kernel.choose(&w.rgb, r.backgroundAt(t, y, v, l), background)
		}
		if ink != 0 {
			kernel.choose(&w.rgb, &r.inkRow, ink)
		}
		r.writeRow(t, y, g)
	}
}

// begin begins a row; dy is how far down its rays go.
func (w *row) begin(dy float32) {
	w.points.begin(dy)
	w.shared = 0
}

// share begins a pixel that several share.
func (w *row) share(x int, rgb *[3]float32) {
	w.shared |= 1 << x
	w.shares.set(x, rgb)
}

// whatToDo tells what is to be done about the pixels of a row.
func (t *tile) whatToDo(g *staticTile, y int) {
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

// ofOnePart returns which pixels of a set belong to faces of one part only. The first of
// them stands for the others, which differ from it by less than can be seen where no edge
// lies between them.
func (r *Renderer) ofOnePart(t *tile, y int, set uint64) (alone uint64) {
	first, last := int32(1), int32(0) // of the part that was looked at last
	for ; set != 0; set &= set - 1 {
		x := lowest(set)
		o := (*[samples]int32)(t.solid.id[sampleAt(x, y):])
		least, most := min(o[0], o[1], o[2], o[3]), max(o[0], o[1], o[2], o[3])
		if least < first || most > last {
			if least <= noFace {
				continue
			}
			if first, last = r.alike(least); most > last {
				continue
			}
		}
		alone |= 1 << x
	}
	return alone
}

// rayAt returns how far to the right the ray through a column of pixels goes.
func (r *Renderer) rayAt(v *View, x int) float32 {
	return (float32(x)+0.5)*r.rayAcross - float32(v.Camera.tanH)
}

// lookAtMixed finds what a pixel is made of that several parts share, or parts and what is
// beside them: the mean over its samples, each part shaded once.
func (r *Renderer) lookAtMixed(t *tile, x, y int, v *View, l *lights) {
	w := &t.row
	o := (*[samples]int32)(t.solid.id[sampleAt(x, y):])
	w.share(x, &[3]float32{})
	owners := *o
	for s := range samples {
		id := owners[s]
		if id == counted {
			continue
		}
		first, last := r.alike(id)
		if id < noFace && v.Inks != nil {
			first, last = id, id // lines have the colours of their parts
		}
		n := 1
		for q := s + 1; q < samples; q++ {
			if owners[q] >= first && owners[q] <= last {
				owners[q] = counted
				n++
			}
		}
		weight := float32(n) * (1.0 / samples)
		switch {
		case id > noFace:
			weight *= r.leftAt(t, x, y, sampleAt(x, y)+s, v)
			w.points.add(r.triangleSetupOf(t, id), weight, x)
		case id == noFace:
			c := r.backgroundAt(t, y, v, l)
			w.shares.add(x, &[3]float32{c[0][x], c[1][x], c[2][x]}, weight)
		default:
			c := r.inkOf(id, v)
			w.shares.add(x, &c, weight)
		}
	}
}

// inkOf returns the colour of the line that owns a sample.
func (r *Renderer) inkOf(id int32, v *View) [3]float32 {
	if edge := -1 - id; v.Inks != nil && int(edge) < len(r.scene.partOfEdge) {
		return r.inkOfPart(r.scene.partOfEdge[edge], v)
	}
	return r.ink
}

func (r *Renderer) inkOfPart(part int32, v *View) [3]float32 {
	if v.Inks == nil {
		return r.ink
	}
	return narrow(v.Inks[r.scene.parts[part].node])
}

// alike returns the face ids that look like one in a pixel: the faces of its part. Ink is ink.
func (r *Renderer) alike(id int32) (first, last int32) {
	switch {
	case id > noFace:
		p := &r.scene.parts[r.scene.partOf[id]]
		return int32(p.first), p.last
	case id == noFace:
		return noFace, noFace
	}
	return counted + 1, -1
}

// counted marks a sample that is dealt with.
const counted = math.MinInt32

// writeRow lays the see-through fragments over the row's pixels and puts them into the
// picture.
func (r *Renderer) writeRow(t *tile, y int, g *staticTile) {
	w := &t.row
	if g != nil {
		t.keep(y, g)
	}
	if t.covered[y] != 0 {
		kernel.blend(&w.rgb, t, y)
	}
	r.intoPicture(t, y, &w.rgb, w.leave)
}

// intoPicture puts a row into the picture, but for the pixels to leave.
func (r *Renderer) intoPicture(t *tile, y int, rgb *colours, leave uint64) {
	bytes := &t.row.bytes
	kernel.quantise(rgb, &r.rounding[y], bytes)
	r.widenTo16(t, y, rgb, leave)
	base := r.memory.base
	out := base.RGB[3*((t.y0+y)*base.Width+t.x0):][:3*t.w]
	for new := pixelsOf(0, t.w) &^ leave; new != 0; {
		x, n := nextRun(new)
		copy(out[3*x:3*(x+n)], bytes[3*x:])
		new &^= pixelsOf(x, n)
	}
}

// keep keeps in the static tile what was found in a row.
func (t *tile) keep(y int, g *staticTile) {
	w := &t.row
	if w.found != 0 {
		kernel.choose(&g.colour[y], &w.rgb, w.found)
	}
	g.known[y] |= w.found
	g.shown[y] = w.leave | w.same&g.known[y]&^t.covered[y]
}
