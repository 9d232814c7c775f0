//go:build !purego

package render

// pileVectors is pilePlain.
func pileVectors(t *tile, y int, pixels uint64) {
	if pixels == 0 {
		return
	}
	room := t.levels[y]
	if room < maxSheets { // a pixel's pile grows by one at most
		t.addLevel(y)
	}
	covered, deepest := pileAVX2(&t.sheets[0], int(t.levels[y]), &t.row, y*tileSide, pixels)
	t.covered[y] |= covered
	t.levels[y] = max(room, uint8(deepest))
}

// pileAVX2 lays a row's sheets onto the piles of its pixels, the first of which stands at a place of
// so many levels; deepest is how many of these were reached.
//
//go:noescape
func pileAVX2(levels *sheets, count int, w *row, at int, pixels uint64) (covered uint64, deepest int)

// blendVectors is blendPlain.
func blendVectors(c *colours, t *tile, y int) {
	if n := int(t.levels[y]); n > 0 {
		blendAVX2(c, &t.sheets[n-1], n, y*tileSide, t.covered[y])
	}
}

// blendAVX2 lays so many levels over a row, whose first pixel stands at a place of them.
//
//go:noescape
func blendAVX2(c *colours, farthest *sheets, count, at int, covered uint64)
