//go:build !purego

package render

// insertVectors is pilePlain.
func insertVectors(t *tile, y int, pixels uint64) {
	if pixels == 0 {
		return
	}
	room := t.fragmentCounts[y]
	if room < maxFragments { // a pixel's list grows by one at most
		t.addFragment(y)
	}
	covered, deepest := insertAVX2(&t.fragments[0], int(t.fragmentCounts[y]), &t.row, y*tileSide, pixels)
	t.covered[y] |= covered
	t.fragmentCounts[y] = max(room, uint8(deepest))
}

// insertAVX2 lays a row's fragments onto the lists of its pixels, the first of which stands at a place of
// so many levels; deepest is how many of these were reached.
//
//go:noescape
func insertAVX2(levels *fragments, count int, w *row, at int, pixels uint64) (covered uint64, deepest int)

// blendVectors is blendPlain.
func blendVectors(c *colours, t *tile, y int) {
	if n := int(t.fragmentCounts[y]); n > 0 {
		blendAVX2(c, &t.fragments[n-1], n, y*tileSide, t.covered[y])
	}
}

// blendAVX2 lays so many levels over a row, whose first pixel stands at a place of them.
//
//go:noescape
func blendAVX2(c *colours, farthest *fragments, count, at int, covered uint64)
