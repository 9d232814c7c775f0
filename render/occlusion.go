package render

import (
	"math"

	"slowreveal/core/look"
)

// occlusion is how dark surfaces are because others come near them: a map over the whole picture, in cells that are
// larger than pixels of large pictures. See look.Occlusion. It is found tile by tile, where something has changed.
type occlusion struct {
	across, down int
	cell         float64 // its side in pixels
	reach        float32 // mm
	on           bool
	columns      []span // by column of tiles: which cells have their middles there
	rows         []span
	xs, ys       sidePixels
	middles      []int32   // of cells, across or down, in 1/256 pixel
	faces        []onCell  // what is nearest in the middle of each cell, among what is solid
	z            []float32 // how far in front of the eye that is, mm; 0 where there is nothing
	deep, was    []float32 // 1/z there; in the picture before
	rough        []float32 // how dark cells are by themselves
	dark, before []uint8   // smoothed, 0…255; in the picture before
	nearest      []float32 // by tile: the least z, 0 where there is none
	moved        []bool    // by tile: whether something is elsewhere in it than in the picture before
	// by column and row: where cells are seen, as slopes, or as mm where lines of sight are parallel
	right, up []float32
}

// onCell is a face on a cell: 1/z grows by wx and wy in 1/256 pixel.
type onCell struct {
	w, wx, wy float32
	id        int32
	n         [3]float32 // its normal, towards the eye, in the camera's frame
}

// sidePixels is how the pixels along one side of the picture and the cells lie.
type sidePixels struct {
	at   []between // by pixel
	next []int32   // by pixel: the first cell whose middle lies in it or beyond
	last []int32   // by pixel: the last cell whose middle lies in it or before
	runs [][]run   // by tile
}

// run is pixels of a tile that lie between the same cells.
type run struct {
	between
	set uint64
}

// span is from a first one to before a last one.
type span struct{ first, end int }

// between is where a pixel lies among the middles of cells.
type between struct {
	first, last int32
	share       float32 // of the last
}

var occluding = &look.Default.Occlusion

func (s *Scene) newOcclusion(width, height int) occlusion {
	across, down := occluding.Grid(width, height)
	n, tiles := across*down, tilesOf(width)*tilesOf(height)
	o := occlusion{
		across:  across,
		down:    down,
		cell:    float64(min(width, height)) / float64(occluding.Cells),
		reach:   float32(occluding.Reach * s.depth / orthographicDepth),
		faces:   make([]onCell, n),
		z:       make([]float32, n),
		deep:    make([]float32, n),
		was:     make([]float32, n),
		rough:   make([]float32, n),
		dark:    make([]uint8, n),
		before:  make([]uint8, n),
		nearest: make([]float32, tiles),
		moved:   make([]bool, tiles),
		right:   make([]float32, across),
		up:      make([]float32, down),
	}
	for i := range max(across, down) {
		o.middles = append(o.middles, int32((float64(i)+0.5)*o.cell*subPixel))
	}
	o.columns, o.xs = o.along(width, across)
	o.rows, o.ys = o.along(height, down)
	return o
}

// along divides one side of the picture: which cells have their middles in which tile, and where pixels lie.
func (o *occlusion) along(pixels, cells int) (list []span, side sidePixels) {
	for at := 0; at < pixels; at += tileSide {
		first, end := math.Ceil(float64(at)/o.cell-0.5), math.Ceil(float64(at+tileSide)/o.cell-0.5)
		list = append(list, span{max(int(first), 0), min(int(end), cells)})
	}
	list[len(list)-1].end = cells
	next := 0
	for i := range pixels {
		at := (float64(i)+0.5)/o.cell - 0.5
		first := math.Floor(at)
		b := between{max(int32(first), 0), min(int32(first)+1, int32(cells-1)), float32(at - first)}
		for next < cells && int(o.middles[next]) < i*subPixel {
			next++
		}
		last := next - 1
		for last+1 < cells && int(o.middles[last+1]) < (i+1)*subPixel {
			last++
		}
		side.at = append(side.at, b)
		side.next = append(side.next, int32(next))
		side.last = append(side.last, int32(last))
		if i%tileSide == 0 {
			side.runs = append(side.runs, nil)
		}
		runs := &side.runs[len(side.runs)-1]
		if n := len(*runs); n == 0 || (*runs)[n-1].first != b.first || (*runs)[n-1].last != b.last {
			*runs = append(*runs, run{between: b})
		}
		(*runs)[len(*runs)-1].set |= 1 << (i % tileSide)
	}
	return list, side
}

