package render

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// sidesAt are four edge functions of given greatest growth, none of which outgrows 32 bits over a tile.
func sidesAt(r *rand.Rand, growth int32) (e edges) {
	grow := func() int32 { return r.Int32N(2*growth+1) - growth }
	for i := range sides {
		switch r.IntN(8) {
		case 0: // level
			e.b[i] = grow()
		case 1: // upright
			e.a[i] = grow()
		case 2: // of a corner that is there twice
		default:
			e.a[i], e.b[i] = grow(), grow()
		}
		if e.a[i] != 0 || e.b[i] != 0 {
			// Through a sample, or next to it: there it is decided by a single one.
			x, y, s := r.Int32N(24), r.Int32N(24), offsets[r.IntN(samples)]
			e.c[i] = r.Int32N(3) - 1 - e.a[i]*(x<<eighths+s[0]>>stepBits) - e.b[i]*(y<<eighths+s[1]>>stepBits)
		}
	}
	return e
}

// Where spans begin and end against the definition: an edge function, in whole numbers, that is not
// negative. With growths of every order, up to what setUpWide lets through.
func TestSpansAreTheSamplesInside(t *testing.T) {
	r := rand.New(rand.NewPCG(12, 31))
	const side = 24
	covered, most := 0, int64(0)
	for k := range 6000 {
		e := sidesAt(r, []int32{2, 40, 3000, 90_000, wideReach >> eighths / 2}[k%5])
		var s spans
		s.setUp(&e)
		for row := range int64(side) {
			some := s.find(row, side)
			any := false
			for x := range int64(side) {
				for n, o := range offsets {
					inside := true
					for i := range sides {
						v := int64(e.a[i])*(x<<eighths+int64(o[0]>>stepBits)) + int64(
							e.b[i],
						)*(row<<eighths+int64(o[1]>>stepBits)) + int64(e.c[i])
						most = max(most, v, -v)
						inside = inside && v >= 0
					}
					any = any || inside
					if told := x >= s.first[n] && x < s.end[n]; told != inside {
						require.Equal(
							t,
							inside,
							told,
							"case %d, pixel %d of row %d, sample %d: %v %v %v",
							k,
							x,
							row,
							n,
							e.a,
							e.b,
							e.c,
						)
					}
				}
			}
			if any {
				covered++
				require.True(t, some)
			}
		}
	}
	assert.Greater(t, covered, 10_000)
	assert.Less(t, most, int64(math.MaxInt32))
	assert.Greater(t, most, int64(math.MaxInt32)/4, "large ones were among them")
}

// The pieces of the curve meet, and rise.
func TestTheCurveGoesOnFromPieceToPiece(t *testing.T) {
	before := float32(-1)
	for i := 1; i < curvePieces; i++ {
		at := float32(pieceFrom(i))
		under := math.Nextafter32(at, 0)
		assert.InDelta(t, encodeSRGB(under), encodeSRGB(at), 3e-7)
		assert.Greater(t, encodeSRGB(at), before)
		before = encodeSRGB(at)
	}
	assert.InDelta(t, 1, before, 1e-5)
	assert.LessOrEqual(t, before, float32(1))
}
