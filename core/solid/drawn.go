package solid

import (
	"math"
	"slices"
)

// DrawnEdge is an edge as it is drawn, from A to B in the shape's frame.
type DrawnEdge struct {
	A, B [3]float32
	// N0 and N1 are the unit normals of the two faces that meet here, both zero where not just two do. Where one of
	// them faces the eye and the other does not, the line is part of the shape's contour.
	N0, N1 [3]float32
	Shows  Shows
	// Apart tells how dense lines are: how far apart the features are among which this one is in the middle, mm,
	// +Inf where there are none on both of its sides. Of an edge that shows OnlyBetween it
	// is how thick the shape is: the middle one of the sides of its box.
	Apart float32
}

// Shows says from where a line shows.
type Shows uint8

const (
	// Always is a feature of an open surface, whose back is seen too.
	Always Shows = iota
	// NotBehind is a feature that its own body hides where both faces look away.
	NotBehind
	// OnlyBetween is an edge of a smooth surface, which shows as part of the contour alone.
	OnlyBetween
)

// DrawnEdges returns the shape's edges as they are drawn, in the order of Edges.
func (s *Shape) DrawnEdges() []DrawnEdge {
	lines := make([]DrawnEdge, len(s.Edges))
	closed := s.Closed()
	for i, beside := range s.Beside() {
		e, l := &s.Edges[i], &lines[i]
		l.A, l.B, l.N0, l.N1 = e.A, e.B, beside[0], beside[1]
		switch {
		case !e.Feature():
			l.N0, l.N1, l.Shows = e.N0, e.N1, OnlyBetween
		case closed && beside != [2][3]float32{}:
			l.Shows = NotBehind
		}
	}
	s.spread(lines)
	return lines
}

// spread finds how far apart lines are.
func (s *Shape) spread(lines []DrawnEdge) {
	size := s.Bounds.Size()
	sides := []float64{size.X, size.Y, size.Z}
	slices.Sort(sides)
	g := newEdgeGrid(lines, float32(math.Sqrt(size.X*size.X+size.Y*size.Y+size.Z*size.Z))/gridCells)
	for i := range lines {
		lines[i].Apart = float32(sides[1])
		if lines[i].Shows != OnlyBetween {
			lines[i].Apart = g.beside(i)
		}
	}
}

const (
	gridCells = 32 // cells of the grid to a shape's diagonal
	gridRings = 2  // cells around a line in which others are looked for
)

// edgeGrid finds lines by where they are.
type edgeGrid struct {
	lines []DrawnEdge
	side  float32
	cells map[[3]int32][]int32
}

func newEdgeGrid(lines []DrawnEdge, side float32) *edgeGrid {
	g := &edgeGrid{lines, side, map[[3]int32][]int32{}}
	if side <= 0 {
		return g
	}
	for i := range lines {
		l := &lines[i]
		if l.Shows == OnlyBetween {
			continue
		}
		way := [3]float32{l.B[0] - l.A[0], l.B[1] - l.A[1], l.B[2] - l.A[2]}
		steps := int(2*length(way)/side) + 1
		for k := range steps + 1 {
			u := float32(k) / float32(steps)
			at := g.cell([3]float32{l.A[0] + way[0]*u, l.A[1] + way[1]*u, l.A[2] + way[2]*u})
			if in := g.cells[at]; len(in) == 0 || in[len(in)-1] != int32(i) {
				g.cells[at] = append(in, int32(i))
			}
		}
	}
	return g
}

func (g *edgeGrid) cell(p [3]float32) (c [3]int32) {
	for k := range c {
		c[k] = int32(math.Floor(float64(p[k] / g.side)))
	}
	return c
}

// beside is half of how far the nearest others on both sides of the middle of line i are from one another. What lies
// ahead of it does not count: it goes on there. The rim of a plate, beside which there is the other rim, stands alone.
func (g *edgeGrid) beside(i int) float32 {
	first, found := g.nearest(i, nil)
	if !found {
		return float32(math.Inf(1))
	}
	second, found := g.nearest(i, &first)
	if !found {
		return float32(math.Inf(1))
	}
	return length([3]float32{second[0] - first[0], second[1] - first[1], second[2] - first[2]}) / 2
}

// nearest is the way from the middle of line i to the nearest other one beside it, on the other side than a way
// that is given.
func (g *edgeGrid) nearest(i int, otherThan *[3]float32) (way [3]float32, found bool) {
	l := &g.lines[i]
	m := [3]float32{(l.A[0] + l.B[0]) / 2, (l.A[1] + l.B[1]) / 2, (l.A[2] + l.B[2]) / 2}
	ahead := [3]float32{l.B[0] - l.A[0], l.B[1] - l.A[1], l.B[2] - l.A[2]}
	long, best := length(ahead), float32(math.Inf(1))
	if g.side <= 0 || long == 0 {
		return way, false
	}
	for ring := int32(0); ring <= gridRings && best > float32(ring-1)*g.side; ring++ { // further rings are further away
		g.shell(g.cell(m), ring, func(k int32) {
			off := g.lines[k].from(m)
			d := length(off)
			if int(k) == i || d >= best || d < 1e-6*long || math.Abs(float64(dot(off, ahead))) > 0.7*float64(d*long) {
				return
			}
			if otherThan == nil || opposite(off, *otherThan) {
				best, way, found = d, off, true
			}
		})
	}
	return way, found
}

// opposite reports whether two ways lead to different sides: across, or to both flanks of a tooth, which are equally
// far.
func opposite(a, b [3]float32) bool {
	la, lb := length(a), length(b)
	cos := dot(a, b) / (la * lb)
	return cos < -0.5 || cos < 0.26 && la < 1.6*lb
}

// shell calls do for the lines in the cells of a ring around one.
func (g *edgeGrid) shell(centre [3]int32, ring int32, do func(k int32)) {
	for z := -ring; z <= ring; z++ {
		for y := -ring; y <= ring; y++ {
			step := int32(1)
			if max(z, -z, y, -y) < ring {
				step = 2 * ring
			}
			for x := -ring; x <= ring; x += step {
				for _, k := range g.cells[[3]int32{centre[0] + x, centre[1] + y, centre[2] + z}] {
					do(k)
				}
			}
		}
	}
}

func dot(a, b [3]float32) float32 { return a[0]*b[0] + a[1]*b[1] + a[2]*b[2] }

// from is the way from a point to the nearest of the line.
func (l *DrawnEdge) from(p [3]float32) [3]float32 {
	way := [3]float32{l.B[0] - l.A[0], l.B[1] - l.A[1], l.B[2] - l.A[2]}
	to := [3]float32{p[0] - l.A[0], p[1] - l.A[1], p[2] - l.A[2]}
	if square := dot(way, way); square > 0 {
		u := min(max(dot(to, way)/square, 0), 1)
		return [3]float32{way[0]*u - to[0], way[1]*u - to[1], way[2]*u - to[2]}
	}
	return [3]float32{-to[0], -to[1], -to[2]}
}

func length(v [3]float32) float32 { return float32(math.Sqrt(float64(dot(v, v)))) }
