//go:build !purego

package render

// The loops over a row's samples, eight pixels at once.

// oneOn moves eight numbers one on, the last to the front.
var oneOn = [lanes]uint32{7, 0, 1, 2, 3, 4, 5, 6}

// pixelOrder is where pixels stand while they are told apart: 0, 2, 4, 6, 1, 3, 5, 7.
var pixelOrder = [lanes]uint32{0, 4, 1, 5, 2, 6, 3, 7}

// quarter is a sample's share of a pixel.
var quarter float32 = 1.0 / samples

// classifyRowAVX2 is whosePlain.
//
//go:noescape
func classifyRowAVX2(owner *[tileSide * samples]int32) (whole, goesOn, background, ink uint64)

// alikeAVX2 is alikePlain.
//
//go:noescape
func alikeAVX2(a, b *[tileSide * samples]int32) (alike uint64)

// classifyTransparentVectors is lookAtSheetPlain.
func classifyTransparentVectors(
	deep *[tileSide]float32,
	owner *[tileSide * samples]int32,
	depth *[tileSide * samples]float32,
	from, to int,
) (some, full, goesOn uint64) {
	some, full, goesOn = classifyTransparentAVX2(deep, owner, depth, from, to)
	asked := pixelsOf(from, to-from)
	return some & asked, full & asked, goesOn & asked &^ (1 << from)
}

// classifyTransparentAVX2 is the same for groups of eight pixels.
//
//go:noescape
func classifyTransparentAVX2(
	deep *[tileSide]float32,
	owner *[tileSide * samples]int32,
	depth *[tileSide * samples]float32,
	from, to int,
) (some, full, goesOn uint64)

// leastInverseZVectors is farthestOf.
func leastInverseZVectors(l *layer, x0, y0, y1 int) float32 {
	at := sampleAt(x0, y0)
	_ = l.inverseZ[at+(y1-y0-1)*rowStride+blockSide*samples-1] // all that is reached is there
	return leastInverseZAVX2(&l.inverseZ[at], y1-y0)
}

// leastInverseZAVX2 returns the least of the depths in rows of a block, which begin one below
// another.
//
//go:noescape
func leastInverseZAVX2(first *float32, rows int) float32

// pixelMask has all bits of those lanes set whose bit of the index is.
var pixelMask = func() (m [256][lanes]int32) {
	for i := range m {
		for k := range lanes {
			m[i][k] = -int32(i >> k & 1)
		}
	}
	return m
}()

func layVectors(out *colours, q *shadingSamples, r *flatRun) {
	if r.step != lanes {
		layPlain(out, q, r)
		return
	}
	layAVX2(out, &q.rgb[0][r.first], int(r.begin), pixelsOf(int(r.x), int(r.n)))
}

// layAVX2 lays a flat run at whose pixels every eighth is known: first is the red one of the first
// of them, which stands at the pixel begin.
//
//go:noescape
func layAVX2(out *colours, first *float32, begin int, pixels uint64)

// eighthsOn is how far eight pixels are between two that are known.
var eighthsOn = [lanes]float32{0, 1.0 / 8, 2.0 / 8, 3.0 / 8, 4.0 / 8, 5.0 / 8, 6.0 / 8, 7.0 / 8}

// chooseAVX2 is choosePlain for a set that is not empty.
//
//go:noescape
func chooseAVX2(out, from *colours, set uint64)

// fillAVX2 is fillPlain.
//
//go:noescape
func fillAVX2(out *colours, rgb *[3]float32)

// darkenAVX2 is darkenPlain.
//
//go:noescape
func darkenAVX2(rgb *colours, ink *[3]float32, dark *contactShadowRow)

// threeBytes brings the three lowest bytes of each number of a group of four together.
var threeBytes = [32]int8{
	0,
	1,
	2,
	4,
	5,
	6,
	8,
	9,
	10,
	12,
	13,
	14,
	-1,
	-1,
	-1,
	-1,
	0,
	1,
	2,
	4,
	5,
	6,
	8,
	9,
	10,
	12,
	13,
	14,
	-1,
	-1,
	-1,
	-1,
}

// fullByte is what a display value of 1 is in a byte.
var fullByte float32 = 255

// quantiseAVX2 is quantisePlain.
//
//go:noescape
func quantiseAVX2(in *colours, more *[tileSide]float32, out *rowBytes)
