package linedrawing

import (
	"cmp"
	"context"
	"math"
	"runtime"
	"slices"

	"github.com/sourcegraph/conc/pool"
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/space"
)

// triangle hides what is behind it.
type triangle struct {
	// A point x is behind it where plane·x < planeAt, and within its outline where sides[k]·x ≥ sideAt[k]. All are of
	// unit length.
	plane   space.Vec
	planeAt float64
	sides   [3]space.Vec
	sideAt  [3]float64
	nearest float64 // how far before the eye it begins, mm
	box     [4]float64
	node    int32
	clear   bool // it hides lines of its own part alone
}

// body is what a triangle is of.
type body struct {
	node          int32
	closed, clear bool
}

// triangle adds a triangle; one of a closed body that looks away hides nothing that others do not.
func (s *scene) triangle(a, b, c space.Vec, of body) {
	if !s.orthographic && (a.Z > -near || b.Z > -near || c.Z > -near) {
		s.clipped(a, b, c, of)
		return
	}
	n, ok := space.Normalize(r3.Cross(r3.Sub(b, a), r3.Sub(c, a)))
	if !ok {
		return
	}
	facing := r3.Dot(n, s.toEye(a))
	if facing <= 0 && of.closed || facing == 0 {
		return
	}
	t := triangle{plane: n, planeAt: r3.Dot(n, a), node: of.node, clear: of.clear, nearest: -max(a.Z, b.Z, c.Z)}
	if facing < 0 {
		t.plane, t.planeAt = r3.Scale(-1, n), -t.planeAt
		b, c = c, b
	}
	corners := [3]space.Vec{a, b, c}
	for k := range 3 {
		p, q := corners[k], corners[(k+1)%3]
		if s.orthographic {
			t.sides[k], ok = space.Normalize(space.Vec{X: p.Y - q.Y, Y: q.X - p.X})
			t.sideAt[k] = r3.Dot(t.sides[k], p)
		} else {
			t.sides[k], ok = space.Normalize(r3.Cross(q, p))
		}
		if !ok {
			return
		}
	}
	x, y, z := s.project(a), s.project(b), s.project(c)
	t.box = [4]float64{min(x.X, y.X, z.X), min(x.Y, y.Y, z.Y), max(x.X, y.X, z.X), max(x.Y, y.Y, z.Y)}
	if t.box[0] > s.frame[0] || t.box[1] > s.frame[1] || t.box[2] < -s.frame[0] || t.box[3] < -s.frame[1] {
		return
	}
	s.triangles = append(s.triangles, t)
}

// clipped adds what lies before the eye of a triangle that reaches behind it.
func (s *scene) clipped(a, b, c space.Vec, of body) {
	var kept []space.Vec
	corners := [3]space.Vec{a, b, c}
	const at = -2 * near
	for k := range 3 {
		p, q := corners[k], corners[(k+1)%3]
		if p.Z <= at {
			kept = append(kept, p)
		}
		if (p.Z <= at) != (q.Z <= at) {
			kept = append(kept, r3.Add(p, r3.Scale((at-p.Z)/(q.Z-p.Z), r3.Sub(q, p))))
		}
	}
	for k := 2; k < len(kept); k++ {
		s.triangle(kept[0], kept[k-1], kept[k], of)
	}
}

// hides returns the part of the line from a to a+d that the triangle hides, as shares of its length, and how far
// behind its plane the ends of that part are, mm.
func (t *triangle) hides(a, d space.Vec, slack float64) (from, to float64, hidden bool) {
	from, to = 0, 1
	at, slope := t.planeAt-slack-r3.Dot(t.plane, a), -r3.Dot(t.plane, d)
	for k := -1; k < 3; k++ {
		if k >= 0 {
			at, slope = r3.Dot(t.sides[k], a)-t.sideAt[k], r3.Dot(t.sides[k], d)
		}
		switch {
		case slope > 0:
			from = max(from, -at/slope)
		case slope < 0:
			to = min(to, -at/slope)
		case at < 0:
			return 0, 0, false
		}
		if from >= to {
			return 0, 0, false
		}
	}
	return from, to, true
}

// behind is how far behind the triangle's plane a point is, mm.
func (t *triangle) behind(p space.Vec) float64 { return t.planeAt - r3.Dot(t.plane, p) }

