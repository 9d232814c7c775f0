package render

import "math"

// shadingSamples are the places in a row of a tile at which a surface is to be shaded, as
// arrays of one quantity each, so that eight can be worked on at once. The points of
// pixels that are seen as one stand first, each at the number of its pixel; from aside on
// come the others.
type shadingSamples struct {
	nx, ny, nz [slots]float32             // the normal, of any length, in the camera's frame
	dx, dy     [slots]float32             // the ray from the eye; its z is −1
	rgb        [3][slots]float32          // the display colour, once shaded
	met        [metNumbers][slots]float32 // what is found on the way there: how much of each light

	uniform, others batches
	n               int     // the next of the others
	turn            float32 // by how much the ray turns from pixel to pixel
	height          float32 // dy of the row
	high            bool    // whether dy has it at all pixels
	portions        [rowSamples]portion
	flats           [tileSide]flatRun
	nPortions       int
	nFlats          int
}

const (
	// rowSamples is how many others there can be: one for each sample.
	rowSamples = tileSide * samples
	// Vectors reach so far past the pixels, and past the others.
	aside = tileSide + lanes
	slots = aside + rowSamples + lanes
)

// batch is points side by side that have one finish. Between some there may be others, which
// nobody looks at.
type batch struct {
	from, to int // the first, and the one after the last
	finish   *surface
}

type batches struct {
	n    int
	list [rowSamples]batch
}

// add adds points behind those that are there.
func (b *batches) add(from, n int, finish *surface) {
	if b.n > 0 {
		// What lies between is shaded with them: that is faster than to begin anew.
		if last := &b.list[b.n-1]; last.finish == finish && from-last.to < lanes {
			last.to = from + n
			return
		}
	}
	b.list[b.n] = batch{from, from + n, finish}
	b.n++
}

// portion is a point that is seen in a part of a pixel.
type portion struct {
	weight float32
	point  uint16
	pixel  uint8 // in the row
}

// flatRun is pixels side by side of a flat facet, whose colour changes so slowly that it is shaded
// at every step-th pixel only: from the last of these before the run to the first after it.
type flatRun struct {
	first       uint16 // point
	x, n        uint8
	begin, step uint8 // pixel of the first point
}

// aim tells which way the rays of a tile's columns go: dx is that of the first, and turn by how much it
// turns from one to the next.
func (p *shadingSamples) aim(dx, turn float32) {
	p.turn = turn
	for x := range aside {
		p.dx[x] = dx + turn*float32(x)
	}
}

// begin begins a row; dy is how far down its rays go.
func (p *shadingSamples) begin(dy float32) {
	p.uniform.n, p.others.n, p.n, p.nPortions, p.nFlats = 0, 0, aside, 0, 0
	p.height, p.high = dy, false
}

// add notes that a facet is seen in a part of a pixel.
func (p *shadingSamples) add(f *triangleSetup, weight float32, pixel int) {
	i := p.n
	p.dx[i], p.dy[i] = p.dx[pixel], p.height
	if f.flat {
		p.nx[i], p.ny[i], p.nz[i] = f.n[0], f.n[1], f.n[2]
	} else {
		kernel.normals(p, f, i, 1)
	}
	p.others.add(i, 1, f.finish)
	p.portions[p.nPortions&(rowSamples-1)] = portion{weight, uint16(i), uint8(pixel)}
	p.nPortions++
	p.n++
}

// addRun notes that a facet is seen in n pixels side by side, wholly. It is shaded at every step-th
// pixel if it is flat.
func (p *shadingSamples) addRun(f *triangleSetup, x, n, step int) {
	if f.flat && step > 1 { // whatever n is: how runs are divided depends on what is known already
		p.addFlat(f, x, n, step)
		return
	}
	if !p.high {
		p.high = true
		for x := range aside {
			p.dy[x] = p.height
		}
	}
	p.uniform.add(x, n, f.finish)
	if f.flat {
		for i := x; i < x+n; i++ {
			p.nx[i], p.ny[i], p.nz[i] = f.n[0], f.n[1], f.n[2]
		}
		return
	}
	kernel.normals(p, f, x, n)
}

func (p *shadingSamples) addFlat(f *triangleSetup, x, n, step int) {
	begin := x &^ (step - 1)
	count := (x+n-1-begin)/step + 2
	from := p.dx[begin]
	for i := range count {
		k := p.n + i
		p.nx[k], p.ny[k], p.nz[k] = f.n[0], f.n[1], f.n[2]
		p.dx[k], p.dy[k] = from+p.turn*float32(i*step), p.height
	}
	p.others.add(p.n, count, f.finish)
	p.flats[p.nFlats&(tileSide-1)] = flatRun{uint16(p.n), uint8(x), uint8(n), uint8(begin), uint8(step)}
	p.nFlats++
	p.n += count
}