// occlude finds the map of the picture, and marks the tiles in which surfaces are darkened otherwise than before.
func (r *Renderer) occlude(v *View) {
	o, m := &r.occlusion, &r.memory
	o.on = !v.Unoccluded
	if !o.on {
		clear(m.relit)
		return
	}
	copy(o.was, o.deep)
	copy(o.before, o.dark)
	o.aim(r, v)
	r.each(len(r.bins), func(_, i int) {
		if o.moved[i] = false; m.dirty[i] {
			o.moved[i] = r.findCells(i, v)
		}
	})
	reach := o.farthest(r, v)
	r.each(len(r.bins), func(_, i int) {
		if r.movedAround(i, reach) {
			o.darken(i, v, r)
		}
	})
	r.each(len(r.bins), func(_, i int) {
		if r.movedAround(i, reach+1) {
			o.smooth(i, r)
		}
	})
	r.each(len(r.bins), func(_, i int) {
		m.relit[i] = m.steady && len(r.bins[i]) > 0 && r.movedAround(i, reach+2) && o.changed(i, r)
		m.dirty[i] = m.dirty[i] || m.relit[i]
	})
}

// aim tells where cells are seen.
func (o *occlusion) aim(r *Renderer, v *View) {
	across, up := v.Camera.tanH, v.Camera.tanV
	if v.Camera.orthographic {
		across, up = across*v.Camera.distance, up*v.Camera.distance
	}
	for x := range o.right {
		o.right[x] = float32(((float64(x)+0.5)*o.cell/float64(r.width)*2 - 1) * across)
	}
	for y := range o.up {
		o.up[y] = float32((1 - (float64(y)+0.5)*o.cell/float64(r.height)*2) * up)
	}
}

// cellsIn returns the columns and rows of the cells in a tile.
func (r *Renderer) cellsIn(tile int) (columns, rows span) {
	return r.occlusion.columns[tile%r.across], r.occlusion.rows[tile/r.across]
}

// scale is how many cells a slope of 1 covers.
func (o *occlusion) scale(r *Renderer, v *View) float32 {
	return float32(float64(r.height) / 2 / o.cell / v.Camera.tanV)
}

// farthest is how many tiles away what darkens a cell may be.
func (o *occlusion) farthest(r *Renderer, v *View) int {
	least := float32(math.MaxFloat32)
	for _, z := range o.nearest {
		if z > 0 {
			least = min(least, z)
		}
	}
	if v.Camera.orthographic {
		least = float32(v.Camera.distance)
	}
	cells := min(o.reach*o.scale(r, v)/least, float32(occluding.Most)) + 1
	return int(float64(cells)*o.cell)/tileSide + 1
}

// movedAround reports whether something has moved within some tiles of one.
func (r *Renderer) movedAround(tile, reach int) bool {
	x, y := tile%r.across, tile/r.across
	for ty := max(y-reach, 0); ty <= min(y+reach, r.down-1); ty++ {
		for tx := max(x-reach, 0); tx <= min(x+reach, r.across-1); tx++ {
			if r.occlusion.moved[ty*r.across+tx] {
				return true
			}
		}
	}
	return false
}

// findCells finds what is nearest in the cells of a tile; it tells whether that is something else than before.
func (r *Renderer) findCells(tile int, v *View) (moved bool) {
	o := &r.occlusion
	columns, rows := r.cellsIn(tile)
	for y := rows.first; y < rows.end; y++ {
		clear(o.faces[y*o.across+columns.first : y*o.across+columns.end])
	}
	for _, b := range r.bins[tile] {
		s := &r.seen[b.part]
		if !s.near {
			continue
		}
		for _, run := range b.faces {
			if run.index < s.strips {
				o.rasterise(&s.faces[run.index], columns, rows)
			}
		}
	}
	w, nearest := r.viewport(v), float32(0)
	for y := rows.first; y < rows.end; y++ {
		for at := y*o.across + columns.first; at < y*o.across+columns.end; at++ {
			c := &o.faces[at]
			o.z[at], o.deep[at] = 0, c.w
			if c.w > 0 {
				z := float32(v.Camera.cameraDistance(c.w))
				o.z[at] = z
				if nearest == 0 || z < nearest {
					nearest = z
				}
				c.turn(&v.Camera, float64(o.right[at-y*o.across]), float64(o.up[y]), &w)
			}
			moved = moved || o.deep[at] != o.was[at]
		}
	}
	o.nearest[tile] = nearest
	return moved
}

