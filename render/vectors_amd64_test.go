//go:build !purego

package render

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/sys/cpu"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/demo"
)

// bothKernels runs what is given with the plain loops and with the vector ones.
func bothKernels(t *testing.T, do func() *Picture) (plain, vectors *Picture) {
	t.Helper()
	if !cpu.X86.HasAVX2 {
		t.Skip("this processor has no AVX2")
	}
	kept := kernel
	defer func() { kernel = kept }()
	kernel = plainLoops
	plain = do()
	kernel = vectorLoops
	vectors = do()
	return plain, vectors
}

// Frames of the example in which covers fade, edges run thin and faces are small: the
// vector loops give the very bytes of the plain ones.
func TestVectorsGiveTheBytesOfThePlainLoops(t *testing.T) {
	m := demo.Pump()
	f := film.Compile(m.Assembly, demo.Teardown(m.Assembly))
	scene, err := NewScene(m.Assembly, m.Shapes)
	require.NoError(t, err)
	for _, at := range []reveal.Micros{0, 6_300_000, 12_500_000, 19_500_000, 31_000_000, 40_000_000} {
		fr := f.NewFrame()
		f.At(at, fr)
		plain, vectors := bothKernels(t, func() *Picture {
			r, err := NewRenderer(scene, 641, 361, 1)
			require.NoError(t, err)
			v, p := scene.NewView(), NewPicture(641, 361)
			v.Take(scene, fr, 641.0/361)
			r.Draw(v, p)
			return p
		})
		assert.Equal(t, plain.RGB, vectors.RGB, "at %d µs", at)
	}
}

// Faces of every order of size, laid over each other at random: depth and face id of every
// sample are the same.
func TestVectorsCoverWhatThePlainLoopsCover(t *testing.T) {
	random := rand.New(rand.NewPCG(21, 4))
	faces := make([]*face, 400)
	for i := range faces {
		reach := []float64{6, 40, 120, 400, 3000}[i%5]
		c := make([]corner, 3)
		for k := range c {
			c[k] = corner{64 * random.Float64(), 64 * random.Float64(), 0.5 + random.Float64()}
			c[k].x += (random.Float64() - 0.5) * reach
			c[k].y += (random.Float64() - 0.5) * reach
		}
		faces[i] = faceOf(int32(i+1), c...)
		if i%5 == 4 && i%2 == 0 { // upright rectangles, which cover whole boxes
			x, y, w, h := -(100+random.Int32N(50))<<subBits, random.Int32N(
				50,
			)<<subBits, (120+random.Int32N(80))<<subBits, (3+random.Int32N(60))<<subBits
			faces[i].x, faces[i].y = [4]int32{x, x + w, x, x + w}, [4]int32{y, y, y + h, y + h}
			faces[i].w[3] = faces[i].w[1] + faces[i].w[2] - faces[i].w[0]
			faces[i].id = int32(i + 1)
		}
		if i%7 == 0 {
			end := func(k int) [2]float32 { return [2]float32{float32(faces[i].x[k]), float32(faces[i].y[k])} }
			*faces[i], _ = stripOf(
				end(0),
				end(1),
				faces[i].w[0],
				faces[i].w[1],
				nib{half: 10 + 300*random.Float32()},
				int32(-2-i),
			)
		}
	}
	draw := func() *layer {
		one := newTile()
		for _, f := range faces {
			coverAlone(one, f, &one.solid)
		}
		return &one.solid
	}
	var layers []*layer
	bothKernels(t, func() *Picture {
		layers = append(layers, draw())
		return nil
	})
	assert.Equal(t, layers[0].id, layers[1].id)
	assert.Equal(t, layers[0].inverseZ, layers[1].inverseZ)
	seen := map[int32]bool{}
	for _, o := range layers[0].id {
		seen[o] = true
	}
	assert.Greater(t, len(seen), 20, "many faces show, strips among them")
}

