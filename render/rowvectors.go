//go:build goexperiment.simd && amd64

package render

import "simd/archsimd"

// The loops over the pixels of a row, eight at once.

// pixelMask has all bits of those lanes set whose bit of the index is.
var pixelMask = func() (m [256][lanes]int32) {
	for i := range m {
		for k := range lanes {
			m[i][k] = -int32(i >> k & 1)
		}
	}
	return m
}()

// eightOf returns which of eight pixels from x on are in a set.
func eightOf(set uint64, x int) mask { return archsimd.LoadInt32x8(&pixelMask[set>>x&255]).ToMask() }

func eight(a []float32) floats { return archsimd.LoadFloat32x8((*[lanes]float32)(a)) }

func put8(a []float32, v floats) { v.Store((*[lanes]float32)(a)) }

func layVectors(out *colours, q *points, r *flatRun) {
	if r.step != lanes {
		layPlain(out, q, r)
		return
	}
	count, share := archsimd.LoadFloat32x8(&counting), all(1.0/lanes)
	pixels, k := pixelsOf(int(r.x), int(r.n)), int(r.first)
	for x := int(r.begin); x < int(r.x)+int(r.n); x += lanes {
		inside := eightOf(pixels, x)
		for c := range q.rgb {
			begin := all(q.rgb[c][k])
			v := begin.Add(all(q.rgb[c][k+1]).Sub(begin).Mul(share).Mul(count))
			put8(out[c][x:], v.Merge(eight(out[c][x:]), inside))
		}
		k++
	}
}

func fillVectors(out *colours, rgb *[3]float32) {
	for c := range out {
		v := all(rgb[c])
		for x := 0; x < tileSide; x += lanes {
			put8(out[c][x:], v)
		}
	}
}

func chooseVectors(out, from *colours, set uint64) {
	for x := 0; x < tileSide; x += lanes {
		if set>>x&255 == 0 {
			continue
		}
		chosen := eightOf(set, x)
		for c := range out {
			put8(out[c][x:], eight(from[c][x:]).Merge(eight(out[c][x:]), chosen))
		}
	}
}

func darkenVectors(rgb *colours, ink *[3]float32, dark *gloomRow) {
	count, share := archsimd.LoadFloat32x8(&counting), all(1.0/darkRun)
	red, green, blue := all(ink[0]), all(ink[1]), all(ink[2])
	for x := 0; x < tileSide; x += darkRun {
		from := all(dark[x>>darkBits])
		d := from.Add(all(dark[x>>darkBits+1]).Sub(from).Mul(share).Mul(count))
		r, g, b := eight(rgb[0][x:]), eight(rgb[1][x:]), eight(rgb[2][x:])
		put8(rgb[0][x:], r.Add(red.Sub(r).Mul(d)))
		put8(rgb[1][x:], g.Add(green.Sub(g).Mul(d)))
		put8(rgb[2][x:], b.Add(blue.Sub(b).Mul(d)))
	}
}

// threeBytes brings the three lowest bytes of each number of a group of four together.
var threeBytes = [32]int8{0, 1, 2, 4, 5, 6, 8, 9, 10, 12, 13, 14, -1, -1, -1, -1, 0, 1, 2, 4, 5, 6, 8, 9, 10, 12, 13, 14, -1, -1, -1, -1}

func quantiseVectors(in *colours, out *rowBytes) {
	levels, half, together := all(255), all(0.5), archsimd.LoadInt8x32(&threeBytes)
	for x := 0; x < tileSide; x += lanes {
		red := eight(in[0][x:]).Mul(levels).Add(half).ConvertToInt32()
		green := eight(in[1][x:]).Mul(levels).Add(half).ConvertToInt32()
		blue := eight(in[2][x:]).Mul(levels).Add(half).ConvertToInt32()
		rgb := red.Or(green.ShiftAllLeft(8)).Or(blue.ShiftAllLeft(16)).AsInt8x32().PermuteOrZeroGrouped(together).AsUint8x32()
		rgb.GetLo().Store((*[16]uint8)(out[3*x:])) // the last four are written again
		rgb.GetHi().Store((*[16]uint8)(out[3*x+12:]))
	}
}

func pileVectors(t *tile, y int, pixels uint64) {
	w, zero := &t.row, all(0)
	for x := 0; x < tileSide; x += lanes {
		if pixels>>x&255 == 0 {
			continue
		}
		some := eightOf(pixels, x).And(eight(w.alpha[x:]).Greater(zero))
		if some.ToBits() == 0 {
			continue
		}
		t.covered[y] |= uint64(some.ToBits()) << x
		depth, alpha := eight(w.depth[x:]).Masked(some), eight(w.alpha[x:]).Masked(some)
		red, green, blue := eight(w.rgb[0][x:]), eight(w.rgb[1][x:]), eight(w.rgb[2][x:])
		below := zero.Greater(zero)
		at := y*tileSide + x
		for i := 0; i < maxSheets && alpha.Greater(zero).ToBits() != 0; i++ {
			if i == int(t.levels[y]) {
				t.addLevel(y)
			}
			s := &t.sheets[i]
			below = below.Or(depth.Greater(eight(s.depth[at:])))
			if below.ToBits() == 0 {
				continue
			}
			depth = swap(s.depth[at:], depth, below)
			red, green, blue = swap(s.r[at:], red, below), swap(s.g[at:], green, below), swap(s.b[at:], blue, below)
			alpha = swap(s.alpha[at:], alpha, below)
		}
	}
}

// swap puts new values where they go and returns the old ones, or the new ones elsewhere.
func swap(at []float32, v floats, where mask) floats {
	old := eight(at)
	put8(at, v.Merge(old, where))
	return old.Merge(v, where)
}

func blendVectors(c *colours, t *tile, y int) {
	for x := 0; x < tileSide; x += lanes {
		if t.covered[y]>>x&255 == 0 {
			continue
		}
		red, green, blue := eight(c[0][x:]), eight(c[1][x:]), eight(c[2][x:])
		at := y*tileSide + x
		for i := int(t.levels[y]) - 1; i >= 0; i-- {
			s := &t.sheets[i]
			alpha := eight(s.alpha[at:])
			red = red.Add(eight(s.r[at:]).Sub(red).Mul(alpha))
			green = green.Add(eight(s.g[at:]).Sub(green).Mul(alpha))
			blue = blue.Add(eight(s.b[at:]).Sub(blue).Mul(alpha))
		}
		put8(c[0][x:], red)
		put8(c[1][x:], green)
		put8(c[2][x:], blue)
	}
}
