//go:build goexperiment.simd && amd64

package render

import (
	"math"
	"simd/archsimd"
)

// The inner loops on vectors of eight, for processors with AVX2. They do what the plain
// ones do in the same order, so that the bytes are the same; multiplications and
// additions are not fused for that reason.

func init() {
	if archsimd.X86.AVX2() {
		kernel = vectorLoops
	}
}

var vectorLoops = loops{
	name: "avx2",
	move: moveVectors, screen: screenVectors,
	edges: edgesAVX2, flood: floodVectors, sweep: sweepVectors, farthest: farthestVectors,
	whose: whoseAVX2, alike: alikeAVX2, lookAtSheet: lookAtSheetVectors,
	normals: normalsAVX2, flat: flatVectors, light: lightVectors, lay: layVectors,
	fill: fillVectors, choose: chooseAVX2, darken: darkenVectors, pile: pileVectors, blend: blendVectors,
	quantise: quantiseAVX2, yuv: yuvVectors,
}

type (
	floats = archsimd.Float32x8
	ints   = archsimd.Int32x8
	mask   = archsimd.Mask32x8
)

func all(x float32) floats { return archsimd.BroadcastFloat32x8(x) }

// rightPixel numbers the pixels of a pair, for each lane.
var rightPixel = [lanes]float32{0, 0, 0, 0, 1, 1, 1, 1}

// putVectors is put for the lanes of a pair that are inside. It asks nothing on the way: most
// pairs of thin faces are neither full nor empty, and a processor that guesses wrong loses more
// time than this takes.
func putVectors(depth *[lanes]float32, owner *[lanes]int32, z floats, id ints, inside mask) {
	d, o := archsimd.LoadFloat32x8(depth), archsimd.LoadInt32x8(owner)
	wins := inside.And(z.Greater(d).Or(z.Equal(d).And(id.Greater(o))))
	z.Merge(d, wins).Store(depth)
	id.Merge(o, wins).Store(owner)
}

// across and down are where they are in their pixel, in 1/256 pixel.
var across, down = func() (x, y [lanes]float32) {
	for i := range x {
		x[i], y[i] = float32(offsets[i%samples][0]), float32(offsets[i%samples][1])
	}
	return x, y
}()

func floodVectors(l *layer, e *edges) {
	depth := all(e.deep).Add(all(e.dx).Mul(wide(&across))).Add(all(e.dy).Mul(wide(&down)))
	column, least, nearest, right, two := all(e.dx*subPixel), all(e.least), all(e.nearest), wide(&rightPixel), all(2)
	id := archsimd.BroadcastInt32x8(e.id)
	both := archsimd.LoadInt32x8(&pixelMask[255]).ToMask()
	for row := range e.y1 - e.y0 + 1 {
		at := sampleAt(int(e.x0), int(e.y0+row))
		line, along := depth.Add(all(e.dy*subPixel*float32(row))), right
		for range (e.x1-e.x0)/2 + 1 { // a box that is no whole number of pairs wide ends with the picture
			z := line.Add(column.Mul(along)).Max(least).Min(nearest)
			putVectors((*[lanes]float32)(l.depth[at:]), (*[lanes]int32)(l.owner[at:]), z, id, both)
			along = along.Add(two)
			at += lanes
		}
	}
}

func sweepVectors(l *layer, s *sweep, from, to int32) {
	from &^= 1
	first, last := archsimd.LoadInt32x8(&s.first), archsimd.LoadInt32x8(&s.last)
	depth, right := archsimd.LoadFloat32x8(&s.depth), archsimd.LoadFloat32x8(&rightPixel)
	column, least, nearest := all(s.depthColumn), all(s.least), all(s.nearest)
	id := archsimd.BroadcastInt32x8(s.id)
	x := archsimd.BroadcastInt32x8(from).Add(right.ConvertToInt32())
	two := archsimd.BroadcastInt32x8(2)
	at := sampleAt(int(from), int(s.y))
	for range (to-from)/2 + 1 {
		outside := first.Greater(x).Or(x.Greater(last))
		if outside.ToBits() != 255 {
			z := depth.Add(column.Mul(x.ConvertToFloat32())).Max(least).Min(nearest)
			putVectors((*[lanes]float32)(l.depth[at:]), (*[lanes]int32)(l.owner[at:]), z, id, outside.ToInt32x8().Not().ToMask())
		}
		x = x.Add(two)
		at += lanes
	}
}

var counting = [lanes]float32{0, 1, 2, 3, 4, 5, 6, 7}

// flatVectors is flatPlain. What it writes past the last belongs to points that are still to come.
func flatVectors(p *points, f *facet, begin, step, count int) {
	nx, ny, nz, height, dx, turn := all(f.n[0]), all(f.n[1]), all(f.n[2]), all(p.height), all(p.dx[begin]), all(p.turn)
	for i := 0; i < count; i += lanes {
		k := p.n + i
		put8(p.dx[k:], dx.Add(turn.Mul(all(float32(i)).Add(wide(&counting)).Mul(all(float32(step))))))
		put8(p.dy[k:], height)
		put8(p.nx[k:], nx)
		put8(p.ny[k:], ny)
		put8(p.nz[k:], nz)
	}
}

// normalsAVX2 is normalsPlain. What it writes past the last belongs to points that are still to come.
//
//go:noescape
func normalsAVX2(p *points, f *facet, first, n int)

// normalNumbers are what it needs beside the facet: see facet.normal.
var normalNumbers = [...]float32{float32(math.Copysign(0, -1)), 3, 1}
