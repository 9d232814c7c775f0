//go:build !purego

package render

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/sys/cpu"

	"slowreveal/core/assembly"
	"slowreveal/core/look"
)

// The vector loops one by one, with numbers at random and with the sets at which they turn aside:
// none, all, whole groups of eight, single pixels.

func needsVectors(t *testing.T) *rand.Rand {
	t.Helper()
	if !cpu.X86.HasAVX2 {
		t.Skip("this processor has no AVX2")
	}
	return rand.New(rand.NewPCG(31, 7))
}

func sets(random *rand.Rand) []uint64 {
	list := []uint64{0, ^uint64(0), 0xff00, 1, 1 << 63, 0xff0000000000ff01}
	for range 40 {
		list = append(list, random.Uint64()&random.Uint64(), random.Uint64()|random.Uint64())
	}
	return list
}

func coloursAt(random *rand.Rand) (c colours) {
	for k := range c {
		for x := range c[k] {
			c[k][x] = random.Float32()
		}
	}
	return c
}

func TestVectorsPaintRowsAsThePlainLoopsDo(t *testing.T) {
	random := needsVectors(t)
	for _, set := range sets(random) {
		under, over := coloursAt(random), coloursAt(random)
		plain, got := under, under
		choosePlain(&plain, &over, set)
		chooseAVX2(&got, &over, set)
		require.Equal(t, plain, got, "chosen %x", set)

		var dark contactShadowRow
		for i := range dark {
			dark[i] = random.Float32()
		}
		ink := [3]float32{random.Float32(), random.Float32(), random.Float32()}
		darkenPlain(&plain, &ink, &dark)
		darkenAVX2(&got, &ink, &dark)
		require.Equal(t, plain, got, "darkened")

		var bytes, gotBytes rowBytes
		more := &byNoise()[random.IntN(tileSide)]
		quantisePlain(&plain, more, &bytes)
		quantiseAVX2(&got, more, &gotBytes)
		require.Equal(t, bytes[:3*tileSide], gotBytes[:3*tileSide], "as bytes")

		fillPlain(&plain, &ink)
		fillAVX2(&got, &ink)
		require.Equal(t, plain, got, "filled")
	}
}

func TestVectorsLayFlatRunsAsThePlainLoopsDo(t *testing.T) {
	random := needsVectors(t)
	p := new(shadingSamples)
	for c := range p.rgb {
		for i := range p.rgb[c] {
			p.rgb[c][i] = random.Float32()
		}
	}
	for range 300 {
		x := random.IntN(tileSide)
		n := 1 + random.IntN(tileSide-x)
		r := &flatRun{first: uint16(aside + random.IntN(200)), x: uint8(x), n: uint8(n), begin: uint8(x &^ 7), step: 8}
		under := coloursAt(random)
		plain, got := under, under
		layPlain(&plain, p, r)
		layVectors(&got, p, r)
		require.Equal(t, plain, got, "%d pixels from %d on", n, x)
	}
}

// Equally deep fragments and ones of no weight are among them.
func TestVectorsPileSheetsAsThePlainLoopsDo(t *testing.T) {
	random := needsVectors(t)
	plain, got := newTile(), newTile()
	const y = 5
	for round, set := range sets(random) { // more than a list can hold
		for x := range tileSide {
			plain.row.depth[x], plain.row.alpha[x] = float32(1+random.IntN(9)), float32(random.IntN(4))*0.3
		}
		plain.row.rgb = coloursAt(random)
		got.row.depth, got.row.alpha, got.row.rgb = plain.row.depth, plain.row.alpha, plain.row.rgb
		insertPlain(plain, y, set)
		insertVectors(got, y, set)
		require.Equal(t, plain.covered, got.covered)
		require.Equal(t, plain.fragmentCounts, got.fragmentCounts, "round %d", round)
		for i := range plain.fragmentCounts[y] {
			require.Equal(t, plain.fragments[i], got.fragments[i], "round %d, level %d", round, i)
		}
		under := coloursAt(random)
		a, b := under, under
		blendPlain(&a, plain, y)
		blendVectors(&b, got, y)
		require.Equal(t, a, b, "blended")
	}
	assert.EqualValues(t, maxFragments, plain.fragmentCounts[y])
}

func TestVectorsFindTheFarthestOfABlock(t *testing.T) {
	random := needsVectors(t)
	l := new(layer)
	for range 200 {
		for i := range l.inverseZ {
			l.inverseZ[i] = 0.5 + random.Float32()
		}
		if random.IntN(3) == 0 {
			l.inverseZ[random.IntN(len(l.inverseZ))] = 0
		}
		for y := 0; y < tileSide; y += blockSide {
			for x := 0; x < tileSide; x += blockSide {
				end := y + 1 + random.IntN(blockSide)
				require.Equal(t, leastInverseZOf(l, x, y, end), leastInverseZVectors(l, x, y, end))
			}
		}
	}
}

// Normals of all directions, none and some seen along their plane, on finishes of all kinds.
func TestVectorsLightPointsAsThePlainLoopsDo(t *testing.T) {
	random := needsVectors(t)
	signed := func() float32 { return 2*random.Float32() - 1 }
	for round := range 200 {
		v := &View{}
		v.Camera.tanH, v.Camera.tanV = 0.5, 0.3
		v.Camera.orthographic = round%5 == 0
		l := newLights(&look.Default, v)
		s := surfaceOf(
			&assembly.Finish{
				Colour:    [3]float64{random.Float64(), random.Float64(), random.Float64()},
				Metalness: float64(round%3) / 2,
				Roughness: random.Float64(),
				Opacity:   1,
			},
		)
		if round%4 == 0 {
			s.flat, s.transparent = random.Float32(), [3]float32{1, 0.5, 0.2}
		}
		s.widen()
		f := &triangleSetup{
			det: [3]float32{signed(), signed(), signed()},
			u:   [3]float32{signed(), signed(), signed()},
			v:   [3]float32{signed(), signed(), signed()},
			n: [3]float32{
				signed(),
				signed(),
				signed(),
			},
			du: [3]float32{signed(), signed(), signed()},
			dv: [3]float32{signed(), signed(), signed()},
		}
		if round%7 == 0 {
			f.det = [3]float32{}
		}
		if round%11 == 0 {
			f.n, f.du, f.dv = [3]float32{}, [3]float32{}, [3]float32{}
		}
		plain, got := new(shadingSamples), new(shadingSamples)
		from := random.IntN(tileSide)
		n := 1 + random.IntN(tileSide-from)
		for _, p := range []*shadingSamples{plain, got} {
			p.aim(-0.5, 1.0/64)
			p.begin(0.1)
			for i := range p.dy[:aside] {
				p.dy[i] = p.height
			}
		}
		normalsPlain(plain, f, from, n)
		normalsAVX2(got, f, from, n)
		require.Equal(t, plain.nx[from:from+n], got.nx[from:from+n])
		require.Equal(t, plain.ny[from:from+n], got.ny[from:from+n])
		require.Equal(t, plain.nz[from:from+n], got.nz[from:from+n])
		lightPlain(plain, from, from+n, &s, &l)
		lightAVX2(got, from, from+n, &s, &l)
		for c := range plain.rgb {
			require.Equal(t, plain.rgb[c][from:from+n], got.rgb[c][from:from+n], "round %d", round)
		}
		got.toFlatColour(&batch{from, from + n, &s})
		for c := range plain.rgb {
			for i := from; i < from+n; i++ {
				lit := plain.rgb[c][i]
				require.Equal(t, lit+(s.transparent[c]-lit)*s.flat, got.rgb[c][i], "round %d", round)
			}
		}
	}
}
