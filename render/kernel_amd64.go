//go:build !purego

package render

import "golang.org/x/sys/cpu"

// The inner loops on vectors of eight, in assembly, for processors with AVX2. They do what the
// plain ones do in the same order, so that the bytes are the same; multiplications and additions
// are not fused for that reason. Written by hand they take a third of the time of vectors that the
// compiler is left to hold in registers (Go 1.26).

func init() {
	if cpu.X86.HasAVX2 {
		kernel = vectorLoops
	}
}

var vectorLoops = loops{
	name: "avx2",
	move: moveVectors, screen: screenVectors,
	edges: edgesAVX2, fillBox: fillBoxAVX2, leastInverseZ: leastInverseZVectors,
	classifyRow: classifyRowAVX2, alike: alikeAVX2, classifyTransparent: classifyTransparentVectors,
	normals: normalsAVX2, light: lightAVX2, lay: layVectors,
	fill: fillAVX2, choose: chooseAVX2, darken: darkenAVX2, insert: insertVectors, blend: blendVectors,
	quantise: quantiseAVX2, yuv: yuvVectors,
}
