//go:build goexperiment.simd && amd64

package render

// spare is how much further than they cross rows the bounds of a face's spans lie; see
// edges.walkAlong.
var spare = [4]float32{1 - 1.0/16, 1 - 1.0/16, 1.0 / 16, 1.0 / 16}

// edgesAVX2 is coverEdges, two pixels at once.
//
//go:noescape
func edgesAVX2(l *layer, e *edges)
