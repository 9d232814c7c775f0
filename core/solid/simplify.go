package solid

import (
	"container/heap"
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/space"
)

// Simplified is a shape with fewer triangles whose surface lies about within a distance, mm, of what it was, and so do its
// creases and the borders of its patches: edges are contracted, those first that cost least by the mean of the squared
// distances to the planes of the faces that they stand for (M. Garland, P. Heckbert, "Surface Simplification Using
// Quadric Error Metrics", 1997, from memory), as long as the root of that mean is at most half the distance. What is
// closed stays closed. The shape itself is returned where nothing can be left out.
func (s *Shape) Simplified(within float64) *Shape {
	m := newMesh(s)
	m.contract(within * within / 4)
	if m.alive == len(m.faces) {
		return s
	}
	out := Mesh{}
	for _, p := range m.points {
		out.Positions = append(out.Positions, float32(p.X), float32(p.Y), float32(p.Z))
	}
	for k := range s.Submeshes {
		first := uint32(len(out.Triangles) / 3)
		for f, t := range m.faces {
			if m.patches[f] == k {
				out.Triangles = append(out.Triangles, uint32(t[0]), uint32(t[1]), uint32(t[2]))
			}
		}
		out.Submeshes = append(out.Submeshes, Submesh{First: first, Count: uint32(len(out.Triangles)/3) - first})
	}
	if simpler, _, err := New(out); err == nil && len(simpler.Triangles) < len(s.Triangles) {
		simpler.dropUnused()
		return simpler
	}
	return s
}

// quadric is a sum of squared distances to planes, the upper half of a symmetric matrix of four rows, and how many they
// are.
type quadric [11]float64

// plane adds the plane through a point across a unit normal.
func (q *quadric) plane(n, p space.Vec) {
	d := -r3.Dot(n, p)
	for i, v := range [10]float64{n.X * n.X, n.X * n.Y, n.X * n.Z, n.X * d, n.Y * n.Y, n.Y * n.Z, n.Y * d, n.Z * n.Z, n.Z * d, d * d} {
		q[i] += v
	}
	q[10]++
}

func (q *quadric) plus(o *quadric) (sum quadric) {
	for i := range q {
		sum[i] = q[i] + o[i]
	}
	return sum
}

// mean is that of the squares at a point, mm².
func (q *quadric) mean(p space.Vec) float64 {
	sum := q[0]*p.X*p.X + 2*q[1]*p.X*p.Y + 2*q[2]*p.X*p.Z + 2*q[3]*p.X +
		q[4]*p.Y*p.Y + 2*q[5]*p.Y*p.Z + 2*q[6]*p.Y + q[7]*p.Z*p.Z + 2*q[8]*p.Z + q[9]
	return sum / max(q[10], 1)
}

// least is the point at which the sum is least, where there is just one.
func (q *quadric) least() (p space.Vec, ok bool) {
	a, b, c, d, e, f := q[0], q[1], q[2], q[4], q[5], q[7]
	det := a*(d*f-e*e) - b*(b*f-c*e) + c*(b*e-c*d)
	if math.Abs(det) < 1e-6 {
		return p, false
	}
	x, y, z := -q[3], -q[6], -q[8]
	return space.Vec{
		X: (x*(d*f-e*e) - b*(y*f-e*z) + c*(y*e-d*z)) / det,
		Y: (a*(y*f-e*z) - x*(b*f-c*e) + c*(b*z-y*c)) / det,
		Z: (a*(d*z-y*e) - b*(b*z-y*c) + x*(b*e-c*d)) / det,
	}, true
}

// contraction is an edge that may be contracted to a point, as it was when its ends had these stamps.
type contraction struct {
	a, b   int
	to     space.Vec
	cost   float64
	stamps [2]int
}

type contractions []contraction

