package render

// paperRow is a row of the paper behind everything: its colour without shadow, and where its pixels
// lie in the shadow's map. A pixel x lies at the cell from + (aim + turn·x)·height /
// (down + lower·x), plus drift·x where the lines of sight are parallel.
type paperRow struct {
	colour      [3]float32
	y           int // of the tile
	first, last int // pixels of the tile with shadow; none where last < first

	aimed                  bool       // whether the numbers that follow are this row's
	from, aim, turn, drift [2]float32 // along x and z of the map, cells
	height, down, lower    float32
	below                  bool // the eye is over the ground
	// plain is the colour and more what the darkest shadow adds to it, for a run of pixels.
	plain, more [3][darkRun]float32

	known uint16                        // at which ends of runs the shadow is in dark
	dark  [tileSide/darkRun + 1]float32 // there
	made  uint8                         // which runs of pixels are in rgb
	rgb   colours                       // with shadow
}

// darkRun is a number of pixels, a power of two, between whose ends the shadow is
// taken as straight: it is blurred over many more.
const (
	darkRun  = 1 << darkBits
	darkBits = 3
)

// paperRow prepares row y of the tile.
func (r *Renderer) paperRow(t *tile, y int) *paperRow {
	p := &t.paper
	p.colour = r.papers[t.y0+y]
	p.y, p.aimed, p.known, p.made = y, false, 0, 0
	p.first, p.last = 0, -1
	if t.y0+y >= r.shade.top && t.y0+y <= r.shade.bottom {
		p.first, p.last = max(r.shade.left-t.x0, 0), min(r.shade.right-t.x0, t.w-1)
	}
	return p
}

// aimPaper finds where the row's pixels lie in the shadow's map.
func (r *Renderer) aimPaper(t *tile, p *paperRow, v *View, l *lights) {
	p.aimed = true
	for c := range p.plain {
		for i := range darkRun {
			p.plain[c][i], p.more[c][i] = p.colour[c], l.ink[c]-p.colour[c]
		}
	}
	p.drift, p.aim, p.turn = [2]float32{}, [2]float32{}, [2]float32{}
	m, s := &v.Camera.eye.R, v.shadow
	from := [3]float64{v.Camera.eye.T.X, v.Camera.eye.T.Y, v.Camera.eye.T.Z}
	dx, dy := (float64(t.x0)+0.5)*float64(r.rayAcross)-v.Camera.tanH, v.Camera.tanV-(float64(t.y0+p.y)+0.5)*float64(r.rayDown)
	step := float64(r.rayAcross)
	// The direction of pixel x is away + across·x.
	var away, across [3]float64
	for k := range 3 {
		if v.Camera.parallel { // every line of sight begins elsewhere and runs the same way
			from[k] += v.Camera.distance * (m[3*k]*dx + m[3*k+1]*dy)
			away[k] = -m[3*k+2]
			continue
		}
		away[k], across[k] = m[3*k]*dx+m[3*k+1]*dy-m[3*k+2], m[3*k]*step
	}
	p.height, p.down, p.lower = float32(from[1]-s.Height), float32(-away[1]), float32(-across[1])
	lift := 0.0
	if v.Camera.parallel {
		p.lower, lift = 0, v.Camera.distance*m[3]*step
	}
	for i, k := range [2]int{0, 2} {
		edge := [3]float64{s.Left, 0, s.Back}[k]
		p.from[i] = float32((from[k]-edge)/s.Cell - 0.5)
		p.aim[i], p.turn[i] = float32(away[k]/s.Cell), float32(across[k]/s.Cell)
		if v.Camera.parallel && p.down > 0 {
			p.drift[i] = float32((v.Camera.distance*m[3*k]*step + lift/float64(p.down)*away[k]) / s.Cell)
		}
	}
	p.below = p.height > 0 || v.Camera.parallel
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
	if !light && !p.aimed {
		r.aimPaper(t, p, v, l)
	}
	if r.behind != nil {
		r.behindRun(t, p, run, &l.ink)
	}
	if !light {
		from, to := p.darkAt(run, v, l), p.darkAt(run+1, v, l)
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

// darkAt returns how dark the shadow is where a run of pixels begins.
func (p *paperRow) darkAt(run int, v *View, l *lights) float32 {
	if p.known>>run&1 == 0 {
		p.known |= 1 << run
		p.dark[run] = p.look(float32(run<<darkBits), v) * l.shadow
	}
	return p.dark[run]
}

// look returns how dark the map of the shadow is under pixel x of the row.
func (p *paperRow) look(x float32, v *View) float32 {
	down := p.down + p.lower*x
	if down < 1e-6 || !p.below {
		return 0
	}
	far := p.height / down
	return v.shadow.AtCell(p.from[0]+far*(p.aim[0]+p.turn[0]*x)+p.drift[0]*x, p.from[1]+far*(p.aim[1]+p.turn[1]*x)+p.drift[1]*x)
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
