package render

import "slowreveal/core/look"

// quad is four cells between whose middles pixels lie.
type quad struct {
	at     [4]int32 // upper left, upper right, lower left, lower right
	bright bool     // nothing is dark there
	// 1/z between which a surface is that of all four; nothing is between where they are not one surface
	nearest, least float32
	dark           [4]float32
}

// oneSurface is how far apart four cells are at most, as a share of the reach, to be one surface, and how far a pixel
// may be from them.
const oneSurface = 0.2

func (o *occlusion) quadAt(x, y *between, v *View) (q quad) {
	first, last := y.first*int32(o.across), y.last*int32(o.across)
	q.at = [4]int32{first + x.first, first + x.last, last + x.first, last + x.last}
	if q.bright = o.dark[q.at[0]]|o.dark[q.at[1]]|o.dark[q.at[2]]|o.dark[q.at[3]] == 0; q.bright {
		return q
	}
	a, b, c, d := o.z[q.at[0]], o.z[q.at[1]], o.z[q.at[2]], o.z[q.at[3]]
	near, far := min(a, b, c, d), max(a, b, c, d)
	for i, k := range q.at {
		q.dark[i] = float32(occluding.Strength/255) * float32(o.dark[k])
	}
	if apart := oneSurface * o.reach; near > apart && far-near < apart {
		q.nearest, q.least = v.Camera.deep(near-apart), v.Camera.deep(far+apart)
	}
	return q
}

// deep is 1/z of the bent space at a distance in front of the eye, mm.
func (c *viewCamera) deep(z float32) float32 {
	if c.orthographic {
		return float32(((c.distance-float64(z))/c.depth + 1) / c.distance)
	}
	return 1 / z
}

// left returns the share of its brightness that is left to a surface at a pixel, 1/z given.
func (o *occlusion) left(q *quad, x, y, w float32, v *View) float32 {
	if q.bright {
		return 1
	}
	if w <= q.nearest && w >= q.least {
		from := q.dark[0] + (q.dark[2]-q.dark[0])*y
		return 1 - (from + (q.dark[1]+(q.dark[3]-q.dark[1])*y-from)*x)
	}
	share := [4]float32{(1 - x) * (1 - y), x * (1 - y), (1 - x) * y, x * y}
	z, sum, dark := float32(v.Camera.cameraDistance(w)), float32(0), float32(0)
	for i, k := range q.at {
		if o.z[k] == 0 {
			continue
		}
		apart := o.z[k] - z
		weight := share[i] * (max(1-look.OcclusionApart*max(apart, -apart)/o.reach, 0) + look.OcclusionRest)
		sum += weight
		dark += weight * q.dark[i]
	}
	if sum == 0 {
		return 1
	}
	return 1 - dark/sum
}

// occludeRow darkens pixels of a row that one surface covers wholly.
func (r *Renderer) occludeRow(t *tile, y int, set uint64, v *View) {
	o, w := &r.occlusion, &t.row
	if !o.on || set == 0 {
		return
	}
	down := &o.ys.at[t.y0+y]
	runs := o.xs.runs[t.x0/tileSide]
	// rows share them for a while
	if t.quadsOf != r.memory.picture || t.quadsAt != [2]int32{int32(t.x0), down.first + down.last} {
		t.quadsOf, t.quadsAt, t.quads = r.memory.picture, [2]int32{int32(t.x0), down.first + down.last}, t.quads[:0]
		for i := range runs {
			t.quads = append(t.quads, o.quadAt(&runs[i].between, down, v))
		}
	}
	first, last, near := int32(1), int32(0), false // of the part that was looked at last
	for i := range runs {
		q, pixels := &t.quads[i], set&runs[i].set
		if q.bright || pixels == 0 {
			continue
		}
		from := q.dark[0] + (q.dark[2]-q.dark[0])*down.share
		rise := q.dark[1] + (q.dark[3]-q.dark[1])*down.share - from
		for ; pixels != 0; pixels &= pixels - 1 {
			x := lowest(pixels)
			at := sampleAt(x, y)
			if id := t.solid.id[at]; id < first || id > last {
				first, last = r.alike(id)
				near = r.seen[r.scene.partOf[id]].near
			}
			if !near {
				continue
			}
			share, depth := o.xs.at[t.x0+x].share, t.solid.inverseZ[at]
			left := 1 - (from + rise*share)
			if depth > q.nearest || depth < q.least {
				left = o.left(q, share, down.share, depth, v)
			}
			w.rgb[0][x] *= left
			w.rgb[1][x] *= left
			w.rgb[2][x] *= left
		}
	}
}

// leftAt returns the share of its brightness that is left to what is nearest at a sample of a pixel.
func (r *Renderer) leftAt(t *tile, x, y, sample int, v *View) float32 {
	o := &r.occlusion
	if !o.on || !r.seen[r.scene.partOf[t.solid.id[sample]]].near {
		return 1
	}
	across, down := &o.xs.at[t.x0+x], &o.ys.at[t.y0+y]
	q := o.quadAt(across, down, v)
	return o.left(&q, across.share, down.share, t.solid.inverseZ[sample], v)
}
