package render

import "math/bits"

// staticTile is what stands still in a tile: which faces of solid parts are nearest when
// those that move are left out, and what they look like. Where few parts move it
// saves drawing all the others again and again.
type staticTile struct {
	made     int64   // number of the picture that it was made for
	included []int32 // the parts that are in it
	solid    layer
	hiZ      [blocks * blocks]float32
	colour   [tileSide]colours
	known    [tileSide]uint64 // by row: which colours are
	shown    [tileSide]uint64 // by row: where the picture shows just that
}

// maxStaticTiles bounds the memory that static tiles take: about a quarter of a megabyte
// each.
const maxStaticTiles = 240

// staticTileOf returns the static tile of a dirty tile: one that still holds, or one to be
// made; nil where there are too many.
func (r *Renderer) staticTileOf(i int) *staticTile {
	m := &r.memory
	g := m.staticTiles[i]
	if g != nil {
		for _, k := range g.included {
			if m.changedAt[k] > g.made {
				g.made = 0
				break
			}
		}
		return g
	}
	if len(m.staticTiles) >= maxStaticTiles {
		return nil
	}
	if n := len(m.spare); n > 0 {
		g, m.spare = m.spare[n-1], m.spare[:n-1]
		g.made = 0
	} else {
		g = new(staticTile)
	}
	m.staticTiles[i] = g
	return g
}

// restoreStaticTile starts a tile from its static tile; what is left to be drawn is returned.
func (r *Renderer) restoreStaticTile(
	t *tile,
	g *staticTile,
	bins []binned,
	soiled pixelRect,
	relit bool,
) (moving []binned) {
	if g.made == 0 {
		r.makeStaticTile(t, g, bins)
	} else {
		t.solid, t.hiZ = g.solid, g.hiZ
	}
	g.forget(soiled)
	if relit {
		r.occlusion.forget(t, g)
	}
	t.moving = t.moving[:0]
	next := 0 // included parts are in the order of the bins, which may change
	for _, b := range bins {
		if next < len(g.included) && g.included[next] == b.part {
			next++
			continue
		}
		t.moving = append(t.moving, b)
	}
	if next == len(g.included) {
		return t.moving
	}
	return r.withoutIncluded(t, g, bins)
}

// withoutIncluded lists what is not in the static tile, where the order has changed.
func (r *Renderer) withoutIncluded(t *tile, g *staticTile, bins []binned) []binned {
	if t.stamp == nil {
		t.stamp = make([]int64, len(r.seen))
	}
	t.stamps++
	for _, k := range g.included {
		t.stamp[k] = t.stamps
	}
	t.moving = t.moving[:0]
	for _, b := range bins {
		if t.stamp[b.part] != t.stamps {
			t.moving = append(t.moving, b)
		}
	}
	return t.moving
}

// makeStaticTile draws the solid parts that have not changed in this picture.
func (r *Renderer) makeStaticTile(t *tile, g *staticTile, bins []binned) {
	t.clear()
	g.included = g.included[:0]
	for _, b := range bins {
		if r.memory.changedAt[b.part] == r.memory.picture || !r.seen[b.part].solid {
			continue
		}
		r.drawSolid(t, b)
		g.included = append(g.included, b.part)
	}
	g.made = r.memory.picture
	g.solid, g.hiZ = t.solid, t.hiZ
	clear(g.known[:])
	clear(g.shown[:])
}

// forget forgets what the background looks like where its shadow has changed.
func (g *staticTile) forget(soiled pixelRect) {
	if soiled.left > soiled.right {
		return
	}
	columns := pixelsOf(soiled.left, soiled.right-soiled.left+1)
	for y := soiled.top; y <= soiled.bottom; y++ {
		for background := columns & g.known[y]; background != 0; background &= background - 1 {
			x := bits.TrailingZeros64(background)
			o := (*[samples]int32)(g.solid.id[sampleAt(x, y):])
			if o[0] == noFace || o[1] == noFace || o[2] == noFace || o[3] == noFace {
				g.known[y] &^= 1 << x
				g.shown[y] &^= 1 << x
			}
		}
	}
}

// pixelRect is a rectangle of a tile's pixels, both ends included; one that ends before
// it begins is empty.
type pixelRect struct{ left, top, right, bottom int }

var emptyRect = pixelRect{tileSide, tileSide, -1, -1}

// meets reports whether a rectangle of the picture touches a tile.
func (s pixelRect) meets(t *tile) bool {
	return s.left < t.x0+t.w && s.right >= t.x0 && s.top < t.y0+t.h && s.bottom >= t.y0
}

// with returns the rectangle and the part of another rectangle that lies in the tile at
// x0, y0.
func (s pixelRect) with(left, top, right, bottom, x0, y0 int) pixelRect {
	return pixelRect{
		min(s.left, max(left-x0, 0)),
		min(s.top, max(top-y0, 0)),
		max(s.right, min(right-x0, tileSide-1)),
		max(s.bottom, min(bottom-y0, tileSide-1)),
	}
}
