//go:build goexperiment.simd && amd64

package render

import "simd/archsimd"

// The loops over the owners of a row's samples, eight pixels at once.

// firstByte is set in the first byte of each number of 16 bits.
var firstByte = func() (b [2 * lanes]int16) {
	for i := range b {
		b[i] = 255
	}
	return b
}()

// evenFirst brings bits for the pixels 0, 2, 4, 6, 1, 3, 5, 7 in the order of pixels.
var evenFirst = func() (t [256]uint8) {
	for i := range t {
		for k := range 8 {
			t[i] |= uint8(i>>k&1) << (k%4*2 + k/4)
		}
	}
	return t
}()

// samplesOf returns a bit for each sample of eight pixels, which are in four vectors: byte k
// holds those of a pixel as its bits 0, 2, 4, 6 and those of another as 1, 3, 5, 7.
func samplesOf(a, b, c, d mask) uint32 {
	first := archsimd.LoadInt16x16(&firstByte)
	even := a.ToInt32x8().SaturateToInt16ConcatGrouped(c.ToInt32x8())
	odd := b.ToInt32x8().SaturateToInt16ConcatGrouped(d.ToInt32x8())
	both := even.And(first).Or(odd.AndNot(first)).AsInt8x32()
	return archsimd.Int8x32{}.Greater(both).ToBits()
}

// inOrder brings the bits 0 and 1 of each byte into the order of pixels.
func inOrder(m uint32) uint64 { return uint64(evenFirst[m&0x03030303*(1<<24|1<<18|1<<12|1<<6)>>24]) }

// wholePixels returns a bit for each of eight pixels: whether all of its four samples are set.
func wholePixels(a, b, c, d mask) uint64 {
	m := samplesOf(a, b, c, d)
	m &= m >> 2
	return inOrder(m & (m >> 4))
}

// anyPixels tells whether one of its samples is set.
func anyPixels(a, b, c, d mask) uint64 {
	m := samplesOf(a, b, c, d)
	m |= m >> 2
	return inOrder(m | m>>4)
}

func owners(o []int32) ints { return archsimd.LoadInt32x8((*[lanes]int32)(o)) }

// oneOn moves eight numbers one on, the last to the front.
var oneOn = [lanes]uint32{7, 0, 1, 2, 3, 4, 5, 6}

var frontLane = [lanes]int32{-1}

// firstsOf returns the owners of eight pixels' first samples.
func firstsOf(a, b, c, d ints, order archsimd.Uint32x8) ints {
	return a.SelectFromPairGrouped(0, 0, 4, 4, b).SelectFromPairGrouped(0, 2, 4, 6, c.SelectFromPairGrouped(0, 0, 4, 4, d)).Permute(order)
}

func whoseVectors(owner *[tileSide * samples]int32) (whole, goesOn, paper, ink uint64) {
	order, on, front := archsimd.LoadUint32x8(&oneOfFour), archsimd.LoadUint32x8(&oneOn), archsimd.LoadInt32x8(&frontLane).ToMask()
	before, zero := archsimd.BroadcastInt32x8(counted), archsimd.BroadcastInt32x8(nobody)
	for x := 0; x < tileSide; x += lanes {
		o := owner[x*samples : (x+lanes)*samples]
		a, b, c, d := owners(o), owners(o[lanes:]), owners(o[2*lanes:]), owners(o[3*lanes:])
		one := wholePixels(a.Equal(a.PermuteScalarsGrouped(0, 0, 0, 0)), b.Equal(b.PermuteScalarsGrouped(0, 0, 0, 0)),
			c.Equal(c.PermuteScalarsGrouped(0, 0, 0, 0)), d.Equal(d.PermuteScalarsGrouped(0, 0, 0, 0)))
		firsts := firstsOf(a, b, c, d, order)
		bare := uint64(firsts.Equal(zero).ToBits())
		whole |= one & uint64(firsts.Greater(zero).ToBits()) << x
		paper |= one & bare << x
		if zero.Greater(firsts).ToBits() != 0 {
			ink |= wholePixels(zero.Greater(a), zero.Greater(b), zero.Greater(c), zero.Greater(d)) << x
		}
		moved := firsts.Permute(on)
		goesOn |= uint64(firsts.Equal(before.Merge(moved, front)).ToBits()) << x
		before = moved
	}
	return whole, goesOn, paper, ink
}

// oneOfFour is how the sums of pairs of pairs stand after two rounds.
var oneOfFour = [lanes]uint32{0, 4, 1, 5, 2, 6, 3, 7}

func lookAtSheetVectors(deep *[tileSide]float32, owner *[tileSide * samples]int32, depth *[tileSide * samples]float32, from, to int) (some, full, goesOn uint64) {
	quarter, order, zero := all(1.0/samples), archsimd.LoadUint32x8(&oneOfFour), archsimd.BroadcastInt32x8(nobody)
	on, front, before := archsimd.LoadUint32x8(&oneOn), archsimd.LoadInt32x8(&frontLane).ToMask(), zero
	for x := from &^ (lanes - 1); x < to; x += lanes {
		o, d := owner[x*samples:(x+lanes)*samples], depth[x*samples:(x+lanes)*samples]
		a, b, c, e := owners(o), owners(o[lanes:]), owners(o[2*lanes:]), owners(o[3*lanes:])
		if a.Or(b).Or(c.Or(e)).Equal(zero).ToBits() == 255 {
			before = zero
			continue
		}
		filled := wholePixels(a.Greater(zero), b.Greater(zero), c.Greater(zero), e.Greater(zero))
		full |= filled << x
		if filled == 255 {
			some |= 255 << x
		} else {
			some |= anyPixels(a.NotEqual(zero), b.NotEqual(zero), c.NotEqual(zero), e.NotEqual(zero)) << x
		}
		if filled != 0 {
			left, right := eight(d).AddPairsGrouped(eight(d[lanes:])), eight(d[2*lanes:]).AddPairsGrouped(eight(d[3*lanes:]))
			put8(deep[x:], left.AddPairsGrouped(right).Permute(order).Mul(quarter))
		}
		firsts := firstsOf(a, b, c, e, order)
		moved := firsts.Permute(on)
		goesOn |= uint64(firsts.Equal(before.Merge(moved, front)).ToBits()) << x
		before = moved
	}
	asked := pixelsOf(from, to-from)
	return some & asked, full & asked, goesOn & asked &^ (1 << from)
}

func alikeVectors(a, b *[tileSide * samples]int32) (alike uint64) {
	for x := 0; x < tileSide; x += lanes {
		p, q := a[x*samples:(x+lanes)*samples], b[x*samples:(x+lanes)*samples]
		alike |= wholePixels(owners(p).Equal(owners(q)), owners(p[lanes:]).Equal(owners(q[lanes:])),
			owners(p[2*lanes:]).Equal(owners(q[2*lanes:])), owners(p[3*lanes:]).Equal(owners(q[3*lanes:]))) << x
	}
	return alike
}
