package render

import (
	"encoding/binary"
	"image"
)

// Keep16Bits makes Deep say what pictures look like with 16 bits a colour; before the first
// one.
func (r *Renderer) Keep16Bits() { r.bits16 = make([]uint16, 3*r.width*r.height) }

// widenTo16 keeps a row of a tile's display values with 16 bits, but for the pixels to leave.
func (r *Renderer) widenTo16(t *tile, y int, rgb *colours, leave uint64) {
	if r.bits16 == nil {
		return
	}
	out := r.bits16[3*((t.y0+y)*r.width+t.x0):][:3*t.w]
	for i := range out {
		if x, c := i/3, i%3; leave>>x&1 == 0 {
			out[i] = uint16(rgb[c][x]*65535 + 0.5)
		}
	}
}

// Picture16 returns the picture that was drawn last, 3 values from 0 to 65535 a pixel. p is the
// same picture with words and a logo on it: where they lie it is followed, in 8 bits.
func (r *Renderer) Picture16(p *Picture) []uint16 {
	out := make([]uint16, len(r.bits16))
	copy(out, r.bits16)
	for i, written := range p.written {
		if !written {
			continue
		}
		under, x0, y := p.under[i], i%r.across*tileSide, i/r.across*tileSide
		p.rows(i, func(rgb []byte) {
			row := out[3*(y*p.Width+x0):]
			for k := 0; k < len(rgb); k += 3 {
				if [3]byte(rgb[k:]) != [3]byte(under[k:]) {
					row[k], row[k+1], row[k+2] = uint16(rgb[k])*257, uint16(rgb[k+1])*257, uint16(rgb[k+2])*257
				}
			}
			under, y = under[len(rgb):], y+1
		})
	}
	return out
}

// Opaque16 makes a picture with 16 bits a colour of display values.
func Opaque16(width, height int, rgb []uint16) *image.NRGBA64 {
	out := image.NewNRGBA64(image.Rect(0, 0, width, height))
	for i := range width * height {
		for k := range 3 {
			binary.BigEndian.PutUint16(out.Pix[8*i+2*k:], rgb[3*i+k])
		}
		out.Pix[8*i+6], out.Pix[8*i+7] = 255, 255
	}
	return out
}

// Matte16 is RGBA.Matte with 16 bits.
func Matte16(width, height int, white, black []uint16) *image.NRGBA64 {
	out := image.NewNRGBA64(image.Rect(0, 0, width, height))
	for i := range width * height {
		w, b := white[3*i:3*i+3], black[3*i:3*i+3]
		through := (int(w[0]) - int(b[0]) + int(w[1]) - int(b[1]) + int(w[2]) - int(b[2]) + 1) / 3
		alpha := max(0, min(65535-through, 65535))
		binary.BigEndian.PutUint16(out.Pix[8*i+6:], uint16(alpha))
		for k := range 3 {
			if alpha > 0 {
				binary.BigEndian.PutUint16(out.Pix[8*i+2*k:], uint16(min((int(b[k])*65535+alpha/2)/alpha, 65535)))
			}
		}
	}
	return out
}