// rasterise draws a face into the cells of a tile whose middles it covers.
func (o *occlusion) rasterise(f *face, columns, rows span) {
	// Most faces are smaller than a cell and lie between the middles.
	left, right := max(int(o.xs.next[f.left]), columns.first), min(int(o.xs.last[f.right]), columns.end-1)
	if left > right {
		return
	}
	top, bottom := max(int(o.ys.next[f.top]), rows.first), min(int(o.ys.last[f.bottom]), rows.end-1)
	if top > bottom {
		return
	}
	var a, b, c [sides]int64
	for i := range sides {
		p, q := around[i], around[(i+1)%sides]
		a[i], b[i] = int64(f.y[p]-f.y[q]), int64(f.x[q]-f.x[p])
		c[i] = -(a[i]*int64(f.x[p]) + b[i]*int64(f.y[p]))
	}
	ax, ay, bx, by := float64(f.x[1]-f.x[0]), float64(f.y[1]-f.y[0]), float64(f.x[2]-f.x[0]), float64(f.y[2]-f.y[0])
	inverse := 1 / (ax*by - bx*ay)
	w0, w1, w2 := float64(f.w[0]), float64(f.w[1]), float64(f.w[2])
	dx, dy := ((w1-w0)*by-(w2-w0)*ay)*inverse, ((w2-w0)*ax-(w1-w0)*bx)*inverse
	least, most := f.reach()
	for y := top; y <= bottom; y++ {
		sy := int64(o.middles[y])
		for x := left; x <= right; x++ {
			sx := int64(o.middles[x])
			if a[0]*sx+b[0]*sy+c[0] < 0 || a[1]*sx+b[1]*sy+c[1] < 0 || a[2]*sx+b[2]*sy+c[2] < 0 ||
				a[3]*sx+b[3]*sy+c[3] < 0 {
				continue
			}
			w := min(max(float32(w0+dx*float64(sx-int64(f.x[0]))+dy*float64(sy-int64(f.y[0]))), least), most)
			if into := &o.faces[y*o.across+x]; w > into.w || w == into.w && f.id > into.id {
				into.w, into.wx, into.wy, into.id = w, float32(dx), float32(dy), f.id
			}
		}
	}
}

// turn finds which way the face in a cell looks. right and up are where the cell is seen.
func (c *onCell) turn(camera *viewCamera, right, up float64, s *viewport) {
	wx, wy := float64(c.wx)*s.sx, -float64(c.wy)*s.sy
	n := [3]float64{-wx, -wy, float64(c.w) - right*wx - up*wy}
	if camera.orthographic {
		n = [3]float64{-camera.depth * wx, -camera.depth * wy, 1}
	}
	k := 1 / math.Sqrt(n[0]*n[0]+n[1]*n[1]+n[2]*n[2])
	c.n = [3]float32{float32(n[0] * k), float32(n[1] * k), float32(n[2] * k)}
}

