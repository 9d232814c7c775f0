//go:build goexperiment.simd && amd64

package render

// The loops over a row's samples, eight pixels at once.

// oneOn moves eight numbers one on, the last to the front.
var oneOn = [lanes]uint32{7, 0, 1, 2, 3, 4, 5, 6}

// pixelOrder is where pixels stand while they are told apart: 0, 2, 4, 6, 1, 3, 5, 7.
var pixelOrder = [lanes]uint32{0, 4, 1, 5, 2, 6, 3, 7}

// quarter is a sample's share of a pixel.
var quarter float32 = 1.0 / samples

// whoseAVX2 is whosePlain.
//
//go:noescape
func whoseAVX2(owner *[tileSide * samples]int32) (whole, goesOn, paper, ink uint64)

// alikeAVX2 is alikePlain.
//
//go:noescape
func alikeAVX2(a, b *[tileSide * samples]int32) (alike uint64)

// lookAtSheetVectors is lookAtSheetPlain.
func lookAtSheetVectors(deep *[tileSide]float32, owner *[tileSide * samples]int32, depth *[tileSide * samples]float32, from, to int) (some, full, goesOn uint64) {
	some, full, goesOn = lookAtSheetAVX2(deep, owner, depth, from, to)
	asked := pixelsOf(from, to-from)
	return some & asked, full & asked, goesOn & asked &^ (1 << from)
}

// lookAtSheetAVX2 is the same for groups of eight pixels.
//
//go:noescape
func lookAtSheetAVX2(deep *[tileSide]float32, owner *[tileSide * samples]int32, depth *[tileSide * samples]float32, from, to int) (some, full, goesOn uint64)

// farthestVectors is farthestOf.
func farthestVectors(l *layer, x0, y0, y1 int) float32 {
	at := sampleAt(x0, y0)
	_ = l.depth[at+(y1-y0-1)*rowStride+blockSide*samples-1] // all that is reached is there
	return farthestAVX2(&l.depth[at], y1-y0)
}

// farthestAVX2 returns the least of the depths in rows of a block, which begin one below
// another.
//
//go:noescape
func farthestAVX2(first *float32, rows int) float32
