package render

import (
	"slices"

	"slowreveal/core/film"
	"slowreveal/core/look"
	"slowreveal/core/space"
)

// memory is what the renderer keeps of the picture before: while the camera
// stands still, only the tiles are drawn anew in which something has changed.
type memory struct {
	kept        bool
	world       []space.Rigid
	opacity     []float64
	tint        []film.Tint
	surface     []film.Surface
	filled      []bool
	flow        []film.Segment
	camera      viewCamera
	dark        []float32
	base        *Picture    // that is drawn into
	before      *Picture    // that the last one was drawn into, or base where that is lost
	dirty       []bool      // by tile
	plain       []bool      // by tile: whether it is background without shadow
	invalidated []pixelRect // by tile: where the shadow in it has changed
	relit       []bool      // by tile: whether what is in it is darkened otherwise by what is near
	changed     []bool      // by part, and behind them the flow lines

	picture     int64   // counts pictures
	changedAt   []int64 // by part and for the flow lines: the last picture in which it was another
	steady      bool    // the camera stands as in the picture before
	staticTiles map[int]*staticTile
	spare       []*staticTile // whose tiles are gone
}

func newMemory(tiles, parts int) memory {
	return memory{
		dirty:       make([]bool, tiles),
		plain:       make([]bool, tiles),
		invalidated: make([]pixelRect, tiles),
		relit:       make([]bool, tiles),
		changed:     make([]bool, parts+1),
		changedAt:   make([]int64, parts+1),
		staticTiles: map[int]*staticTile{},
	}
}

// compare finds what has changed since the last picture. Everything has when the
// camera moved.
func (r *Renderer) compare(v *View) {
	m := &r.memory
	all := !m.kept || m.camera != v.Camera
	for i := range m.dirty {
		m.dirty[i] = all
	}
	for k := range r.scene.parts {
		n := r.scene.parts[k].node
		m.changed[k] = all || m.world[n] != v.World[n] || m.opacity[n] != v.Opacity[n] || m.tint[n] != v.Tint[n] ||
			m.surface[n] != v.Surface[n] || (n < len(m.filled) && m.filled[n]) != v.fills(n)
	}
	m.changed[len(r.scene.parts)] = all || !slices.Equal(m.flow, v.Flow)
	m.picture++
	m.steady = !all
	for k, changed := range m.changed {
		if changed {
			m.changedAt[k] = m.picture
		}
	}
	for i := range m.invalidated {
		m.invalidated[i] = emptyRect
	}
	if !all {
		r.invalidateChanged() // where they were
		r.invalidateShadow(v)
	}
}

// invalidateChanged marks the tiles that changed parts touch as they are projected
// now.
func (r *Renderer) invalidateChanged() {
	for k, changed := range r.memory.changed {
		if changed && r.seen[k].visible {
			for _, run := range r.seen[k].tiles {
				r.memory.dirty[run.tile] = true
			}
		}
	}
}

// invalidateShadow marks the tiles in which the contact shadow has changed, cell by
// cell: what moves may stand far apart.
func (r *Renderer) invalidateShadow(v *View) {
	const n = look.ShadowSize
	s := v.shadow
	if slices.Equal(s.Dark, r.memory.dark) {
		return
	}
	inverse := v.Camera.eye.Inverse()
	for k := range n {
		for i := 0; i < n; i++ {
			if s.Dark[k*n+i] == r.memory.dark[k*n+i] {
				continue
			}
			// A run of changed cells. Between their middles the shadow is
			// interpolated, so that it reaches one cell further.
			last := i
			for last+1 < n && s.Dark[k*n+last+1] != r.memory.dark[k*n+last+1] {
				last++
			}
			r.invalidateFloor(v, &inverse, float64(i-1), float64(last+2), float64(k-1), float64(k+2))
			i = last
		}
	}
}