// darken finds how dark the cells of a tile are by themselves.
func (o *occlusion) darken(tile int, v *View, r *Renderer) {
	columns, rows := r.cellsIn(tile)
	scale, parallel := o.scale(r, v)*o.reach, v.Camera.orthographic
	bias, square := float32(occluding.Bias), o.reach*o.reach
	for y := rows.first; y < rows.end; y++ {
		for x := columns.first; x < columns.end; x++ {
			at := y*o.across + x
			z := o.z[at]
			o.rough[at] = 0
			if z == 0 {
				continue
			}
			far, k := z, z
			if parallel {
				far, k = float32(v.Camera.distance), 1
			}
			// Quarters of cells: the places to look at are known for each.
			quarters := int(min(scale/far, float32(occluding.Most))*4 + 0.5)
			if quarters < 4*look.OcclusionFirst {
				continue
			}
			n := &o.faces[at].n
			px, py, sum := o.right[x]*k, o.up[y]*k, float32(0)
			for _, tap := range &tapsAt[quarters] {
				tx, ty := x+int(tap[0]), y+int(tap[1])
				if uint(tx) >= uint(o.across) || uint(ty) >= uint(o.down) {
					continue
				}
				q := o.z[ty*o.across+tx]
				k := q
				if q == 0 {
					continue
				}
				if parallel {
					k = 1
				}
				dx, dy, dz := o.right[tx]*k-px, o.up[ty]*k-py, z-q
				up := dx*n[0] + dy*n[1] + dz*n[2]
				if far := dx*dx + dy*dy + dz*dz; up > 0 && far < square {
					if up = up/root(far) - bias; up > 0 {
						sum += up * (1 - far/square)
					}
				}
			}
			sum *= float32(occluding.Gain/look.OcclusionTaps) * min(
				(float32(quarters)/4-look.OcclusionFirst)/look.OcclusionFirst,
				1,
			)
			o.rough[at] = min(max(sum-float32(occluding.Least), 0), 1)
		}
	}
}

// tapsAt are where it is looked, in cells to the right and down, by the reach in quarters of a cell.
var tapsAt = func() (list [][look.OcclusionTaps][2]int8) {
	for quarters := range int(4*occluding.Most) + 1 {
		var at [look.OcclusionTaps][2]int8
		for i, tap := range occluding.Taps {
			reach := float64(quarters) / 4
			at[i] = [2]int8{int8(math.Floor(tap[0]*reach + 0.5)), int8(-math.Floor(tap[1]*reach + 0.5))}
		}
		list = append(list, at)
	}
	return list
}()

// smooth takes the mean of the cells of a tile and those around them that are as deep.
func (o *occlusion) smooth(tile int, r *Renderer) {
	columns, rows := r.cellsIn(tile)
	for y := rows.first; y < rows.end; y++ {
		for x := columns.first; x < columns.end; x++ {
			at := y*o.across + x
			o.dark[at] = 0
			if o.z[at] == 0 {
				continue
			}
			sum, dark := float32(0), float32(0)
			for dy := max(y-1, 0); dy <= min(y+1, o.down-1); dy++ {
				for dx := max(x-1, 0); dx <= min(x+1, o.across-1); dx++ {
					k := dy*o.across + dx
					if o.z[k] == 0 {
						continue
					}
					apart := o.z[k] - o.z[at]
					weight := smoothing[(dy-y)*(dy-y)+(dx-x)*(dx-x)] * max(
						1-look.OcclusionApart*max(apart, -apart)/o.reach,
						0,
					)
					sum += weight
					dark += weight * o.rough[k]
				}
			}
			o.dark[at] = uint8(dark/sum*255 + 0.5)
		}
	}
}

// smoothing is how much a cell counts, by the square of how far it is: a binomial filter.
var smoothing = [3]float32{4, 2, 1}

// changed reports whether surfaces in a tile may be darkened otherwise than in the picture before.
func (o *occlusion) changed(tile int, r *Renderer) bool {
	for _, y := range o.ys.runs[tile/r.across] {
		for _, x := range o.xs.runs[tile%r.across] {
			if o.other(&x.between, &y.between) {
				return true
			}
		}
	}
	return false
}

// other reports whether surfaces between four cells may be darkened otherwise than in the picture before.
func (o *occlusion) other(x, y *between) bool {
	above, below := int(y.first)*o.across, int(y.last)*o.across
	some, changed := false, false
	for _, at := range [4]int{above + int(x.first), above + int(x.last), below + int(x.first), below + int(x.last)} {
		some = some || o.dark[at]|o.before[at] != 0
		changed = changed || o.dark[at] != o.before[at] || o.deep[at] != o.was[at]
	}
	return some && changed
}

// forget forgets what a static tile looks like where it may be darkened otherwise.
func (o *occlusion) forget(t *tile, g *staticTile) {
	for _, y := range o.ys.runs[t.y0/tileSide] {
		keep := ^uint64(0)
		for _, x := range o.xs.runs[t.x0/tileSide] {
			if o.other(&x.between, &y.between) {
				keep &^= x.set
			}
		}
		for rows := y.set; rows != 0 && keep != ^uint64(0); rows &= rows - 1 {
			g.known[lowest(rows)] &= keep
			g.shown[lowest(rows)] &= keep
		}
	}
}