func (h contractions) Len() int { return len(h) }
func (h contractions) Less(i, k int) bool {
	x, y := &h[i], &h[k]
	switch {
	case x.cost != y.cost:
		return x.cost < y.cost
	case x.a != y.a:
		return x.a < y.a
	}
	return x.b < y.b
}
func (h contractions) Swap(i, k int) { h[i], h[k] = h[k], h[i] }
func (h *contractions) Push(x any)   { *h = append(*h, x.(contraction)) }
func (h *contractions) Pop() any {
	last := (*h)[len(*h)-1]
	*h = (*h)[:len(*h)-1]
	return last
}

// mesh is a shape that is being simplified: its places, and its faces with the patch of each, −1 for one that is gone.
type mesh struct {
	points  []space.Vec
	faces   [][3]int
	patches []int
	alive   int
	around  [][]int // by place: its faces, and some that are gone
	sums    []quadric
	stamps  []int
	waiting contractions
}

func newMesh(s *Shape) *mesh {
	welded, corners := weld(s.Positions)
	m := &mesh{
		around: make([][]int, len(corners)),
		sums:   make([]quadric, len(corners)),
		stamps: make([]int, len(corners)),
	}
	for _, c := range corners {
		m.points = append(m.points, space.Vec{X: float64(c[0]), Y: float64(c[1]), Z: float64(c[2])})
	}
	for k, p := range s.Submeshes {
		for t := p.First; t < p.First+p.Count; t++ {
			f := [3]int{int(welded[s.Triangles[3*t]]), int(welded[s.Triangles[3*t+1]]), int(welded[s.Triangles[3*t+2]])}
			for _, v := range f {
				m.around[v] = append(m.around[v], len(m.faces))
			}
			m.faces, m.patches = append(m.faces, f), append(m.patches, k)
		}
	}
	m.alive = len(m.faces)
	m.weigh()
	return m
}

// weigh adds up the planes around each place: those of its faces, and across them those of creases and borders.
func (m *mesh) weigh() {
	crease := math.Cos(CreaseAngle * math.Pi / 180)
	sides := map[[2]int][]int{}
	for f, t := range m.faces {
		n, area := m.normal(f)
		if area == 0 {
			continue
		}
		for k, v := range t {
			m.sums[v].plane(n, m.points[v])
			a, b := v, t[(k+1)%3]
			sides[[2]int{min(a, b), max(a, b)}] = append(sides[[2]int{min(a, b), max(a, b)}], f)
		}
	}
	for f, t := range m.faces { // in the order of faces, so that sums are the same each time
		for k, a := range t {
			b := t[(k+1)%3]
			at := sides[[2]int{min(a, b), max(a, b)}]
			if len(at) == 2 && m.patches[at[0]] == m.patches[at[1]] {
				n, _ := m.normal(at[0])
				o, _ := m.normal(at[1])
				if r3.Dot(n, o) >= crease {
					continue
				}
			}
			n, _ := m.normal(f)
			along := r3.Sub(m.points[b], m.points[a])
			across, ok := space.Normalize(r3.Cross(along, n))
			if !ok {
				continue
			}
			m.sums[a].plane(across, m.points[a])
			m.sums[b].plane(across, m.points[a])
		}
	}
	for key := range sides {
		m.offer(key[0], key[1])
	}
	heap.Init(&m.waiting)
}

// normal is that of a face, of unit length, and its area.
func (m *mesh) normal(f int) (n space.Vec, area float64) {
	t := m.faces[f]
	return (&Triangle{m.points[t[0]], m.points[t[1]], m.points[t[2]]}).Normal()
}

// offer puts an edge among those that may be contracted, at its best point.
func (m *mesh) offer(a, b int) {
	a, b = min(a, b), max(a, b)
	sum := m.sums[a].plus(&m.sums[b])
	c := contraction{a: a, b: b, cost: math.Inf(1), stamps: [2]int{m.stamps[a], m.stamps[b]}}
	try := func(p space.Vec) {
		if cost := max(0, sum.mean(p)); cost < c.cost {
			c.cost, c.to = cost, p
		}
	}
	try(m.points[a])
	try(m.points[b])
	try(r3.Scale(0.5, r3.Add(m.points[a], m.points[b])))
	if p, ok := sum.least(); ok && r3.Norm(r3.Sub(p, m.points[a])) < 2*r3.Norm(r3.Sub(m.points[b], m.points[a])) {
		try(p)
	}
	m.waiting = append(m.waiting, c)
}

