package render

import "math/bits"

// A row of a tile has 64 pixels: what is to be told of each of them is a bit of a word, the
// first pixel's the lowest.

// pixelsOf returns the bits of n pixels from x on.
func pixelsOf(x, n int) uint64 { return (1<<n - 1) << x }

// lowest returns the first pixel of a set that is not empty.
func lowest(set uint64) int { return bits.TrailingZeros64(set) & (tileSide - 1) }

// nextRun returns the first pixels side by side of a set that is not empty.
func nextRun(set uint64) (x, n int) {
	x = bits.TrailingZeros64(set)
	return x, bits.TrailingZeros64(^(set >> x))
}

// rowOf returns the face ids of a row of a layer.
func (l *layer) rowOf(y int) *[tileSide * samples]int32 {
	return (*[tileSide * samples]int32)(l.id[sampleAt(0, y):])
}

// depthsOf returns the depths of a row of a layer.
func (l *layer) depthsOf(y int) *[tileSide * samples]float32 {
	return (*[tileSide * samples]float32)(l.inverseZ[sampleAt(0, y):])
}

// classifyRowPlain tells of a row's pixels which belong to one face at all samples, which have the
// same face id at their first sample as the pixel before, and which are nothing but background or ink.
func classifyRowPlain(owner *[tileSide * samples]int32) (whole, goesOn, background, ink uint64) {
	// The highest bit of 64 tells whether a number is negative: of one with 32 bits less 1, whether it
	// is 0. Branches would mostly be guessed wrongly where a face ends.
	const told = 1 << 63
	before := ^owner[0]
	for x := range tileSide {
		o := (*[samples]int32)(owner[x*samples:])
		first := o[0]
		one := uint64(uint32((first^o[1])|(first^o[2])|(first^o[3]))) - 1
		whole = whole>>1 | one&uint64(-int64(first))&told
		background = background>>1 | one&(uint64(uint32(first))-1)&told
		ink = ink>>1 | uint64(int64(first&o[1]&o[2]&o[3]))&told
		goesOn = goesOn>>1 | (uint64(uint32(first^before))-1)&told
		before = first
	}
	return whole, goesOn, background, ink
}

// alikePlain tells which pixels of two rows belong to the same face ids.
func alikePlain(a, b *[tileSide * samples]int32) (alike uint64) {
	for x := range tileSide {
		if [samples]int32(a[x*samples:]) == [samples]int32(b[x*samples:]) {
			alike |= 1 << x
		}
	}
	return alike
}