// normalsPlain finds the normals, of any length, of n points side by side in a row: where their rays meet
// the plane of a facet that is not flat, held inside the facet.
func normalsPlain(p *shadingSamples, f *triangleSetup, x, n int) {
	dy := p.height
	detY, uY, vY := f.det[1]*dy, f.u[1]*dy, f.v[1]*dy
	for i := x; i < x+n; i++ {
		dx := p.dx[i]
		det, u, v := f.det[0]*dx+detY-f.det[2], f.u[0]*dx+uY-f.u[2], f.v[0]*dx+vY-f.v[2]
		if det < 0 {
			det, u, v = -det, -u, -v
		}
		if u < 0 {
			u = 0
		} else if u > det {
			u = det
		}
		if v < 0 {
			v = 0
		} else if v > det {
			v = det
		}
		if det == 0 { // seen along its plane
			det, u, v = 3, 1, 1
		}
		p.nx[i] = f.n[0]*det + f.du[0]*u + f.dv[0]*v
		p.ny[i] = f.n[1]*det + f.du[1]*u + f.dv[1]*v
		p.nz[i] = f.n[2]*det + f.du[2]*u + f.dv[2]*v
	}
}

// shade finds the colours of all points.
func (p *shadingSamples) shade(l *lights) {
	for _, of := range [2]*batches{&p.uniform, &p.others} { // vectors reach from the one into the other
		for i := range of.n {
			b := &of.list[i]
			kernel.light(p, b.from, b.to, b.finish, l)
			p.toFlatColour(b)
		}
	}
}

// toFlatColour mixes the colours of a batch with that of the flat colour, as far as its finish goes to it.
func (p *shadingSamples) toFlatColour(b *batch) {
	s := b.finish
	if s.flat == 0 {
		return
	}
	for c := range p.rgb {
		of := p.rgb[c][b.from:b.to]
		for i := range of {
			of[i] += (s.transparent[c] - of[i]) * s.flat
		}
	}
}

// gather puts the shaded points into their pixels.
func (w *row) gather() {
	q := &w.points
	if q.uniform.n > 0 {
		for c := range q.rgb {
			w.rgb[c] = [tileSide]float32(q.rgb[c][:tileSide])
		}
	}
	for i := range q.nFlats {
		kernel.lay(&w.rgb, q, &q.flats[i&(tileSide-1)])
	}
	for i := range q.nPortions {
		s := &q.portions[i&(rowSamples-1)]
		x := s.pixel & (tileSide - 1)
		for c := range q.rgb {
			w.shares[c][x] += q.rgb[c][s.point] * s.weight
		}
	}
	if w.shared != 0 {
		kernel.choose(&w.rgb, &w.shares, w.shared)
	}
}

// triangleSetup is a triangle of a part, ready to be met by rays from the eye: all
// vectors are in the camera's frame.
type triangleSetup struct {
	id     int32
	finish *surface
	// A ray d meets the triangle at the barycentric coordinates d·u/d·det and
	// d·v/d·det (Möller, Trumbore 1997, solved for d).
	det, u, v [3]float32
	// The normal is n + u·du + v·dv, or the same everywhere.
	n, du, dv [3]float32
	flat      bool
}

// setupSlots is how many facets a tile keeps, a power of two: the rows and the pixels
// next to each other mostly ask for the same ones.
const setupSlots = 512

// forget forgets the facets of other pictures: triangles move.
func (t *tile) forget(picture int64) {
	if t.picture == picture {
		return
	}
	t.picture = picture
	for i := range t.triangleSetups {
		t.triangleSetups[i].id = noFace
	}
}

// triangleSetupOf returns the facet of a triangle.
func (r *Renderer) triangleSetupOf(t *tile, id int32) *triangleSetup {
	f := &t.triangleSetups[id&(setupSlots-1)]
	if f.id == id {
		return f
	}
	part := r.scene.partOf[id]
	p, seen := &r.scene.parts[part], &r.seen[part]
	of := &r.scene.triangle[p.shape][int(id)-p.first]
	a, b, c := &seen.vertices[of.corner[0]], &seen.vertices[of.corner[1]], &seen.vertices[of.corner[2]]
	f.id = id
	f.finish = seen.finishes[0]
	if len(seen.finishes) > 1 {
		f.finish = seen.finishes[of.patch()]
	}
	s := [3]float32{-a.at[0], -a.at[1], -a.at[2]}
	e1 := [3]float32{b.at[0] - a.at[0], b.at[1] - a.at[1], b.at[2] - a.at[2]}
	e2 := [3]float32{c.at[0] - a.at[0], c.at[1] - a.at[1], c.at[2] - a.at[2]}
	f.det, f.u, f.v = cross(&e2, &e1), cross(&e2, &s), cross(&s, &e1)
	f.n = a.normal
	f.du = [3]float32{b.normal[0] - a.normal[0], b.normal[1] - a.normal[1], b.normal[2] - a.normal[2]}
	f.dv = [3]float32{c.normal[0] - a.normal[0], c.normal[1] - a.normal[1], c.normal[2] - a.normal[2]}
	f.flat = of.flat()
	return f
}

func cross(a, b *[3]float32) [3]float32 {
	return [3]float32{a[1]*b[2] - a[2]*b[1], a[2]*b[0] - a[0]*b[2], a[0]*b[1] - a[1]*b[0]}
}

// tiny keeps a normal of no length from being divided by.
const tiny = 1e-35

func root(x float32) float32 { return float32(math.Sqrt(float64(x))) }
