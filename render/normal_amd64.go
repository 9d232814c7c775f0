//go:build !purego

package render

import "math"

// normalsAVX2 is normalsPlain. What it writes past the last belongs to points that are still to come.
//
//go:noescape
func normalsAVX2(p *shadingSamples, f *triangleSetup, first, n int)

// normalNumbers are what it needs beside the facet: see facet.normal.
var normalNumbers = [...]float32{float32(math.Copysign(0, -1)), 3, 1}
