//go:build goexperiment.simd && amd64

package render

// edgesAVX2 is coverEdges, two pixels at once. By hand it takes two thirds of the time.
//
//go:noescape
func edgesAVX2(l *layer, e *edges)

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