// grid finds the triangles over a place of the picture plane.
type grid struct {
	x, y, size    float64
	width, height int
	cells         [][]int32
}

// cellsAcross is how many cells the longer side of the drawing has.
const cellsAcross = 192

// bin sorts the triangles into the cells that they cover.
func (s *scene) bin() {
	s.slack = slackShare*s.extent + 1e-5
	inf := math.Inf(1)
	box := [4]float64{inf, inf, -inf, -inf}
	for i := range s.segments {
		for _, p := range [2]Point{s.project(s.segments[i].a), s.project(s.segments[i].b)} {
			box = [4]float64{min(box[0], p.X), min(box[1], p.Y), max(box[2], p.X), max(box[3], p.Y)}
		}
	}
	if box[0] > box[2] {
		return
	}
	side := max(box[2]-box[0], box[3]-box[1], 1e-9)
	s.grain = side * 1e-6
	g := &s.grid
	g.x, g.y, g.size = box[0], box[1], side/cellsAcross
	g.width, g.height = int((box[2]-box[0])/g.size)+1, int((box[3]-box[1])/g.size)+1
	g.cells = make([][]int32, g.width*g.height)
	slices.SortFunc(s.triangles, func(a, b triangle) int { // nearest first: it hides most
		return cmp.Or(cmp.Compare(a.nearest, b.nearest), cmp.Compare(a.node, b.node))
	})
	for i := range s.triangles {
		t := &s.triangles[i]
		x0, y0, x1, y1 := g.span(t.box)
		for y := y0; y <= y1; y++ {
			for x := x0; x <= x1; x++ {
				if s.covers(t, x, y) {
					g.cells[y*g.width+x] = append(g.cells[y*g.width+x], int32(i))
				}
			}
		}
	}
}

// span returns the cells that a box touches.
func (g *grid) span(box [4]float64) (x0, y0, x1, y1 int) {
	clamp := func(v float64, n int) int { return int(max(0, min(v, float64(n-1)))) }
	return clamp((box[0]-g.x)/g.size, g.width), clamp((box[1]-g.y)/g.size, g.height),
		clamp((box[2]-g.x)/g.size, g.width), clamp((box[3]-g.y)/g.size, g.height)
}

// covers reports whether a triangle may cover something of a cell.
func (s *scene) covers(t *triangle, x, y int) bool {
	g := &s.grid
	z := -1.0 // the picture plane of a perspective eye
	if s.orthographic {
		z = 0
	}
	for k := range 3 {
		n := t.sides[k]
		p := space.Vec{X: g.x + g.size*float64(x), Y: g.y + g.size*float64(y), Z: z}
		if n.X > 0 { // the corner that is farthest inside
			p.X += g.size
		}
		if n.Y > 0 {
			p.Y += g.size
		}
		if r3.Dot(n, p) < t.sideAt[k] {
			return false
		}
	}
	return true
}

// interval is a part of a line that is hidden; gaps are how far behind the hiding planes its ends are, mm.
type interval struct{ from, to, gapFrom, gapTo float64 }

// seeker looks for what hides lines; one for each goroutine.
type seeker struct {
	scene  *scene
	asked  []int32 // by triangle: the number of the line that it was asked for last
	number int32
	hidden []interval
	out    []piece
}

// cut returns the pieces of all lines that are seen, and with hidden those that are not.
func (s *scene) cut(ctx context.Context, hidden bool) ([]piece, error) {
	const batch = 256
	parts := make([][]piece, (len(s.segments)+batch-1)/batch)
	workers := pool.New().WithContext(ctx).WithMaxGoroutines(runtime.GOMAXPROCS(0))
	next := make(chan int)
	for range runtime.GOMAXPROCS(0) {
		workers.Go(func(ctx context.Context) error {
			k := seeker{scene: s, asked: make([]int32, len(s.triangles))}
			for i := range next {
				if ctx.Err() != nil {
					continue
				}
				k.out = nil
				for j := i * batch; j < min((i+1)*batch, len(s.segments)); j++ {
					k.seek(&s.segments[j], hidden)
				}
				parts[i] = k.out
			}
			return ctx.Err()
		})
	}
	for i := range parts {
		next <- i
	}
	close(next)
	if err := workers.Wait(); err != nil {
		return nil, err
	}
	return slices.Concat(parts...), nil
}

