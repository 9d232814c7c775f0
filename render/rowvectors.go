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
	layAVX2(out, &q.rgb[0][r.first], int(r.begin), pixelsOf(int(r.x), int(r.n)))
}

// layAVX2 lays a flat run at whose pixels every eighth is known: first is the red one of the first
// of them, which stands at the pixel begin.
//
//go:noescape
func layAVX2(out *colours, first *float32, begin int, pixels uint64)

// eighthsOn is how far eight pixels are between two that are known.
var eighthsOn = [lanes]float32{0, 1.0 / 8, 2.0 / 8, 3.0 / 8, 4.0 / 8, 5.0 / 8, 6.0 / 8, 7.0 / 8}

// chooseAVX2 is choosePlain for a set that is not empty.
//
//go:noescape
func chooseAVX2(out, from *colours, set uint64)

func fillVectors(out *colours, rgb *[3]float32) {
	for c := range out {
		v := all(rgb[c])
		for x := 0; x < tileSide; x += lanes {
			put8(out[c][x:], v)
		}
	}
}

func darkenVectors(rgb *colours, ink *[3]float32, dark *gloomRow) {
	along := wide(&eighthsOn)
	red, green, blue := all(ink[0]), all(ink[1]), all(ink[2])
	for x := 0; x < tileSide; x += darkRun {
		from := all(dark[x>>darkBits])
		d := from.Add(all(dark[x>>darkBits+1]).Sub(from).Mul(along))
		r, g, b := eight(rgb[0][x:]), eight(rgb[1][x:]), eight(rgb[2][x:])
		put8(rgb[0][x:], r.Add(red.Sub(r).Mul(d)))
		put8(rgb[1][x:], g.Add(green.Sub(g).Mul(d)))
		put8(rgb[2][x:], b.Add(blue.Sub(b).Mul(d)))
	}
}

// threeBytes brings the three lowest bytes of each number of a group of four together.
var threeBytes = [32]int8{0, 1, 2, 4, 5, 6, 8, 9, 10, 12, 13, 14, -1, -1, -1, -1, 0, 1, 2, 4, 5, 6, 8, 9, 10, 12, 13, 14, -1, -1, -1, -1}

var quantiseNumbers = [...]float32{255, 0.5}

// quantiseAVX2 is quantisePlain.
//
//go:noescape
func quantiseAVX2(in *colours, out *rowBytes)

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
