package render

// RGBA is a frame of 4 bytes (R, G, B, alpha) a pixel, the colours not multiplied by alpha.
type RGBA []byte

// NewRGBA returns the memory for a frame.
func NewRGBA(width, height int) RGBA { return make(RGBA, 4*width*height) }

// Opaque fills the frame from a picture.
func (o RGBA) Opaque(p *Picture) {
	for i := range p.Width * p.Height {
		o[4*i], o[4*i+1], o[4*i+2], o[4*i+3] = p.RGB[3*i], p.RGB[3*i+1], p.RGB[3*i+2], 255
	}
}

// Matte fills the frame from two pictures of the same, before white and before black: what
// differs between them is the background showing through. Everything is blended on
// display values, so that this is exact but for rounding to bytes (Smith and Blinn 1996,
// "Blue Screen Matting": two backgrounds determine colour and alpha).
func (o RGBA) Matte(white, black *Picture) {
	for i := range white.Width * white.Height {
		w, b := white.RGB[3*i:3*i+3], black.RGB[3*i:3*i+3]
		through := (int(w[0]) - int(b[0]) + int(w[1]) - int(b[1]) + int(w[2]) - int(b[2]) + 1) / 3
		alpha := max(0, min(255-through, 255))
		o[4*i+3] = byte(alpha)
		for k := range 3 {
			o[4*i+k] = 0
			if alpha > 0 {
				o[4*i+k] = byte(min((int(b[k])*255+alpha/2)/alpha, 255))
			}
		}
	}
}