// seek finds the hidden parts of one line.
func (k *seeker) seek(g *segment, keepHidden bool) {
	s := k.scene
	k.number++
	k.hidden = k.hidden[:0]
	d := r3.Sub(g.b, g.a)
	p, q := s.project(g.a), s.project(g.b)
	farthest := -min(g.a.Z, g.b.Z)
	whole := false
	s.grid.along(p, q, func(cell []int32) bool {
		for _, i := range cell {
			t := &s.triangles[i]
			if t.nearest > farthest {
				break // they are sorted: all others are farther away
			}
			if k.asked[i] == k.number {
				continue
			}
			k.asked[i] = k.number
			if t.clear && t.node != g.node {
				continue
			}
			from, to, found := t.hides(g.a, d, s.slack)
			if !found {
				continue
			}
			at := func(u float64) float64 { return t.behind(r3.Add(g.a, r3.Scale(u, d))) }
			k.hidden = append(k.hidden, interval{from, to, at(from), at(to)})
			if from == 0 && to == 1 {
				whole = true
				return false
			}
		}
		return true
	})
	if whole {
		k.hidden = append(k.hidden[:0], interval{from: 0, to: 1})
	}
	k.tell(g, d, keepHidden)
}

// touching is how near to one another hidden parts of a line are one, as a share of its length.
const touching = 1e-6

// tell writes the pieces of a line, of which the hidden parts are known.
func (k *seeker) tell(g *segment, d space.Vec, keepHidden bool) {
	slices.SortFunc(
		k.hidden,
		func(a, b interval) int { return cmp.Or(cmp.Compare(a.from, b.from), cmp.Compare(a.to, b.to)) },
	)
	emit := func(from, to float64, hidden bool, gapFrom, gapTo float64) {
		if to-from > touching {
			behind := [2]bool{gapFrom > clearOf, gapTo > clearOf}
			k.out = append(
				k.out,
				piece{k.place(g, d, from), k.place(g, d, to), g.kind, g.node, hidden, behind, g.clear},
			)
		}
	}
	at, gap := 0.0, 0.0
	for _, h := range k.hidden {
		emit(at, h.from, false, gap, h.gapFrom)
		if keepHidden {
			emit(max(at, h.from), h.to, true, 0, 0)
		}
		if h.to > at {
			at, gap = h.to, h.gapTo
		}
	}
	emit(at, 1, false, gap, 0)
}

// place is where a share of a line is on the picture plane; its ends are where they are to the bit, so that lines that
// meet are found.
func (k *seeker) place(g *segment, d space.Vec, u float64) Point {
	if u == 1 {
		return k.scene.project(g.b)
	}
	return k.scene.project(r3.Add(g.a, r3.Scale(u, d)))
}

// clearOf is how far behind something a line has to be, mm, for it to stand clear of it.
const clearOf = 0.3

// along calls do with the cells that a line on the picture plane passes, until it returns false (Amanatides & Woo, “A
// Fast Voxel Traversal Algorithm for Ray Tracing”, 1987).
func (g *grid) along(p, q Point, do func(cell []int32) bool) {
	x, y := (p.X-g.x)/g.size, (p.Y-g.y)/g.size
	dx, dy := (q.X-p.X)/g.size, (q.Y-p.Y)/g.size
	cx, cy := int(max(0, min(x, float64(g.width-1)))), int(max(0, min(y, float64(g.height-1))))
	ex, ey := int(max(0, min(x+dx, float64(g.width-1)))), int(max(0, min(y+dy, float64(g.height-1))))
	stepX, nextX, deltaX := stride(x, dx, cx)
	stepY, nextY, deltaY := stride(y, dy, cy)
	for range g.width + g.height {
		if !do(g.cells[cy*g.width+cx]) || cx == ex && cy == ey {
			return
		}
		if cy == ey || cx != ex && nextX < nextY {
			cx += stepX
			nextX += deltaX
		} else {
			cy += stepY
			nextY += deltaY
		}
	}
}

// stride returns the direction of a line along one axis of the grid, where it leaves its first cell, and how long it
// stays in one, as shares of its length.
func stride(at, d float64, cell int) (step int, next, delta float64) {
	switch {
	case d > 0:
		return 1, (float64(cell+1) - at) / d, 1 / d
	case d < 0:
		return -1, (float64(cell) - at) / d, -1 / d
	}
	return 0, math.Inf(1), math.Inf(1)
}
