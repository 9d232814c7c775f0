package render

import "image"

// Picture is one finished frame: display values, 3 bytes (R, G, B) a pixel,
// top row first. Who draws into one picture frame after frame saves time: only what has
// changed is written, and turned into video.
type Picture struct {
	Width, Height int
	RGB           []byte

	of      *Renderer // that drew it last
	number  int64     // of that picture
	written []bool    // by tile: whether words lie over what was drawn
	changes int64     // counts changes
	changed []int64   // by tile: which was its last
	video   *Video    // that follows it, if one does
}

// NewPicture returns a black picture.
func NewPicture(width, height int) *Picture {
	tiles := tilesOf(width) * tilesOf(height)
	return &Picture{Width: width, Height: height, RGB: make([]byte, 3*width*height), written: make([]bool, tiles), changed: make([]int64, tiles)}
}

func tilesOf(pixels int) int { return (pixels + tileSide - 1) / tileSide }

// write notes that words are laid over a rectangle of pixels, both ends included.
func (p *Picture) write(x0, y0, x1, y1 int) {
	across := tilesOf(p.Width)
	p.changes++
	for ty := max(y0, 0) / tileSide; ty <= min(y1, p.Height-1)/tileSide; ty++ {
		for tx := max(x0, 0) / tileSide; tx <= min(x1, p.Width-1)/tileSide; tx++ {
			p.written[ty*across+tx], p.changed[ty*across+tx] = true, p.changes
		}
	}
}

// Replace lets what is done write over all of the picture.
func (p *Picture) Replace(do func(rgb []byte)) {
	do(p.RGB)
	p.write(0, 0, p.Width-1, p.Height-1)
}

// open begins to bring the picture up to date with what a renderer draws; it tells whether
// all of it is to be taken.
func (p *Picture) open(r *Renderer) (all bool) {
	all = p.of != r || p.number != r.memory.picture-1
	p.of, p.number = r, r.memory.picture
	p.changes++
	return all
}

// take takes a tile over.
func (p *Picture) take(i int, base *Picture) {
	p.changed[i], p.written[i] = p.changes, false
	across := tilesOf(p.Width)
	x0, y0 := i%across*tileSide, i/across*tileSide
	w := 3 * min(tileSide, p.Width-x0)
	for y := y0; y < min(y0+tileSide, p.Height); y++ {
		at := 3 * (y*p.Width + x0)
		copy(p.RGB[at:at+w], base.RGB[at:at+w])
	}
	if p.video != nil {
		p.video.follow(i)
	}
}

// Image returns the picture as the standard library has pictures.
func (p *Picture) Image() *image.NRGBA {
	out := image.NewNRGBA(image.Rect(0, 0, p.Width, p.Height))
	for i := range p.Width * p.Height {
		copy(out.Pix[4*i:], p.RGB[3*i:3*i+3])
		out.Pix[4*i+3] = 255
	}
	return out
}
