package render

import (
	"math"
	"slices"

	"slowreveal/core/look"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

const (
	subBits  = 8 // screen coordinates are in 1/256 pixel
	subPixel = 1 << subBits
	tileSide = 64
	// guard is how far outside the frame, in 1/256 pixel, a corner may lie before
	// its triangle is left out: it keeps edge functions within 64 bits.
	guard = 1 << 17 << subBits
	near  = 0.02 // mm: a watch screw is looked at from some millimetres
)

// onScreen is a vertex on the screen: 1/256 pixel, and 1/z.
type onScreen struct {
	x, y int32
	w    float32 // 0 where the vertex lies behind the near plane or far outside
}

// projected is one part seen from the camera.
type projected struct {
	visible, solid bool
	near           bool // whether it and others darken each other
	opacity        float32
	facing         float32 // the opacity of the faces, opacity included
	through        float32 // that of the edges behind them
	toCamera       space.Rigid
	vertices       []vertex // of its shape
	screen         []onScreen
	faces          []face
	box            pixelBox   // of all faces
	inner          int32      // from which face on they look inwards
	strips         int32      // from which face on they are edges
	tiles          []tileRun  // which faces touch which tile, by tile
	unsorted       []tileRun  // work space of tiles
	begins         []int32    // work space of tiles
	depth          float64    // of the middle of its box, mm from the eye
	finishes       []*surface // by patch, tinted where the part is
	tinted         []surface  // work space of finishes
	worn           []*surface // work space of finishes
}

type tileRun struct {
	tile  int32
	index int32
}

// forget forgets the faces.
func (out *projected) forget() {
	out.faces, out.tiles, out.unsorted, out.box, out.inner = out.faces[:0], out.tiles[:0], out.unsorted[:0], noPixels, 0
}

// project sees part k from the view's camera and lists its faces.
func (r *Renderer) project(k int, v *View) {
	p, out := &r.scene.parts[k], &r.seen[k]
	out.forget()
	out.opacity = float32(v.Opacity[p.node])
	surface := v.Surface[p.node]
	hidden := look.Default.HiddenEdges
	if v.AllEdges {
		hidden = 1
	}
	out.facing, out.through = out.opacity*float32(surface.Faces), out.opacity*float32((1-surface.Faces)*hidden)
	out.solid = out.opacity >= 1 && surface.Faces >= 1 && (!p.clear || v.fills(p.node))
	out.near = out.solid && surface.Flat == 0 && surface.Edges >= 1
	out.visible = out.opacity > 0
	if !out.visible {
		return
	}
	r.dress(out, p, v, float32(surface.Flat))
	shape := r.scene.shapes[p.shape]
	inverse := v.Camera.eye.Inverse()
	out.toCamera = inverse.Mul(&v.World[p.node])
	if !r.inSight(shape.Bounds, &out.toCamera, v) {
		out.visible = false
		return
	}
	centre := out.toCamera.Apply(shape.Bounds.Centre())
	out.depth = -centre.Z
	out.move(shape)
	v.Camera.allToPerspective(out.vertices)
	r.putOnScreen(out, v)
	order := &r.scene.orders[p.shape]
	for i := range order.outer {
		r.addFace(out, &order.outer[i], int32(p.first), p.closed, v)
	}
	out.inner = int32(len(out.faces))
	for i := range order.inner {
		r.addFace(out, &order.inner[i], int32(p.first), p.closed, v)
	}
	out.strips = int32(len(out.faces))
	if r.edgeWidth*surface.Edges > thinnestLine {
		r.projectEdges(out, p, v, surface.Edges, surface.Faces < 1)
	}
	out.sortTiles(len(r.bins))
}

// dress finds what a part wears: its finishes, tinted or going to the flat colour.
func (r *Renderer) dress(out *projected, p *part, v *View, flat float32) {
	out.finishes = p.finishes
	t, sheet := &v.Tint[p.node], look.Default.BackgroundTop
	if v.Transparent != nil {
		sheet = v.Transparent[p.node]
	}
	if t.Amount == 0 && flat == 0 {
		return
	}
	out.tinted, out.worn = out.tinted[:0], out.worn[:0]
	numbers := r.scene.FinishesOf(p.node)
	for i := range p.worn {
		worn := p.worn[i]
		worn.Colour = t.Over(worn.Colour)
		s := surfaceOf(&worn)
		s.flat, s.transparent = flat, narrow(sheet)
		if v.TransparentFinish != nil {
			s.transparent = narrow(v.TransparentFinish[numbers[i]])
		}
		s.widen()
		out.tinted = append(out.tinted, s)
	}
	for i := range out.tinted {
		out.worn = append(out.worn, &out.tinted[i])
	}
	out.finishes = out.worn
}

// sortTiles brings the faces' tiles into the order of tiles, those of one tile in the
// order of faces: each tile's are counted, then put in their place.
func (out *projected) sortTiles(tiles int) {
	if len(out.unsorted) == 0 {
		return
	}
	least, most := int32(tiles), int32(0)
	for _, run := range out.unsorted {
		least, most = min(least, run.tile), max(most, run.tile)
	}
	out.begins = slices.Grow(out.begins[:0], tiles+1)[:most-least+2]
	clear(out.begins)
	for _, run := range out.unsorted {
		out.begins[run.tile-least+1]++
	}
	for i := 1; i < len(out.begins); i++ {
		out.begins[i] += out.begins[i-1]
	}
	out.tiles = slices.Grow(out.tiles[:0], len(out.unsorted))[:len(out.unsorted)]
	for _, run := range out.unsorted {
		at := &out.begins[run.tile-least]
		out.tiles[*at] = run
		*at++
	}
}

// inSight reports whether a box may show in the frame.
func (r *Renderer) inSight(b space.Box, m *space.Rigid, v *View) bool {
	right, left, top, bottom, front := true, true, true, true, true
	for i := range 8 {
		c := m.Apply(b.Corner(i))
		across, up := v.Camera.reach(-c.Z)
		right, left = right && c.X > across, left && -c.X > across
		top, bottom = top && c.Y > up, bottom && -c.Y > up
		front = front && -c.Z < near && !v.Camera.orthographic
	}
	return !(right || left || top || bottom || front)
}

// matrix is a rigid motion in 32 bits.
type matrix struct {
	r [9]float32
	t [3]float32
}

func matrixOf(m *space.Rigid) (out matrix) {
	for i := range out.r {
		out.r[i] = float32(m.R[i])
	}
	out.t = narrow(space.Vec3Of(m.T))
	return out
}

func (m *matrix) apply(p *[3]float32) [3]float32 {
	x, y, z := p[0], p[1], p[2]
	k, t := &m.r, &m.t
	return [3]float32{k[0]*x + k[1]*y + k[2]*z + t[0], k[3]*x + k[4]*y + k[5]*z + t[1], k[6]*x + k[7]*y + k[8]*z + t[2]}
}

// vertex is one of a part, in the camera's frame, mm.
type vertex struct{ at, normal [3]float32 }

// move brings a shape's vertices into the camera's frame.
func (out *projected) move(s *solid.Shape) {
	n := len(s.Positions) / 3
	out.vertices = slices.Grow(out.vertices[:0], n+1)[:n] // vectors reach past the last
	m := matrixOf(&out.toCamera)
	kernel.move(out.vertices, s.Positions, s.Normals, &m)
}

func movePlain(out []vertex, positions, normals []float32, m *matrix) {
	r, t := &m.r, &m.t
	for i := range out {
		p, n, v := (*[3]float32)(positions[3*i:]), (*[3]float32)(normals[3*i:]), &out[i]
		for k := range 3 {
			row := (*[3]float32)(r[3*k:])
			v.at[k] = row[0]*p[0] + row[1]*p[1] + row[2]*p[2] + t[k]
			v.normal[k] = row[0]*n[0] + row[1]*n[1] + row[2]*n[2]
		}
	}
}

// viewport is how points of the camera's frame stand on the screen: its middle, and how far
// from it a point of slope 1 is, in 1/256 pixel.
type viewport struct{ cx, cy, sx, sy float64 }

func (r *Renderer) viewport(v *View) viewport {
	cx, cy := float64(r.width)/2*subPixel, float64(r.height)/2*subPixel
	return viewport{cx, cy, cx / v.Camera.tanH, cy / v.Camera.tanV}
}

// putOnScreen projects a part's vertices.
func (r *Renderer) putOnScreen(out *projected, v *View) {
	out.screen = slices.Grow(out.screen[:0], len(out.vertices)+1)[:len(out.vertices)]
	w := r.viewport(v)
	kernel.screen(out.screen, out.vertices, &w)
}

func screenPlain(out []onScreen, in []vertex, w *viewport) {
	for i := range out {
		out[i] = w.project(&in[i].at)
	}
}

// project projects a point.
func (s *viewport) project(p *[3]float32) onScreen {
	w := -1 / float64(p[2])
	x, y := s.cx+float64(p[0])*w*s.sx, s.cy-float64(p[1])*w*s.sy
	if p[2] > -near || x > guard || x < -guard || y > guard || y < -guard {
		return onScreen{}
	}
	return onScreen{int32(math.Floor(x + 0.5)), int32(math.Floor(y + 0.5)), float32(w)}
}

// addFace adds a face of a shape. Both sides are drawn unless it is oneSided.
func (r *Renderer) addFace(out *projected, m *meshFace, id int32, oneSided bool, v *View) {
	a, b, c, d := &out.screen[m.corner[0]], &out.screen[m.corner[1]], &out.screen[m.corner[2]], &out.screen[m.corner[3]]
	whole := a.w != 0 && b.w != 0 && c.w != 0 && d.w != 0
	if whole && m.second >= 0 {
		f := face{
			x:  [4]int32{a.x, b.x, c.x, d.x},
			y:  [4]int32{a.y, b.y, c.y, d.y},
			w:  [4]float32{a.w, b.w, c.w, d.w},
			id: id + m.first,
		}
		if side := f.side4(); side != 0 {
			if side > 0 && oneSided {
				return
			}
			if side < 0 {
				f.turn()
			}
			r.note(out, &f)
			return
		}
	}
	r.addTriangle(out, [3]uint32(m.corner[:3]), id+m.first, whole, oneSided, v)
	if m.second >= 0 {
		r.addTriangle(out, [3]uint32{m.corner[1], m.corner[3], m.corner[2]}, id+m.second, whole, oneSided, v)
	}
}

// addTriangle adds a triangle of vertices, all of them in front of the eye where it is whole.
func (r *Renderer) addTriangle(out *projected, corner [3]uint32, id int32, whole, oneSided bool, v *View) {
	if !whole {
		var at [3][3]float32
		for i := range 3 {
			at[i] = out.vertices[corner[i]].at
		}
		r.addClipped(out, &at, id, oneSided, v)
		return
	}
	f := face{id: id}
	for i, k := range corner {
		f.x[i], f.y[i], f.w[i] = out.screen[k].x, out.screen[k].y, out.screen[k].w
	}
	r.bin(out, &f, oneSided)
}

// addClipped adds a triangle after cutting off what lies behind the near
// plane.
func (r *Renderer) addClipped(out *projected, c *[3][3]float32, id int32, oneSided bool, v *View) {
	behind := 0
	for i := range c {
		if c[i][2] > -near {
			behind++
		}
	}
	switch behind {
	case 0:
		r.add(out, c, id, oneSided, v)
		return
	case 3:
		return
	}
	var cut [4][3]float32
	n := 0
	for i := range 3 {
		a, b := c[i], c[(i+1)%3]
		if a[2] <= -near {
			cut[n] = a
			n++
		}
		if (a[2] <= -near) != (b[2] <= -near) {
			u := (-near - a[2]) / (b[2] - a[2])
			cut[n] = [3]float32{a[0] + (b[0]-a[0])*u, a[1] + (b[1]-a[1])*u, -near}
			n++
		}
	}
	for i := 2; i < n; i++ {
		r.add(out, &[3][3]float32{cut[0], cut[i-1], cut[i]}, id, oneSided, v)
	}
}

// add projects a triangle in front of the camera and notes the tiles that it
// touches; one that reaches far out of the frame is left out.
func (r *Renderer) add(out *projected, c *[3][3]float32, id int32, oneSided bool, v *View) {
	f, w := face{id: id}, r.viewport(v)
	for i := range 3 {
		s := w.project(&c[i])
		if s.w == 0 {
			return
		}
		f.x[i], f.y[i], f.w[i] = s.x, s.y, s.w
	}
	r.bin(out, &f, oneSided)
}

// bin notes the tiles that a triangle touches; oneSided ones are left out when they look away.
func (r *Renderer) bin(out *projected, f *face, oneSided bool) {
	area := int64(f.x[1]-f.x[0])*int64(f.y[2]-f.y[0]) - int64(f.x[2]-f.x[0])*int64(f.y[1]-f.y[0])
	if area == 0 || oneSided && area > 0 { // rows run downwards: a front has a negative area
		return
	}
	if area < 0 {
		f.turn()
	}
	f.x[3], f.y[3], f.w[3] = f.x[2], f.y[2], f.w[2]
	r.note(out, f)
}

// note lists a face for the tiles that it touches.
func (r *Renderer) note(out *projected, f *face) {
	if !f.bound(r.width, r.height) {
		return
	}
	out.box = out.box.with(f)
	tx0, tx1, ty0, ty1 := int32(f.left)/tileSide, int32(f.right)/tileSide, int32(f.top)/tileSide, int32(
		f.bottom,
	)/tileSide
	at := int32(len(out.faces))
	out.faces = append(out.faces, *f)
	for ty := ty0; ty <= ty1; ty++ {
		for tx := tx0; tx <= tx1; tx++ {
			out.unsorted = append(out.unsorted, tileRun{ty*int32(r.across) + tx, at})
		}
	}
}
