package render

import "math"

// rowPoints is how many points a row of a tile can have: one for each sample.
const rowPoints = tileSide * samples

// points are the places in a row of a tile at which a surface is to be shaded, as
// arrays of one quantity each, so that eight can be worked on at once.
type points struct {
	n          int
	nx, ny, nz [rowPoints + lanes]float32 // the normal, of any length, in the camera's frame
	dx, dy     [rowPoints + lanes]float32 // the ray from the eye; its z is −1
	r, g, b    [rowPoints + lanes]float32 // the display colour, once shaded
	// What the vector loops find on the way there; see lights.shade.
	key, fill, hemi, mirrored, ceiling, fresnel, gain [rowPoints + lanes]float32

	finish [rowPoints]*surface
	// Some points are a portion of a pixel, others pixels of a run.
	portions         [rowPoints]portion
	runs             [tileSide]run
	nPortions, nRuns int
}

// portion is a point that is seen in a part of a pixel.
type portion struct {
	weight float32
	point  uint16
	pixel  uint8 // in the row
}

// run is a row of pixels of one facet: a point for each of them or, where step is more
// than 1, for every step-th one, from the last of these before the run to the first after
// it.
type run struct {
	first       uint16 // point
	x, n        uint8
	begin, step uint8 // pixel of the first point
}

func (p *points) clear() { p.n, p.nPortions, p.nRuns = 0, 0, 0 }

// add notes that a facet is to be shaded where the ray dx, dy meets it.
func (p *points) add(f *facet, dx, dy, weight float32, pixel int) {
	i := p.n & (rowPoints - 1)
	p.nx[i], p.ny[i], p.nz[i] = f.normal(dx, dy)
	p.dx[i], p.dy[i], p.finish[i] = dx, dy, f.finish
	p.portions[p.nPortions&(rowPoints-1)] = portion{weight, uint16(i), uint8(pixel)}
	p.nPortions++
	p.n++
}

// addRun notes that a facet is to be shaded in n pixels side by side, wholly. dx is the ray
// of the row's first pixel, and turn is by how much it turns from pixel to pixel. A flat
// facet's colour changes so slowly that it is shaded at every step-th pixel only.
func (p *points) addRun(f *facet, dx, turn, dy float32, x, n, step int) {
	begin, count := x, n
	if !f.flat { // whatever n is: how runs are divided depends on what is known already
		step = 1
	}
	if step > 1 {
		begin = x &^ (step - 1)
		count = (x+n-1-begin)/step + 2
	}
	kernel.normals(p, f, dx, turn, dy, begin, step, count)
	for i := range count {
		p.finish[(p.n+i)&(rowPoints-1)] = f.finish
	}
	p.runs[p.nRuns&(tileSide-1)] = run{uint16(p.n), uint8(x), uint8(n), uint8(begin), uint8(step)}
	p.nRuns++
	p.n += count
}

func normalsPlain(p *points, f *facet, dx, turn, dy float32, first, step, n int) {
	for i := range n {
		x := dx + turn*(float32(first)+float32(i)*float32(step))
		k := (p.n + i) & (rowPoints - 1)
		p.nx[k], p.ny[k], p.nz[k] = f.normal(x, dy)
		p.dx[k], p.dy[k] = x, dy
	}
}

// gather puts the shaded points into their pixels.
func (w *row) gather() {
	q := &w.points
	for i := range q.nRuns {
		kernel.lay(&w.rgb, q, &q.runs[i&(tileSide-1)])
	}
	for i := range q.nPortions {
		s := &q.portions[i&(rowPoints-1)]
		x, k := s.pixel&(tileSide-1), s.point&(rowPoints-1)
		w.rgb[0][x] += q.r[k] * s.weight
		w.rgb[1][x] += q.g[k] * s.weight
		w.rgb[2][x] += q.b[k] * s.weight
	}
}

