package render

// paperRow is a row of the paper behind everything.
type paperRow struct {
	colour      [3]float32 // without shadow
	y           int        // of the tile
	first, last int        // pixels of the tile with shadow; none where last < first

	mixed bool // whether the next two are this row's
	// plain is the colour and more what the darkest shadow adds to it, for a run of pixels.
	plain, more [3][darkRun]float32

	known uint16                        // at which ends of runs the shadow is in dark
	dark  [tileSide/darkRun + 1]float32 // there
	made  uint8                         // which runs of pixels are in rgb
	rgb   colours                       // with shadow
}

// paperRow prepares row y of the tile.
func (r *Renderer) paperRow(t *tile, y int) *paperRow {
	p := &t.paper
	p.colour = r.papers[t.y0+y]
	p.y, p.mixed, p.known, p.made = y, false, 0, 0
	p.first, p.last = 0, -1
	if t.y0+y >= r.shade.top && t.y0+y <= r.shade.bottom {
		p.first, p.last = max(r.shade.left-t.x0, 0), min(r.shade.right-t.x0, t.w-1)
	}
	return p
}

func (p *paperRow) mix(l *lights) {
	p.mixed = true
	for c := range p.plain {
		for i := range darkRun {
			p.plain[c][i], p.more[c][i] = p.colour[c], l.ink[c]-p.colour[c]
		}
	}
}

// paperAt makes the paper's colours at n pixels of the row from x on.
func (r *Renderer) paperAt(t *tile, p *paperRow, x, n int, v *View, l *lights) *colours {
	for run := x >> darkBits; run <= (x+n-1)>>darkBits; run++ {
		if p.made>>run&1 == 0 {
			r.makePaper(t, p, run, v, l)
		}
	}
	return &p.rgb
}

// makePaper finds the colours of a run of pixels.
func (r *Renderer) makePaper(t *tile, p *paperRow, run int, v *View, l *lights) {
	p.made |= 1 << run
	x0 := run << darkBits
	light := x0 > p.last || x0+darkRun <= p.first
	if !light && !p.mixed {
		p.mix(l)
	}
	if r.behind != nil {
		r.behindRun(t, p, run, &l.ink)
	}
	if !light {
		from, to := r.darkAt(t, p, run, v, l), r.darkAt(t, p, run+1, v, l)
		kernel.paper(&p.rgb, x0, p, from, (to-from)*(1.0/darkRun))
		return
	}
	for c := range p.rgb {
		out := (*[darkRun]float32)(p.rgb[c][x0:])
		if r.behind != nil {
			*out = p.plain[c]
			continue
		}
		for i := range out {
			out[i] = p.colour[c]
		}
	}
}

// paperPlain makes a run of pixels by a darkness that begins with from and grows from pixel
// to pixel.
func paperPlain(out *colours, x0 int, p *paperRow, from, grows float32) {
	for i := range darkRun {
		dark := from + grows*float32(i)
		for c := range out {
			out[c][x0+i] = p.plain[c][i] + p.more[c][i]*dark
		}
	}
}

// drawPaper draws a tile in which there is nothing else.
func (r *Renderer) drawPaper(t *tile, v *View, l *lights) {
	for y := range t.h {
		p := r.paperRow(t, y)
		t.row.rgb = *r.paperAt(t, p, 0, tileSide, v, l)
		t.row.leave = 0
		r.writeRow(t, y, nil)
	}
}

// paper returns the colour of the paper in a row of the picture.
func (l *lights) paper(y, height int) (c [3]float32) {
	u := (float32(y) + 0.5) / float32(height)
	for k := range 3 {
		c[k] = l.paperTop[k] + (l.paperFoot[k]-l.paperTop[k])*u
	}
	return c
}
