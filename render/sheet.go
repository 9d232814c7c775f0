package render

import (
	"math/bits"

	"slowreveal/core/look"
)

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
	facing, ink := r.seen[part].facing, r.inkOfPart(part, v)
	columns := pixelsOf(box[0], box[2]-box[0]+1)
	from, to := box[0]&^1, (box[2]+2)&^1
	for y := box[1]; y <= box[3]; y++ {
		some, full, goesOn := kernel.lookAtSheet(&w.depth, t.over.rowOf(y), t.over.depthsOf(y), from, to)
		some &= columns
		if some == 0 {
			continue
		}
		w.begin(float32(v.Camera.tanV) - (float32(t.y0+y)+0.5)*r.rayDown)
		goesOn &= full << 1
		for open := some; open != 0; {
			x, n := lowest(open), 1
			if full>>x&1 == 1 {
				n += bits.TrailingZeros64(^((goesOn & full & open) >> x >> 1))
				f := r.facetOf(t, t.over.owner[sampleAt(x, y)])
				w.points.addRun(f, x, n, r.flatStep)
				alpha := f.finish.opacity * facing
				for i := x; i < x+n; i++ {
					w.alpha[i] = alpha
					if f.finish.opacity < 1 {
						w.alpha[i] = facing * f.rim(w.points.normalAt(f, i), w.points.dx[i], w.points.height, l)
					}
				}
			} else {
				r.sheetAt(t, x, y, facing, strips, &ink, l)
			}
			open &^= pixelsOf(x, n)
		}
		w.points.shade(l)
		w.gather()
		kernel.pile(t, y, some)
	}
}

// lookAtSheetPlain tells which pixels have some of a part, which are full of its faces, and
// which begin with the same owner as the pixel before, but for the first. It finds how deep
// the full ones are.
func lookAtSheetPlain(
	deep *[tileSide]float32,
	owner *[tileSide * samples]int32,
	depth *[tileSide * samples]float32,
	from, to int,
) (some, full, goesOn uint64) {
	for x := from; x < to; x++ {
		o, d := (*[samples]int32)(owner[x*samples:]), (*[samples]float32)(depth[x*samples:])
		if *o != [samples]int32{} {
			some |= 1 << x
		}
		if o[0] > nobody && o[1] > nobody && o[2] > nobody && o[3] > nobody {
			full |= 1 << x
			deep[x] = ((d[0] + d[1]) + (d[2] + d[3])) * (1.0 / samples)
		}
		if x > from && o[0] == owner[(x-1)*samples] {
			goesOn |= 1 << x
		}
	}
	return some, full, goesOn
}

// normalAt is the normal of a facet at a pixel of a run that was added.
func (p *points) normalAt(f *facet, i int) *[3]float32 {
	if f.flat {
		return &f.n
	}
	return p.normalOf(i)
}

func (p *points) normalOf(i int) *[3]float32 { return &[3]float32{p.nx[i], p.ny[i], p.nz[i]} }

// rim is the opacity of a see-through facet along a ray: clear things have one where they are seen along their surface.
// See docs/look.md.
func (f *facet) rim(n *[3]float32, dx, dy float32, l *lights) float32 {
	dx, dy = dx*l.perspective, dy*l.perspective
	facing := n[2] - n[0]*dx - n[1]*dy
	square := facing * facing / max((n[0]*n[0]+n[1]*n[1]+n[2]*n[2])*(dx*dx+dy*dy+1), tiny)
	g := positive(1 - root(square))
	return f.finish.opacity + (1-f.finish.opacity)*float32(look.Paper.Rim)*(g*g*g)
}

// sheetAt finds a part's sheet at a pixel that is not full of its faces, all but their
// colour: for that a point is noted. The first of them stands for all.
func (r *Renderer) sheetAt(t *tile, x, y int, facing, strips float32, lines *[3]float32, l *lights) {
	w, at := &t.row, sampleAt(x, y)
	var f *facet
	var faces, inks, deep float32
	depth := (*[samples]float32)(t.over.depth[at:])
	for s, id := range t.over.owner[at : at+samples] {
		switch {
		case id == nobody:
			continue
		case id < nobody:
			inks++
		case f == nil:
			f = r.facetOf(t, id)
			fallthrough
		default:
			faces++
		}
		deep += depth[s]
	}
	w.depth[x] = deep / (faces + inks)
	if faces > 0 {
		opacity := f.finish.opacity
		if opacity < 1 {
			n := &f.n
			if !f.flat {
				i := w.points.n // of the point that is added below
				w.points.dx[i] = w.points.dx[x]
				kernel.normals(&w.points, f, i, 1)
				n = w.points.normalOf(i)
			}
			opacity = f.rim(n, w.points.dx[x], w.points.height, l)
		}
		faces *= opacity * facing
	}
	ink := inks * strips
	sum := faces + ink
	w.alpha[x] = sum * (1.0 / samples)
	if sum == 0 {
		return
	}
	share := ink / sum
	w.share(x, &[3]float32{lines[0] * share, lines[1] * share, lines[2] * share})
	if faces > 0 {
		w.points.add(f, faces/sum, x)
	}
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
