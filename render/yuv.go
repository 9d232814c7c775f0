package render

// YUV is a frame in 8-bit Y′CbCr 4:2:0, limited range, by ITU-R BT.709: what
// video encoders take. Y, then Cb, then Cr, rows without padding. Chroma
// samples lie between their two columns (left-sited is what decoders assume
// for H.264; the difference is a quarter of a pixel) and two rows.
type YUV []byte

// NewYUV returns the memory for a frame; both sides must be even.
func NewYUV(width, height int) YUV { return make(YUV, width*height*3/2) }

// BT.709 in 16-bit fixed point: Y′ = 16 + 219·(0.2126 R + 0.7152 G + 0.0722 B),
// Cb = 128 + 224·(B − Y)/1.8556, Cr = 128 + 224·(R − Y)/1.5748.
const (
	yr, yg, yb = 11966, 40254, 4064
	ur, ug, ub = -6596, -22189, 28784
	vr, vg, vb = 28784, -26145, -2639
)

// From fills y from a picture of the same size, rows from first to last.
func (y YUV) From(p *Picture) {
	w, h := p.Width, p.Height
	luma, cb, cr := y[:w*h], y[w*h:w*h+w*h/4], y[w*h+w*h/4:]
	for row := 0; row < h; row += 2 {
		a, b := p.RGB[3*row*w:3*(row+1)*w], p.RGB[3*(row+1)*w:3*(row+2)*w]
		ya, yb := luma[row*w:(row+1)*w], luma[(row+1)*w:(row+2)*w]
		u, v := cb[row/2*w/2:(row/2+1)*w/2], cr[row/2*w/2:(row/2+1)*w/2]
		for i := range w / 2 {
			q := [12]int32{
				int32(a[6*i]), int32(a[6*i+1]), int32(a[6*i+2]), int32(a[6*i+3]), int32(a[6*i+4]), int32(a[6*i+5]),
				int32(b[6*i]), int32(b[6*i+1]), int32(b[6*i+2]), int32(b[6*i+3]), int32(b[6*i+4]), int32(b[6*i+5]),
			}
			ya[2*i], ya[2*i+1] = lumaOf(q[0], q[1], q[2]), lumaOf(q[3], q[4], q[5])
			yb[2*i], yb[2*i+1] = lumaOf(q[6], q[7], q[8]), lumaOf(q[9], q[10], q[11])
			r, g, bl := q[0]+q[3]+q[6]+q[9], q[1]+q[4]+q[7]+q[10], q[2]+q[5]+q[8]+q[11]
			u[i] = byte((ur*r + ug*g + ub*bl + 128<<18 + 1<<17) >> 18)
			v[i] = byte((vr*r + vg*g + vb*bl + 128<<18 + 1<<17) >> 18)
		}
	}
}

func lumaOf(r, g, b int32) byte { return byte((yr*r + yg*g + yb*b + 16<<16 + 1<<15) >> 16) }