// Pixels of all kinds turn into the same Y′CbCr, whatever the width.
func TestVectorsTurnPixelsIntoTheSameVideo(t *testing.T) {
	random := rand.New(rand.NewPCG(9, 2))
	for _, width := range []int{2, 16, 30, 64, 130} {
		p := NewPicture(width, 4)
		for i := range p.RGB {
			p.RGB[i] = byte(random.Uint32())
		}
		var frames []YUV
		bothKernels(t, func() *Picture {
			y := NewYUV(width, 4)
			y.convert(p, 0, 0, width, 4, yuvByNoise())
			frames = append(frames, y)
			return nil
		})
		assert.Equal(t, frames[0], frames[1], "%d pixels wide", width)
	}
}

// Rows of face ids of all kinds are told apart alike.
func TestVectorsTellRowsApartAsThePlainLoopsDo(t *testing.T) {
	if !cpu.X86.HasAVX2 {
		t.Skip("this processor has no AVX2")
	}
	random := rand.New(rand.NewPCG(3, 7))
	for range 300 {
		var a, b [tileSide * samples]int32
		for x := range tileSide {
			id := random.Int32N(6) - 3
			for s := range samples {
				a[x*samples+s] = id
				if random.IntN(9) == 0 {
					a[x*samples+s] = random.Int32N(6) - 3
				}
			}
		}
		b = a
		for range 40 {
			b[random.IntN(len(b))] = random.Int32N(4) - 1
		}
		whole, goesOn, paper, ink := classifyRowPlain(&a)
		gotWhole, gotOn, gotPaper, gotInk := classifyRowAVX2(&a)
		require.Equal(t, []uint64{whole, goesOn, paper, ink}, []uint64{gotWhole, gotOn, gotPaper, gotInk})
		var depth [tileSide * samples]float32
		for i := range depth {
			depth[i] = random.Float32()
		}
		var p, q [tileSide]float32
		from, to := 2*random.IntN(16), 34+2*random.IntN(16)
		some, full, on := classifyTransparentPlain(&p, &a, &depth, from, to)
		gotSome, gotFull, gotOn := classifyTransparentVectors(&q, &a, &depth, from, to)
		require.Equal(t, []uint64{some, full, on & full}, []uint64{gotSome, gotFull, gotOn & full})
		for x := range tileSide {
			if full>>x&1 == 1 {
				require.Equal(t, p[x], q[x])
			}
		}
		require.Equal(t, alikePlain(&a, &b), alikeAVX2(&a, &b))
	}
}

// Vertices come into the same places, those that are too near or far outside likewise nowhere.
func TestVectorsMoveVerticesAsThePlainLoopsDo(t *testing.T) {
	if !cpu.X86.HasAVX2 {
		t.Skip("this processor has no AVX2")
	}
	random := rand.New(rand.NewPCG(8, 8))
	const n = 500
	positions, normals := make([]float32, 3*n), make([]float32, 3*n)
	for i := range positions {
		positions[i], normals[i] = 400*random.Float32()-200, 2*random.Float32()-1
	}
	m := matrix{t: [3]float32{1, -2, -199.5}}
	for i := range m.r {
		m.r[i] = 2*random.Float32() - 1
	}
	w := viewport{960 * subPixel, 540 * subPixel, 3e7, 3e7}
	plain, got := make([]vertex, n), make([]vertex, n, n+1)
	movePlain(plain, positions, normals, &m)
	moveVectors(got, positions, normals, &m)
	require.Equal(t, plain, got)
	there, here := make([]onScreen, n), make([]onScreen, n, n+1)
	screenPlain(there, plain, &w)
	screenVectors(here, plain, &w)
	require.Equal(t, there, here)
	behind, outside, seen := 0, 0, 0
	for i, s := range there {
		switch {
		case plain[i].at[2] > -near:
			behind++
			assert.Zero(t, s.w)
		case s.w == 0:
			outside++
		default:
			seen++
		}
	}
	for _, count := range []int{behind, outside, seen} {
		assert.Greater(t, count, 20)
	}
}
