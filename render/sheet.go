package render

import "math/bits"

// maxSheets is how many see-through surfaces a pixel can hold; the farthest
// go first when there are more.
const maxSheets = 8

// sheet is what one see-through part adds to a pixel.
type sheet struct {
	depth float32 // 1/z: larger is nearer
	rgb   [3]float32
	alpha float32
}

// addSheets lays one see-through part, drawn into t.over, onto the pixels' lists of
// sheets. strips is the opacity of its edges.
func (r *Renderer) addSheets(t *tile, part int32, v *View, l *lights, box [4]int, strips float32) {
	w := &t.row
	facing := r.seen[part].facing
	columns := pixelsOf(box[0], box[2]-box[0]+1)
	for y := box[1]; y <= box[3]; y++ {
		some, whole, goesOn := kernel.whose(t.over.rowOf(y))
		some &= columns
		if some == 0 {
			continue
		}
		w.points.clear()
		dy := float32(v.Camera.tanV) - (float32(t.y0+y)+0.5)*r.rayDown
		for open := some; open != 0; {
			x, n := bits.TrailingZeros64(open), 1
			id := t.over.owner[(y*tileSide+x)*samples]
			if whole>>x&1 == 1 && id > 0 {
				n += bits.TrailingZeros64(^((goesOn & open) >> x >> 1))
				f := r.facetOf(t, id)
				w.points.addRun(f, r.rayAt(v, t.x0), r.rayAcross, dy, x, n, r.flatStep)
				for i := x; i < x+n; i++ {
					d := (*[samples]float32)(t.over.depth[(y*tileSide+i)*samples:])
					w.sheets[i].alpha, w.sheets[i].depth = f.finish.opacity*facing, (d[0]+d[1]+d[2]+d[3])*(1.0/samples)
				}
			} else {
				r.sheetAt(t, x, y, facing, strips, r.rayAt(v, t.x0+x), dy)
			}
			open &^= pixelsOf(x, n)
		}
		w.points.shade(l)
		w.gather()
		t.pile(y, some)
	}
}

// pile adds a row's sheets to what is there; their colours are in rgb.
func (t *tile) pile(y int, pixels uint64) {
	for ; pixels != 0; pixels &= pixels - 1 {
		x := bits.TrailingZeros64(pixels)
		if s := &t.row.sheets[x]; s.alpha > 0 {
			s.rgb = *t.row.at(x)
			t.insert(y*tileSide+x, s)
			t.covered[y] |= 1 << x
		}
	}
}

// sheetAt finds a part's sheet at a pixel that several of its faces share, all but its
// colour: for that points are noted, weighted by their opacities.
func (r *Renderer) sheetAt(t *tile, x, y int, facing, strips, dx, dy float32) {
	w := &t.row
	out, at := &w.sheets[x], (y*tileSide+x)*samples
	o, depth := (*[samples]int32)(t.over.owner[at:]), (*[samples]float32)(t.over.depth[at:])
	var opacity [samples]float32
	var sum, deep, covered float32
	for s, id := range o {
		switch {
		case id > 0:
			opacity[s] = r.finishOf(id).opacity * facing
		case id < 0:
			opacity[s] = strips
		default:
			continue
		}
		sum, deep, covered = sum+opacity[s], deep+depth[s], covered+1
	}
	out.depth, out.alpha = deep/covered, sum/samples
	if sum == 0 {
		return
	}
	*w.at(x) = [3]float32{}
	for s := 0; s < samples; {
		id, n := o[s], float32(0)
		for ; s < samples && o[s] == id; s++ {
			n += opacity[s]
		}
		switch {
		case id > 0:
			w.points.add(r.facetOf(t, id), dx, dy, n/sum, x)
		case id < 0:
			w.add(x, &r.ink, n/sum)
		}
	}
}

// finishOf returns the finish of a triangle.
func (r *Renderer) finishOf(id int32) *surface {
	part := r.scene.partOf[id]
	seen := &r.seen[part]
	if len(seen.finishes) == 1 {
		return seen.finishes[0]
	}
	p := &r.scene.parts[part]
	return seen.finishes[patchOf(r.scene.shapes[p.shape].Patches, int(id)-p.first)]
}

// insert keeps a pixel's sheets sorted from near to far.
func (t *tile) insert(at int, s *sheet) {
	n := int(t.count[at])
	if n == maxSheets {
		if s.depth <= t.sheets[n-1][at].depth {
			return
		}
		n--
	}
	i := n
	for i > 0 && t.sheets[i-1][at].depth < s.depth {
		t.sheets[i][at] = t.sheets[i-1][at]
		i--
	}
	t.sheets[i][at] = *s
	t.count[at] = uint8(n + 1)
}
