package render

import (
	"sync"

	"slowreveal/core/look"
)

// A tile is as large as what repeats in the noise, so that its rows and columns are the noise's.
const _ = uint(tileSide-look.NoiseSide) + uint(look.NoiseSide-tileSide)

// rounding is what is added to the values of a row's pixels, by row of a tile, before what is behind the point is cut
// off.
type rounding [tileSide][tileSide]float32

// toNearest rounds to what is nearest: for pictures that are reckoned with.
var toNearest = sync.OnceValue(func() *rounding {
	r := new(rounding)
	for y := range r {
		for x := range r[y] {
			r[y][x] = 0.5
		}
	}
	return r
})

// byNoise rounds so that the mean over some pixels is right: for pictures that are looked at.
var byNoise = sync.OnceValue(func() *rounding {
	r := new(rounding)
	for i, v := range look.Noise() {
		r[i/tileSide][i%tileSide] = v
	}
	return r
})

// yuvRounding is the same for two rows of Y′CbCr, in its fixed point and with the values of black in it.
type yuvRounding struct {
	lumaA, lumaB [tileSide]int32
	u, v         [tileSide / 2]int32
}

type yuvRoundings [tileSide / 2]yuvRounding

var yuvToNearest = sync.OnceValue(func() *yuvRoundings {
	return yuvRoundingsOf(func(int, int) float32 { return 0.5 })
})

// yuvByNoise takes the noise from elsewhere for each plane: the values come from bytes that were rounded by it
// already.
var yuvByNoise = sync.OnceValue(func() *yuvRoundings {
	noise := look.Noise()
	return yuvRoundingsOf(func(x, y int) float32 { return noise[y%tileSide*tileSide+x%tileSide] })
})

func yuvRoundingsOf(threshold func(x, y int) float32) *yuvRoundings {
	// One step in 512 is left free, so that values that are whole but for the fixed point stay as they are.
	at := func(base, bits, x, y int) int32 {
		return int32(base<<bits) + int32(threshold(x, y)*float32(int(1)<<bits-int(1)<<(bits-9)))
	}
	out := new(yuvRoundings)
	for y := range out {
		n := &out[y]
		for x := range tileSide {
			n.lumaA[x], n.lumaB[x] = at(16, yuvBits, x+29, 2*y+37), at(16, yuvBits, x+29, 2*y+38)
		}
		for x := range tileSide / 2 {
			n.u[x], n.v[x] = at(128, yuvBits+2, x+11, y+43), at(128, yuvBits+2, x+47, y+5)
		}
	}
	return out
}
