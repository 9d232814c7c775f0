package render

import "math/bits"

// maxSheets is how many see-through surfaces a pixel can hold; the farthest
// go first when there are more.
const maxSheets = 8

// sheets are what see-through parts add to the pixels of a tile: one for each pixel.
type sheets struct {
	depth   [tileSide * tileSide]float32 // 1/z: larger is nearer; 0 where there is none
	r, g, b [tileSide * tileSide]float32
	alpha   [tileSide * tileSide]float32
}

// addSheets lays one see-through part, drawn into t.over, onto the pixels' piles of
// sheets. strips is the opacity of its edges.
func (r *Renderer) addSheets(t *tile, part int32, v *View, l *lights, box [4]int, strips float32) {
	w := &t.row
	facing := r.seen[part].facing
	columns := pixelsOf(box[0], box[2]-box[0]+1)
	from, to := box[0]&^1, (box[2]+2)&^1
	for y := box[1]; y <= box[3]; y++ {
		some, whole, goesOn := kernel.whose(t.over.rowOf(y), from, to)
		some &= columns
		if some == 0 {
			continue
		}
		w.points.clear()
		kernel.meanDepth(&w.depth, t.over.depthsOf(y), from, to)
		dy := float32(v.Camera.tanV) - (float32(t.y0+y)+0.5)*r.rayDown
		for open := some; open != 0; {
			x, n := lowest(open), 1
			id := t.over.owner[(y*tileSide+x)*samples]
			if whole>>x&1 == 1 && id > 0 {
				n += bits.TrailingZeros64(^((goesOn & open) >> x >> 1))
				f := r.facetOf(t, id)
				w.points.addRun(f, r.rayAt(v, t.x0), r.rayAcross, dy, x, n, r.flatStep)
				alpha := f.finish.opacity * facing
				for i := range w.alpha[x : x+n] {
					w.alpha[x+i] = alpha
				}
			} else {
				r.sheetAt(t, x, y, facing, strips, r.rayAt(v, t.x0+x), dy)
			}
			open &^= pixelsOf(x, n)
		}
		w.points.shade(l)
		w.gather()
		kernel.pile(t, y, some)
	}
}

// meanDepthPlain finds how deep pixels are whose samples all belong to somebody.
func meanDepthPlain(out *[tileSide]float32, depth *[tileSide * samples]float32, from, to int) {
	for x := from; x < to; x++ {
		d := (*[samples]float32)(depth[x*samples:])
		out[x] = ((d[0] + d[1]) + (d[2] + d[3])) * (1.0 / samples)
	}
}

// sheetAt finds a part's sheet at a pixel that several of its faces share, all but its
// colour: for that points are noted, weighted by their opacities. Of faces with one finish
// the first stands for all.
func (r *Renderer) sheetAt(t *tile, x, y int, facing, strips, dx, dy float32) {
	w := &t.row
	at := (y*tileSide + x) * samples
	o, depth := (*[samples]int32)(t.over.owner[at:]), (*[samples]float32)(t.over.depth[at:])
	var opacity [samples]float32
	var sum, deep, covered float32
	for s, id := range o {
		switch {
		case id > nobody:
			opacity[s] = r.finishOf(id).opacity * facing
		case id < nobody:
			opacity[s] = strips
		default:
			continue
		}
		sum, deep, covered = sum+opacity[s], deep+depth[s], covered+1
	}
	w.depth[x], w.alpha[x] = deep/covered, sum/samples
	if sum == 0 {
		return
	}
	w.rgb.set(x, &[3]float32{})
	var ink float32
	for s := 0; s < samples; s++ {
		switch id := o[s]; {
		case id > nobody && opacity[s] > 0:
			finish, share := r.finishOf(id), float32(0)
			for q := s; q < samples; q++ {
				if o[q] > nobody && opacity[q] > 0 && (q == s || r.finishOf(o[q]) == finish) {
					share += opacity[q]
					opacity[q] = 0
				}
			}
			w.points.add(r.facetOf(t, id), dx, dy, share/sum, x)
		case id < nobody:
			ink += opacity[s]
		}
	}
	if ink > 0 {
		w.rgb.add(x, &r.ink, ink/sum)
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

// pilePlain lays the sheets of a row's pixels onto their piles, which are sorted from near
// to far: alpha, depth and colours are those of the row.
func pilePlain(t *tile, y int, pixels uint64) {
	w := &t.row
	for ; pixels != 0; pixels &= pixels - 1 {
		x := lowest(pixels)
		if w.alpha[x] <= 0 {
			continue
		}
		t.covered[y] |= 1 << x
		at := y*tileSide + x
		depth, red, green, blue, alpha := w.depth[x], w.rgb[0][x], w.rgb[1][x], w.rgb[2][x], w.alpha[x]
		below := false // once it has found its place, all others move down
		for i := 0; i < maxSheets && alpha > 0; i++ {
			if i == int(t.levels[y]) {
				t.addLevel(y)
			}
			s := &t.sheets[i]
			if below = below || depth > s.depth[at]; below {
				depth, s.depth[at] = s.depth[at], depth
				red, s.r[at] = s.r[at], red
				green, s.g[at] = s.g[at], green
				blue, s.b[at] = s.b[at], blue
				alpha, s.alpha[at] = s.alpha[at], alpha
			}
		}
	}
}

// addLevel makes one more sheet a pixel possible in a row.
func (t *tile) addLevel(y int) {
	s := &t.sheets[t.levels[y]]
	clear(s.depth[y*tileSide : (y+1)*tileSide])
	clear(s.alpha[y*tileSide : (y+1)*tileSide])
	t.levels[y]++
}

// blendPlain lays a row's sheets over what is behind them, from far to near.
func blendPlain(c *colours, t *tile, y int) {
	for covered := t.covered[y]; covered != 0; covered &= covered - 1 {
		x := lowest(covered)
		at := y*tileSide + x
		for i := int(t.levels[y]) - 1; i >= 0; i-- {
			s := &t.sheets[i]
			a := s.alpha[at]
			c[0][x] += (s.r[at] - c[0][x]) * a
			c[1][x] += (s.g[at] - c[1][x]) * a
			c[2][x] += (s.b[at] - c[2][x]) * a
		}
	}
}
