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
	under   [][]byte  // by tile: what was drawn there, if so
	changes int64     // counts changes
	changed []int64   // by tile: which was its last
	video   *Video    // that follows it, if one does
}

// NewPicture returns a black picture.
func NewPicture(width, height int) *Picture {
	tiles := tilesOf(width) * tilesOf(height)
	return &Picture{
		Width:   width,
		Height:  height,
		RGB:     make([]byte, 3*width*height),
		written: make([]bool, tiles),
		under:   make([][]byte, tiles),
		changed: make([]int64, tiles),
	}
}

func tilesOf(pixels int) int { return (pixels + tileSide - 1) / tileSide }

// Overlay keeps what is drawn below a rectangle of pixels, both ends included, before words are
// laid over it.
func (p *Picture) Overlay(x0, y0, x1, y1 int) {
	across := tilesOf(p.Width)
	p.changes++
	for ty := max(y0, 0) / tileSide; ty <= min(y1, p.Height-1)/tileSide; ty++ {
		for tx := max(x0, 0) / tileSide; tx <= min(x1, p.Width-1)/tileSide; tx++ {
			i := ty*across + tx
			p.changed[i] = p.changes
			if !p.written[i] {
				p.written[i] = true
				p.under[i] = p.drawn(i, p.under[i][:0])
			}
		}
	}
}

// rows calls do for the pixels of a tile in each row of the picture.
func (p *Picture) rows(i int, do func(rgb []byte)) {
	across := tilesOf(p.Width)
	x0, y0 := i%across*tileSide, i/across*tileSide
	w := 3 * min(tileSide, p.Width-x0)
	for y := y0; y < min(y0+tileSide, p.Height); y++ {
		at := 3 * (y*p.Width + x0)
		do(p.RGB[at : at+w])
	}
}

// drawn appends a tile's pixels as they were drawn to a list.
func (p *Picture) drawn(i int, list []byte) []byte {
	p.rows(i, func(rgb []byte) { list = append(list, rgb...) })
	return list
}

// take puts pixels into a tile.
func (p *Picture) take(i int, pixels []byte) {
	p.rows(i, func(rgb []byte) { pixels = pixels[copy(rgb, pixels):] })
}

// Replace lets what is done write over all of the picture.
func (p *Picture) Replace(do func(rgb []byte)) {
	p.Overlay(0, 0, p.Width-1, p.Height-1)
	do(p.RGB)
}

// open begins to draw a renderer's next picture into p: where it drew the last one, if nobody
// has drawn there since.
func (p *Picture) open(r *Renderer) {
	m := &r.memory
	m.before, m.base = m.base, p
	if b := m.before; b == nil || b.of != r || b.number != m.picture {
		m.kept, m.before = false, p
		clear(m.plain)
	}
	p.of, p.number = r, m.picture+1
	p.changes++
}

// prepare brings a tile to how the last picture was drawn; it tells whether it was not so.
func (p *Picture) prepare(i int, before *Picture) (changed bool) {
	switch {
	case before != p && before.written[i]:
		p.take(i, before.under[i])
	case before != p:
		p.take(i, before.drawn(i, nil))
	case p.written[i]:
		p.take(i, p.under[i])
	default:
		return false
	}
	p.written[i] = false
	return true
}

// note notes that a tile has changed.
func (p *Picture) note(i int) {
	p.changed[i] = p.changes
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