// shade finds the colours of all points, runs of one finish together.
func (p *points) shade(l *lights) {
	for i := 0; i < p.n; {
		j := i + 1
		for j < p.n && p.finish[j] == p.finish[i] {
			j++
		}
		kernel.light(p, i, j, p.finish[i], l)
		i = j
	}
}

// facet is a triangle of a part, ready to be met by rays from the eye: all
// vectors are in the camera's frame.
type facet struct {
	id     int32
	finish *surface
	// A ray d meets the triangle at the barycentric coordinates d·u/d·det and
	// d·v/d·det (Möller, Trumbore 1997, solved for d).
	det, u, v [3]float32
	// The normal is n + u·du + v·dv, or the same everywhere.
	n, du, dv [3]float32
	flat      bool
}

// facetSlots is how many facets a tile keeps, a power of two: the rows and the pixels
// next to each other mostly ask for the same ones.
const facetSlots = 256

// forget forgets the facets: triangles move from frame to frame.
func (t *tile) forget() {
	for i := range t.facets {
		t.facets[i].id = nobody
	}
}

// facetOf returns the facet of a triangle.
func (r *Renderer) facetOf(t *tile, id int32) *facet {
	f := &t.facets[id&(facetSlots-1)]
	if f.id == id {
		return f
	}
	part := r.scene.partOf[id]
	p, seen := &r.scene.parts[part], &r.seen[part]
	at := int(id) - p.first
	corner := (*[3]uint32)(r.scene.turned[p.shape][3*at:])
	i, j, k := 3*corner[0], 3*corner[1], 3*corner[2]
	a, b, c := (*[3]float32)(seen.points[i:]), (*[3]float32)(seen.points[j:]), (*[3]float32)(seen.points[k:])
	f.id = id
	f.finish = r.finishOf(id)
	s := [3]float32{-a[0], -a[1], -a[2]}
	e1 := [3]float32{b[0] - a[0], b[1] - a[1], b[2] - a[2]}
	e2 := [3]float32{c[0] - a[0], c[1] - a[1], c[2] - a[2]}
	f.det, f.u, f.v = cross(&e2, &e1), cross(&e2, &s), cross(&s, &e1)
	n0, n1, n2 := (*[3]float32)(seen.normals[i:]), (*[3]float32)(seen.normals[j:]), (*[3]float32)(seen.normals[k:])
	f.n = *n0
	f.du = [3]float32{n1[0] - n0[0], n1[1] - n0[1], n1[2] - n0[2]}
	f.dv = [3]float32{n2[0] - n0[0], n2[1] - n0[1], n2[2] - n0[2]}
	f.flat = r.scene.flat[id]
	return f
}

// normal returns the normal, of any length, where the ray (dx, dy, −1) from the eye
// meets the facet's plane, held inside the facet.
func (f *facet) normal(dx, dy float32) (x, y, z float32) {
	if f.flat {
		return f.n[0], f.n[1], f.n[2]
	}
	det := f.det[0]*dx + f.det[1]*dy - f.det[2]
	u := f.u[0]*dx + f.u[1]*dy - f.u[2]
	v := f.v[0]*dx + f.v[1]*dy - f.v[2]
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
	return f.n[0]*det + f.du[0]*u + f.dv[0]*v, f.n[1]*det + f.du[1]*u + f.dv[1]*v, f.n[2]*det + f.du[2]*u + f.dv[2]*v
}

func cross(a, b *[3]float32) [3]float32 {
	return [3]float32{a[1]*b[2] - a[2]*b[1], a[2]*b[0] - a[0]*b[2], a[0]*b[1] - a[1]*b[0]}
}

// lightPlain finds the display colours of points from … to−1, which have one finish. See
// docs/look.md.
func lightPlain(p *points, from, to int, s *surface, l *lights) {
	for i := from; i < to; i++ {
		p.r[i], p.g[i], p.b[i] = l.shade(s, p.nx[i], p.ny[i], p.nz[i], p.dx[i], p.dy[i])
	}
}

// tiny keeps a normal of no length from being divided by.
const tiny = 1e-35

func root(x float32) float32 { return float32(math.Sqrt(float64(x))) }
