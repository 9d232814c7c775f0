//go:build goexperiment.simd && amd64

package render

import (
	"encoding/binary"
	"simd/archsimd"
)

// Of eight pixels, 24 bytes, redGreen takes the first two of each as numbers of 16 bits side by side and
// blue the third: four pixels from the bytes 0 … 15, and four from the bytes 8 … 23.
var (
	redGreen = [32]int8{0, -1, 1, -1, 3, -1, 4, -1, 6, -1, 7, -1, 9, -1, 10, -1, 4, -1, 5, -1, 7, -1, 8, -1, 10, -1, 11, -1, 13, -1, 14, -1}
	blue     = [32]int8{2, -1, -1, -1, 5, -1, -1, -1, 8, -1, -1, -1, 11, -1, -1, -1, 6, -1, -1, -1, 9, -1, -1, -1, 12, -1, -1, -1, 15, -1, -1, -1}
)

// firstBytes brings the lowest byte of each number of a group of four to its front.
var firstBytes = [32]int8{0, 4, 8, 12, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, 0, 4, 8, 12, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1}

type shorts = archsimd.Int16x16

// pair repeats two factors.
func pair(a, b int16) shorts {
	var out [16]int16
	for i := 0; i < len(out); i += 2 {
		out[i], out[i+1] = a, b
	}
	return archsimd.LoadInt16x16(&out)
}

// eightPixels loads eight pixels.
func eightPixels(p []byte, rg, b archsimd.Int8x32) (redsGreens, blues shorts) {
	var x archsimd.Uint8x32
	x = x.SetLo(archsimd.LoadUint8x16((*[16]byte)(p))).SetHi(archsimd.LoadUint8x16((*[16]byte)(p[8:])))
	return x.AsInt8x32().PermuteOrZeroGrouped(rg).AsInt16x16(), x.AsInt8x32().PermuteOrZeroGrouped(b).AsInt16x16()
}

// yuvVectors is yuvPlain, sixteen pixels of both rows at once.
func yuvVectors(a, b, lumaA, lumaB, u, v []byte) {
	rg, bl, first := archsimd.LoadInt8x32(&redGreen), archsimd.LoadInt8x32(&blue), archsimd.LoadInt8x32(&firstBytes)
	y0, y1, u0, u1, v0, v1 := pair(yr, yg), pair(yb, 0), pair(ur, ug), pair(ub, 0), pair(vr, vg), pair(vb, 0)
	yBases, cBases := archsimd.BroadcastInt32x8(yBase), archsimd.BroadcastInt32x8(cBase)
	luma := func(out []byte, rg, b shorts) {
		y := rg.DotProductPairs(y0).Add(b.DotProductPairs(y1)).Add(yBases).ShiftAllRight(yuvBits).AsInt8x32().PermuteOrZeroGrouped(first).AsInt32x8()
		binary.LittleEndian.PutUint32(out, uint32(y.GetLo().GetElem(0)))
		binary.LittleEndian.PutUint32(out[4:], uint32(y.GetHi().GetElem(0)))
	}
	// Neighbours are added up within the halves of vectors, so that pixels come in the order
	// 0 1, 2 3, 8 9, 10 11 and 4 5, 6 7, 12 13, 14 15.
	chroma := func(out []byte, left, right ints) {
		c := left.AddPairsGrouped(right).Add(cBases).ShiftAllRight(yuvBits + 2).AsInt8x32().PermuteOrZeroGrouped(first).AsInt32x8()
		lo, hi := uint64(uint32(c.GetLo().GetElem(0))), uint64(uint32(c.GetHi().GetElem(0)))
		binary.LittleEndian.PutUint64(out, lo&0xffff|hi&0xffff<<16|lo>>16<<32|hi>>16<<48)
	}
	i := 0
	for ; i+8 <= len(u); i += 8 {
		argL, abL := eightPixels(a[6*i:], rg, bl)
		argR, abR := eightPixels(a[6*i+24:], rg, bl)
		brgL, bbL := eightPixels(b[6*i:], rg, bl)
		brgR, bbR := eightPixels(b[6*i+24:], rg, bl)
		luma(lumaA[2*i:], argL, abL)
		luma(lumaA[2*i+8:], argR, abR)
		luma(lumaB[2*i:], brgL, bbL)
		luma(lumaB[2*i+8:], brgR, bbR)
		rgL, rgR, bL, bR := argL.Add(brgL), argR.Add(brgR), abL.Add(bbL), abR.Add(bbR)
		chroma(u[i:], rgL.DotProductPairs(u0).Add(bL.DotProductPairs(u1)), rgR.DotProductPairs(u0).Add(bR.DotProductPairs(u1)))
		chroma(v[i:], rgL.DotProductPairs(v0).Add(bL.DotProductPairs(v1)), rgR.DotProductPairs(v0).Add(bR.DotProductPairs(v1)))
	}
	yuvPlain(a[6*i:], b[6*i:], lumaA[2*i:], lumaB[2*i:], u[i:], v[i:])
}