// invalidateFloor marks the tiles over a rectangle of the floor, in cells.
func (r *Renderer) invalidateFloor(v *View, inverse *space.Rigid, x0, x1, z0, z1 float64) {
	left, top, right, bottom := r.onFloor(v, inverse, x0, x1, z0, z1)
	for ty := max(top, 0) / tileSide; ty <= min(bottom, r.height-1)/tileSide; ty++ {
		for tx := max(left, 0) / tileSide; tx <= min(right, r.width-1)/tileSide; tx++ {
			r.memory.dirty[ty*r.across+tx] = true
			i := ty*r.across + tx
			r.memory.invalidated[i] = r.memory.invalidated[i].with(left, top, right, bottom, tx*tileSide, ty*tileSide)
		}
	}
}

// onFloor returns the pixels over a rectangle of the floor, in cells of the
// shadow; all of them where some of it lies behind the eye.
func (r *Renderer) onFloor(v *View, inverse *space.Rigid, x0, x1, z0, z1 float64) (left, top, right, bottom int) {
	s := v.shadow
	left, right, top, bottom = r.width, -1, r.height, -1
	for i := range 4 {
		x, z := s.Left+[2]float64{x0, x1}[i&1]*s.Cell, s.Back+[2]float64{z0, z1}[i>>1]*s.Cell
		p := inverse.Apply(space.Vec{X: x, Y: s.Height, Z: z})
		if p.Z > -near && !v.Camera.orthographic {
			return 0, 0, r.width - 1, r.height - 1
		}
		across, up := v.Camera.reach(-p.Z)
		px := (0.5 + p.X/across/2) * float64(r.width)
		py := (0.5 - p.Y/up/2) * float64(r.height)
		// Far outside is outside, whatever the number.
		px, py = max(-1e6, min(px, 1e6)), max(-1e6, min(py, 1e6))
		left = min(left, int(px)-1)
		right = max(right, int(px)+1)
		top = min(top, int(py)-1)
		bottom = max(bottom, int(py)+1)
	}
	return left, top, right, bottom
}

// findShade finds the pixels outside of which the background is without shadow.
func (r *Renderer) findShade(v *View) {
	const n = look.ShadowSize
	first, last, back, front := n, -1, n, -1
	for k := range n {
		for i, dark := range v.shadow.Dark[k*n : k*n+n] {
			if dark > 0 {
				first, last, back, front = min(first, i), max(last, i), min(back, k), max(front, k)
			}
		}
	}
	r.shade = pixelRect{r.width, r.height, -1, -1}
	if last >= 0 {
		inverse := v.Camera.eye.Inverse()
		left, top, right, bottom := r.onFloor(
			v,
			&inverse,
			float64(first-1),
			float64(last+2),
			float64(back-1),
			float64(front+2),
		)
		r.shade = pixelRect{left, top, right, bottom}
	}
}

// prepareStaticTiles finds or makes the static tiles of the dirty tiles: before the threads
// begin, which only look them up.
func (r *Renderer) prepareStaticTiles() {
	m := &r.memory
	if !m.steady {
		for _, g := range m.staticTiles {
			m.spare = append(m.spare, g)
		}
		clear(m.staticTiles)
		return
	}
	for i, dirty := range m.dirty {
		if dirty {
			r.staticTileOf(i)
		}
	}
}

// staticTile returns the static tile of a tile, nil when it has none.
func (m *memory) staticTile(i int) *staticTile { return m.staticTiles[i] }

// remember keeps the view for the next comparison.
func (r *Renderer) remember(v *View) {
	m := &r.memory
	m.kept, m.camera = true, v.Camera
	m.world = append(m.world[:0], v.World...)
	m.opacity = append(m.opacity[:0], v.Opacity...)
	m.tint = append(m.tint[:0], v.Tint...)
	m.surface = append(m.surface[:0], v.Surface...)
	m.filled = append(m.filled[:0], v.Filled...)
	m.flow = append(m.flow[:0], v.Flow...)
	m.dark = append(m.dark[:0], v.shadow.Dark...)
}
