//go:build !purego

package render

// edgesAVX2 is coverEdges, two pixels at once. By hand it takes two thirds of the time.
//
//go:noescape
func edgesAVX2(l *layer, e *edges)

// spanSide is the width in pixels from which on it pays to find where in a row a
// face begins and ends.
const spanSide = 6

// steepest is the least growth from pixel to pixel of an edge that bounds spans: a
// flatter one crosses rows too far away for 32-bit floats.
const steepest = 32 << eighths

// edgeNumbers and edgeSteep are what it needs beside the face: the last two are to spare on the
// right and on the left, and edges are bounds beyond edgeSteep.
var (
	edgeNumbers = [...]float32{subPixel, 2, -1, 1.0 / 16, 1 - 1.0/16}
	edgeSteep   = [...]int32{steepest - 1, 1 - steepest}
)

// acrossPair and downPair are where the samples of a pair are, in 1/8 pixel.
var acrossPair, downPair = func() (x, y [lanes]int32) {
	for i := range x {
		x[i], y[i] = offsets[i%samples][0]>>stepBits+int32(i/samples)<<eighths, offsets[i%samples][1]>>stepBits
	}
	return x, y
}()

// fillBoxAVX2 is floodPlain, two pixels at once.
//
//go:noescape
func fillBoxAVX2(l *layer, e *edges)

// rightPixel numbers the pixels of a pair, for each lane.
var rightPixel = [lanes]float32{0, 0, 0, 0, 1, 1, 1, 1}

// across and down are where they are in their pixel, in 1/256 pixel.
var across, down = func() (x, y [lanes]float32) {
	for i := range x {
		x[i], y[i] = float32(offsets[i%samples][0]), float32(offsets[i%samples][1])
	}
	return x, y
}()
