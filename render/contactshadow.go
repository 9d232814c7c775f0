package render

// darkRun is a number of pixels, a power of two, between whose ends the shadow is
// taken as straight: it is blurred over many more.
const (
	darkRun  = 1 << darkBits
	darkBits = 3
)

// contactShadowRow is how dark the shadow is in a row of a tile where runs of pixels end.
type contactShadowRow [tileSide/darkRun + 1]float32

// contactShadow is the shadow on the background of a tile. It is looked up where rows and columns of darkRun
// pixels meet; where one looks along the floor, so that rows lie far apart on it, in every
// row.
type contactShadow struct {
	known, coarse bool
	made          [tileSide/darkRun + 1]bool // which of the rows that follow
	rows          [tileSide/darkRun + 1]contactShadowRow
	row           contactShadowRow // the one asked for
}

// clear forgets the shadow of another tile.
func (g *contactShadow) clear() {
	g.known = false
	clear(g.made[:])
}

// contactShadowOf returns how dark a row of the tile is; strength is that of the darkest shadow.
func (r *Renderer) contactShadowOf(t *tile, y int, v *View, strength float32) *contactShadowRow {
	g := &t.contactShadow
	if !g.known {
		g.known, g.coarse = true, r.straight(t, v)
	}
	if !g.coarse {
		r.lookUp(&g.row, t, y, v, strength)
		return &g.row
	}
	above, part := g.crossings(r, t, y>>darkBits, v, strength), y&(darkRun-1)
	if part == 0 {
		return above
	}
	below := g.crossings(r, t, y>>darkBits+1, v, strength)
	for i := range g.row {
		g.row[i] = above[i] + (below[i]-above[i])*(float32(part)*(1.0/darkRun))
	}
	return &g.row
}

func (g *contactShadow) crossings(r *Renderer, t *tile, k int, v *View, strength float32) *contactShadowRow {
	if !g.made[k] {
		g.made[k] = true
		r.lookUp(&g.rows[k], t, k<<darkBits, v, strength)
	}
	return &g.rows[k]
}

// lookUp looks the shadow up in a row.
func (r *Renderer) lookUp(out *contactShadowRow, t *tile, y int, v *View, strength float32) {
	a := r.aimAt(t, y, v)
	for run := range out {
		out[run] = a.dark(float32(run<<darkBits), v) * strength
	}
}

// straight reports whether darkRun rows of the tile lie within one and a half cells of the
// shadow's map, which is blurred over ten: rows are farthest apart at the top.
func (r *Renderer) straight(t *tile, v *View) bool {
	const most = 1.5
	top, next := r.aimAt(t, 0, v), r.aimAt(t, darkRun, v)
	for _, x := range [2]float32{0, tileSide} {
		x0, z0, ok := top.cell(x)
		x1, z1, also := next.cell(x)
		if !ok || !also || max(x1-x0, x0-x1, z1-z0, z0-z1) > most {
			return false
		}
	}
	return true
}

// aim says where the pixels of a row of a tile lie in the shadow's map: pixel x at the cell
// from + (aim + turn·x)·height / (down + lower·x), plus drift·x where the lines of sight are
// parallel.
type aim struct {
	from, aim, turn, drift [2]float32 // along x and z of the map, cells
	height, down, lower    float32
	below                  bool // the eye is over the floor
}

func (r *Renderer) aimAt(t *tile, y int, v *View) (a aim) {
	m, s := &v.Camera.eye.R, v.shadow
	from := [3]float64{v.Camera.eye.T.X, v.Camera.eye.T.Y, v.Camera.eye.T.Z}
	dx, dy := (float64(t.x0)+0.5)*float64(
		r.rayAcross,
	)-v.Camera.tanH, v.Camera.tanV-(float64(t.y0+y)+0.5)*float64(r.rayDown)
	step := float64(r.rayAcross)
	// The direction of pixel x is away + across·x.
	var away, across [3]float64
	for k := range 3 {
		if v.Camera.orthographic { // every line of sight begins elsewhere and runs the same way
			from[k] += v.Camera.distance * (m[3*k]*dx + m[3*k+1]*dy)
			away[k] = -m[3*k+2]
			continue
		}
		away[k], across[k] = m[3*k]*dx+m[3*k+1]*dy-m[3*k+2], m[3*k]*step
	}
	a.height, a.down, a.lower = float32(from[1]-s.Height), float32(-away[1]), float32(-across[1])
	lift := 0.0
	if v.Camera.orthographic {
		a.lower, lift = 0, v.Camera.distance*m[3]*step
	}
	for i, k := range [2]int{0, 2} {
		edge := [3]float64{s.Left, 0, s.Back}[k]
		a.from[i] = float32((from[k]-edge)/s.Cell - 0.5)
		a.aim[i], a.turn[i] = float32(away[k]/s.Cell), float32(across[k]/s.Cell)
		if v.Camera.orthographic && a.down > 0 {
			a.drift[i] = float32((v.Camera.distance*m[3*k]*step + lift/float64(a.down)*away[k]) / s.Cell)
		}
	}
	a.below = a.height > 0 || v.Camera.orthographic
	return a
}

// cell returns the cell of the map that pixel x lies in; not ok for one above the horizon.
func (a *aim) cell(x float32) (cx, cz float32, ok bool) {
	down := a.down + a.lower*x
	if down < 1e-6 || !a.below {
		return 0, 0, false
	}
	far := a.height / down
	return a.from[0] + far*(a.aim[0]+a.turn[0]*x) + a.drift[0]*x, a.from[1] + far*(a.aim[1]+a.turn[1]*x) + a.drift[1]*x, true
}

// dark returns how dark the map of the shadow is under pixel x of the row.
func (a *aim) dark(x float32, v *View) float32 {
	cx, cz, ok := a.cell(x)
	if !ok {
		return 0
	}
	return v.shadow.AtCell(cx, cz)
}
