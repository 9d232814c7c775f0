package render

import "slices"

// YUV is a frame in 8-bit Y′CbCr 4:2:0, limited range, by ITU-R BT.709: what
// video encoders take. Y, then Cb, then Cr, rows without padding. Chroma
// samples lie between their two columns (left-sited is what decoders assume
// for H.264; the difference is a quarter of a pixel) and two rows.
type YUV []byte

// NewYUV returns the memory for a frame; both sides must be even.
func NewYUV(width, height int) YUV { return make(YUV, width*height*3/2) }

// BT.709 in 15-bit fixed point: Y′ = 16 + 219·(0.2126 R + 0.7152 G + 0.0722 B),
// Cb = 128 + 224·(B − Y)/1.8556, Cr = 128 + 224·(R − Y)/1.5748.
const (
	yr, yg, yb = 5983, 20127, 2032
	ur, ug, ub = -3298, -11094, 14392
	vr, vg, vb = 14392, -13072, -1320

	yuvBits = 15 // and 17 for chroma, which sums up four pixels
)

// From fills y from a picture of the same size, rounded to what is nearest.
func (y YUV) From(p *Picture) { y.convert(p, 0, 0, p.Width, p.Height, yuvToNearest()) }

// Video turns one picture, as it is drawn into again and again, into frames: only what a frame
// does not show yet is looked at, most of it as soon as it is drawn.
type Video struct {
	picture *Picture
	frame   *Frame
}

// Frame is the memory of a frame on its way out.
type Frame struct {
	Bytes []byte

	of   *Video  // what it shows
	seen []int64 // by tile: as it was after which change of the picture
}

// Alter notes that a frame is changed by others than its video.
func (f *Frame) Alter() { f.of = nil }

// NewVideo returns the frames of a picture, which has one video at most.
func NewVideo(p *Picture) *Video {
	v := &Video{picture: p}
	p.video = v
	return v
}

// Into says which frame follows the picture from now on, nil for none. It has the length of a
// YUV of the picture's size.
func (v *Video) Into(f *Frame) {
	v.frame = f
	if f == nil || f.of == v {
		return
	}
	f.of = v
	f.seen = slices.Grow(f.seen[:0], len(v.picture.changed))[:len(v.picture.changed)]
	for i := range f.seen {
		f.seen[i] = -1
	}
}

// Follow brings the frame up to date with the picture.
func (v *Video) Follow() {
	threads := 1
	if of := v.picture.of; of != nil {
		threads = of.threads
	}
	spreadOver(threads, len(v.picture.changed), func(_, i int) { v.follow(i) })
}

// follow brings a tile up to date.
func (v *Video) follow(i int) {
	p, f := v.picture, v.frame
	if f == nil || p.changed[i] == f.seen[i] {
		return
	}
	across := tilesOf(p.Width)
	x0, y0 := i%across*tileSide, i/across*tileSide
	YUV(f.Bytes).convert(p, x0, y0, min(x0+tileSide, p.Width), min(y0+tileSide, p.Height), yuvByNoise())
	f.seen[i] = p.changed[i]
}

// convert fills the pixels from x0, y0 to x1−1, y1−1; all four are even, and x0, y0 those of a tile.
func (y YUV) convert(p *Picture, x0, y0, x1, y1 int, rounded *yuvRoundings) {
	w, h := p.Width, p.Height
	luma, cb, cr := y[:w*h], y[w*h:w*h+w*h/4], y[w*h+w*h/4:]
	for row := y0; row < y1; row += 2 {
		for x := x0; x < x1; x += tileSide {
			at, n := row*w+x, min(x1-x, tileSide)/2
			a, b := p.RGB[3*at:3*(at+2*n)], p.RGB[3*(at+w):3*(at+w+2*n)]
			ya, yb := luma[at:at+2*n], luma[at+w:at+w+2*n]
			u, v := cb[row/2*(w/2)+x/2:][:n], cr[row/2*(w/2)+x/2:][:n]
			kernel.yuv(a, b, ya, yb, u, v, &rounded[row%tileSide/2])
		}
	}
}

// yuvPlain turns two rows of up to tileSide pixels, a and b, into their luma and their chroma.
func yuvPlain(a, b, lumaA, lumaB, u, v []byte, n *yuvRounding) {
	yuvFrom(0, a, b, lumaA, lumaB, u, v, n)
}

// yuvFrom does so from a pixel of the chroma on.
func yuvFrom(first int, a, b, lumaA, lumaB, u, v []byte, n *yuvRounding) {
	for i := first; i < len(u); i++ {
		q := [12]int32{
			int32(a[6*i]), int32(a[6*i+1]), int32(a[6*i+2]), int32(a[6*i+3]), int32(a[6*i+4]), int32(a[6*i+5]),
			int32(b[6*i]), int32(b[6*i+1]), int32(b[6*i+2]), int32(b[6*i+3]), int32(b[6*i+4]), int32(b[6*i+5]),
		}
		lumaA[2*i], lumaA[2*i+1] = lumaOf(q[0], q[1], q[2], n.lumaA[2*i]), lumaOf(q[3], q[4], q[5], n.lumaA[2*i+1])
		lumaB[2*i], lumaB[2*i+1] = lumaOf(q[6], q[7], q[8], n.lumaB[2*i]), lumaOf(q[9], q[10], q[11], n.lumaB[2*i+1])
		r, g, bl := q[0]+q[3]+q[6]+q[9], q[1]+q[4]+q[7]+q[10], q[2]+q[5]+q[8]+q[11]
		u[i] = byte((ur*r + ug*g + ub*bl + n.u[i]) >> (yuvBits + 2))
		v[i] = byte((vr*r + vg*g + vb*bl + n.v[i]) >> (yuvBits + 2))
	}
}

func lumaOf(r, g, b, more int32) byte { return byte((yr*r + yg*g + yb*b + more) >> yuvBits) }
