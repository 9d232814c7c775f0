//go:build !purego

package render

// yuvVectors is yuvPlain, sixteen pixels of both rows at once.
func yuvVectors(a, b, lumaA, lumaB, u, v []byte, by *yuvRounding) {
	n := min(len(u), tileSide/2) &^ 7
	if n > 0 {
		// All that is reached is there.
		_, _, _, _, _ = a[6*n-1], b[6*n-1], lumaA[2*n-1], lumaB[2*n-1], v[n-1]
		yuvAVX2(&a[0], &b[0], &lumaA[0], &lumaB[0], &u[0], &v[0], by, n/8)
	}
	if n < len(u) {
		yuvFrom(n, a, b, lumaA, lumaB, u, v, by)
	}
}

// yuvAVX2 turns pixels, sixteen in each of two rows, into their luma and their chroma.
//
//go:noescape
func yuvAVX2(a, b, lumaA, lumaB, u, v *byte, by *yuvRounding, sixteens int)

// yuvWide holds what yuvAVX2 needs, each as a vector.
var yuvWide = [...][8]uint32{
	yuvRedGreen:     bytesOf(0, -1, 1, -1, 0),
	yuvBlue:         bytesOf(2, -1, -1, -1, 0),
	yuvRedGreenLate: bytesOf(0, -1, 1, -1, 4),
	yuvBlueLate:     bytesOf(2, -1, -1, -1, 4),
	yuvLumaRedGreen: pairs(yr, yg),
	yuvLumaBlue:     pairs(yb, 0),
	yuvURedGreen:    pairs(ur, ug),
	yuvUBlue:        pairs(ub, 0),
	yuvVRedGreen:    pairs(vr, vg),
	yuvVBlue:        pairs(vb, 0),
}

const (
	yuvRedGreen = iota
	yuvBlue
	yuvRedGreenLate
	yuvBlueLate
	yuvLumaRedGreen
	yuvLumaBlue
	yuvURedGreen
	yuvUBlue
	yuvVRedGreen
	yuvVBlue
)

// bytesOf tells which bytes of each of four pixels, three a pixel, go into a number of 32 bits: none
// where one is −1. In the upper half the pixels begin late.
func bytesOf(first, second, third, fourth, late int) (out [8]uint32) {
	for i := range out {
		for k, at := range [4]int{first, second, third, fourth} {
			b := 0x80
			if at >= 0 {
				b = at + 3*(i%4) + late*(i/4)
			}
			out[i] |= uint32(b) << (8 * k)
		}
	}
	return out
}

// pairs puts two numbers of 16 bits into each of 32.
func pairs(low, high int) (out [8]uint32) {
	for i := range out {
		out[i] = uint32(low)&0xffff | uint32(high)<<16
	}
	return out
}
