package render

// paperRow is a row of the paper behind everything: its colour without shadow, and where its pixels
// lie in the shadow's map. A pixel x lies at the cell from + (aim + turn·x)·height /
// (down + lower·x), plus drift·x where the lines of sight are parallel.
type paperRow struct {
	colour      [3]float32
	first, last int // pixels of the tile with shadow; none where last < first

	from, aim, turn, drift [2]float32 // along x and z of the map, cells
	height, down, lower    float32
	below                  bool // the eye is over the ground

	made uint8                 // which runs of pixels are in rgb
	rgb  [3 * tileSide]float32 // with shadow
}

// darkRun is a number of pixels, a power of two, between whose ends the shadow is
// taken as straight: it is blurred over many more.
const (
	darkRun  = 1 << darkBits
	darkBits = 3
)

// paperRow prepares row y of the tile.
func (r *Renderer) paperRow(t *tile, y int, v *View, l *lights) *paperRow {
	p := &t.paper
	p.colour = l.paper(t.y0+y, r.height)
	p.first, p.last, p.made = 0, -1, 0
	if t.y0+y < r.shade.top || t.y0+y > r.shade.bottom {
		return p
	}
	p.drift, p.aim, p.turn = [2]float32{}, [2]float32{}, [2]float32{}
	m, s := &v.Camera.eye.R, v.shadow
	from := [3]float64{v.Camera.eye.T.X, v.Camera.eye.T.Y, v.Camera.eye.T.Z}
	dx, dy := (float64(t.x0)+0.5)*float64(r.rayAcross)-v.Camera.tanH, v.Camera.tanV-(float64(t.y0+y)+0.5)*float64(r.rayDown)
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
	p.first, p.last = max(r.shade.left-t.x0, 0), min(r.shade.right-t.x0, t.w-1)
	return p
}

// at returns the paper's colour at pixel x of the row.
func (p *paperRow) at(x int, v *View, l *lights) *[3]float32 {
	if run := x >> darkBits; p.made>>run&1 == 0 {
		p.make(run, v, l)
	}
	return (*[3]float32)(p.rgb[3*x:])
}

// make finds the colours of a run of pixels.
func (p *paperRow) make(run int, v *View, l *lights) {
	p.made |= 1 << run
	x0 := run << darkBits
	out := (*[3 * darkRun]float32)(p.rgb[3*x0:])
	if x0 > p.last || x0+darkRun <= p.first {
		for i := range darkRun {
			out[3*i], out[3*i+1], out[3*i+2] = p.colour[0], p.colour[1], p.colour[2]
		}
		return
	}
	from, to := p.darkAt(x0, v)*l.shadow, p.darkAt(x0+darkRun, v)*l.shadow
	grows := (to - from) * (1.0 / darkRun)
	span := [3]float32{l.ink[0] - p.colour[0], l.ink[1] - p.colour[1], l.ink[2] - p.colour[2]}
	kernel.paper(out, &p.colour, &span, from, grows)
}

// paperPlain mixes colours by a darkness that begins with from and grows from pixel to
// pixel.
func paperPlain(out *[3 * darkRun]float32, colour, span *[3]float32, from, grows float32) {
	for i := range darkRun {
		dark := from + grows*float32(i)
		out[3*i], out[3*i+1], out[3*i+2] = colour[0]+span[0]*dark, colour[1]+span[1]*dark, colour[2]+span[2]*dark
	}
}

// darkAt returns how dark the shadow is at pixel x of the row.
func (p *paperRow) darkAt(x int, v *View) float32 {
	fx := float32(x)
	down := p.down + p.lower*fx
	if down < 1e-6 || !p.below {
		return 0
	}
	far := p.height / down
	return v.shadow.AtCell(p.from[0]+far*(p.aim[0]+p.turn[0]*fx)+p.drift[0]*fx, p.from[1]+far*(p.aim[1]+p.turn[1]*fx)+p.drift[1]*fx)
}

// drawPaper draws a tile in which there is nothing else.
func (r *Renderer) drawPaper(t *tile, v *View, l *lights) {
	for y := range t.h {
		p := r.paperRow(t, y, v, l)
		for run := range tileSide / darkRun {
			p.make(run, v, l)
		}
		t.row.rgb = p.rgb
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