// contract contracts edges, the cheapest first, as long as that costs no more, mm².
func (m *mesh) contract(most float64) {
	for len(m.waiting) > 0 {
		c := heap.Pop(&m.waiting).(contraction)
		if c.cost > most {
			return
		}
		if c.stamps != [2]int{m.stamps[c.a], m.stamps[c.b]} || !m.may(&c) {
			continue
		}
		m.sums[c.a] = m.sums[c.a].plus(&m.sums[c.b])
		m.points[c.a] = c.to
		m.stamps[c.a]++
		m.stamps[c.b] = -1
		var kept []int
		for _, f := range append(m.around[c.a], m.around[c.b]...) {
			t := &m.faces[f]
			switch {
			case m.patches[f] < 0:
			case has(t, c.a) && has(t, c.b):
				m.patches[f] = -1
				m.alive--
			default:
				for k := range t {
					if t[k] == c.b {
						t[k] = c.a
					}
				}
				kept = append(kept, f)
			}
		}
		m.around[c.a], m.around[c.b] = kept, nil
		for _, v := range m.beside(c.a) {
			before := len(m.waiting)
			m.offer(c.a, v)
			heap.Fix(&m.waiting, before)
		}
	}
}

func has(t *[3]int, v int) bool { return t[0] == v || t[1] == v || t[2] == v }

// beside are the places that faces join to one, in the order of these.
func (m *mesh) beside(v int) (list []int) {
	known := map[int]bool{v: true}
	for _, f := range m.around[v] {
		if m.patches[f] < 0 {
			continue
		}
		for _, o := range m.faces[f] {
			if !known[o] {
				known[o] = true
				list = append(list, o)
			}
		}
	}
	return list
}

// leastBreadth is how broad a triangle stays, unless it was narrower.
const leastBreadth = 1e-4

// breadth is a triangle's normal, and its area as a share of the square of its longest side.
func (t *Triangle) breadth() (normal space.Vec, share float64) {
	normal, area := t.Normal()
	longest := max(r3.Norm(r3.Sub(t[1], t[0])), r3.Norm(r3.Sub(t[2], t[1])), r3.Norm(r3.Sub(t[0], t[2])))
	if longest == 0 {
		return normal, 0
	}
	return normal, area / (longest * longest)
}

// may reports whether contracting an edge leaves the surface what it is: no face turns over or shrinks to a line, and the
// two ends have no neighbours in common but those of the faces between them (the link condition).
func (m *mesh) may(c *contraction) bool {
	between := 0
	for _, f := range m.around[c.a] {
		if m.patches[f] >= 0 && has(&m.faces[f], c.b) {
			between++
		}
	}
	common := 0
	near := map[int]bool{}
	for _, v := range m.beside(c.a) {
		near[v] = true
	}
	for _, v := range m.beside(c.b) {
		if near[v] {
			common++
		}
	}
	if between == 0 || between > 2 || common != between {
		return false
	}
	for _, end := range [2]int{c.a, c.b} {
		for _, f := range m.around[end] {
			if m.patches[f] < 0 || has(&m.faces[f], c.a) && has(&m.faces[f], c.b) {
				continue
			}
			var before, after Triangle
			for k, v := range m.faces[f] {
				if before[k], after[k] = m.points[v], m.points[v]; v == end {
					after[k] = c.to
				}
			}
			was, thin := before.breadth()
			is, thinner := after.breadth()
			if thinner < min(thin, leastBreadth) || r3.Dot(was, is) < 0.5 {
				return false
			}
		}
	}
	return true
}
