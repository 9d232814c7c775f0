package render

import (
	"math/bits"

	"slowreveal/core/look"
)

// maxFragments is how many see-through surfaces a pixel can hold; the farthest
// go first when there are more.
const maxFragments = 8

// fragments are what see-through parts add to the pixels of a tile: one for each pixel.
type fragments struct {
	inverseZ [tileSide * tileSide]float32 // 1/z: larger is nearer; 0 where there is none
	r, g, b  [tileSide * tileSide]float32
	alpha    [tileSide * tileSide]float32
}

// addFragments lays one see-through part, drawn into t.over, onto the pixels' lists of
// fragments. strips is the opacity of its edges.
func (r *Renderer) addFragments(t *tile, part int32, v *View, l *lights, box [4]int, strips float32) {
	w := &t.row
	facing, ink := r.seen[part].facing, r.inkOfPart(part, v)
	columns := pixelsOf(box[0], box[2]-box[0]+1)
	from, to := box[0]&^1, (box[2]+2)&^1
	for y := box[1]; y <= box[3]; y++ {
		some, full, goesOn := kernel.classifyTransparent(&w.depth, t.over.rowOf(y), t.over.depthsOf(y), from, to)
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
				f := r.triangleSetupOf(t, t.over.id[sampleAt(x, y)])
				w.points.addRun(f, x, n, r.flatStep)
				alpha := f.finish.opacity * facing
				for i := x; i < x+n; i++ {
					w.alpha[i] = alpha
					if f.finish.opacity < 1 {
						w.alpha[i] = facing * f.rim(w.points.normalAt(f, i), w.points.dx[i], w.points.height, l)
					}
				}
			} else {
				r.fragmentAt(t, x, y, facing, strips, &ink, l)
			}
			open &^= pixelsOf(x, n)
		}
		w.points.shade(l)
		w.gather()
		kernel.insert(t, y, some)
	}
}

// classifyTransparentPlain tells which pixels have some of a part, which are full of its faces, and
// which begin with the same face id as the pixel before, but for the first. It finds how deep
// the full ones are.
func classifyTransparentPlain(
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
		if o[0] > noFace && o[1] > noFace && o[2] > noFace && o[3] > noFace {
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
func (p *shadingSamples) normalAt(f *triangleSetup, i int) *[3]float32 {
	if f.flat {
		return &f.n
	}
	return p.normalOf(i)
}

func (p *shadingSamples) normalOf(i int) *[3]float32 { return &[3]float32{p.nx[i], p.ny[i], p.nz[i]} }

// rim is the opacity of a see-through facet along a ray: clear things have one where they are seen along their surface.
// See docs/look.md.
func (f *triangleSetup) rim(n *[3]float32, dx, dy float32, l *lights) float32 {
	dx, dy = dx*l.perspective, dy*l.perspective
	facing := n[2] - n[0]*dx - n[1]*dy
	square := facing * facing / max((n[0]*n[0]+n[1]*n[1]+n[2]*n[2])*(dx*dx+dy*dy+1), tiny)
	g := positive(1 - root(square))
	return f.finish.opacity + (1-f.finish.opacity)*float32(look.Default.Rim)*(g*g*g)
}

// fragmentAt finds a part's fragment at a pixel that is not full of its faces, all but their
// colour: for that a point is noted. The first of them stands for all.
func (r *Renderer) fragmentAt(t *tile, x, y int, facing, strips float32, lines *[3]float32, l *lights) {
	w, at := &t.row, sampleAt(x, y)
	var f *triangleSetup
	var faces, inks, deep float32
	depth := (*[samples]float32)(t.over.inverseZ[at:])
	for s, id := range t.over.id[at : at+samples] {
		switch {
		case id == noFace:
			continue
		case id < noFace:
			inks++
		case f == nil:
			f = r.triangleSetupOf(t, id)
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

// insertPlain lays the fragments of a row's pixels onto their lists, which are sorted from near
// to far: alpha, depth and colours are those of the row.
func insertPlain(t *tile, y int, pixels uint64) {
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
		for i := 0; i < maxFragments && alpha > 0; i++ {
			if i == int(t.fragmentCounts[y]) {
				t.addFragment(y)
			}
			s := &t.fragments[i]
			if below = below || depth > s.inverseZ[at]; below {
				depth, s.inverseZ[at] = s.inverseZ[at], depth
				red, s.r[at] = s.r[at], red
				green, s.g[at] = s.g[at], green
				blue, s.b[at] = s.b[at], blue
				alpha, s.alpha[at] = s.alpha[at], alpha
			}
		}
	}
}

// addFragment makes one more fragment a pixel possible in a row.
func (t *tile) addFragment(y int) {
	s := &t.fragments[t.fragmentCounts[y]]
	clear(s.inverseZ[y*tileSide : (y+1)*tileSide])
	clear(s.alpha[y*tileSide : (y+1)*tileSide])
	t.fragmentCounts[y]++
}

// blendPlain lays a row's fragments over what is behind them, from far to near.
func blendPlain(c *colours, t *tile, y int) {
	for covered := t.covered[y]; covered != 0; covered &= covered - 1 {
		x := lowest(covered)
		at := y*tileSide + x
		for i := int(t.fragmentCounts[y]) - 1; i >= 0; i-- {
			s := &t.fragments[i]
			a := s.alpha[at]
			c[0][x] += (s.r[at] - c[0][x]) * a
			c[1][x] += (s.g[at] - c[1][x]) * a
			c[2][x] += (s.b[at] - c[2][x]) * a
		}
	}
}
