package linedrawing

import "math"

// Curve is a stretch of a path: from where the one before it ends, over two control points of a cubic Bézier, to To.
// A straight one has its control points at its ends.
type Curve struct {
	C1, C2, To Point
	Straight   bool
}

// Path is a line as it is drawn.
type Path struct {
	From   Point
	Curves []Curve
	Closed bool
}

// cornerAngle is the turn, rad, from which a line has a corner: facets of a coarse round are up to 30° apart.
const cornerAngle = 38 * math.Pi / 180

// Fit draws a line through points with as few curves as it takes to pass all of them within a tolerance (in their
// unit): P. J. Schneider, “An Algorithm for Automatically Digitizing Curves”, Graphics Gems, 1990. Lines stay straight,
// corners sharp.
func Fit(points []Point, tolerance float64) Path {
	points = thinned(points, tolerance/50)
	path := Path{From: points[0], Closed: len(points) > 3 && points[0] == points[len(points)-1]}
	from := 0
	for i := 1; i < len(points); i++ {
		if i == len(points)-1 || turnOf(points[i-1], points[i], points[i+1]) > cornerAngle || uneven(points, i) {
			f := fitter{tolerance, points[from : i+1], &path}
			round := path.Closed && from == 0 && i == len(points)-1
			f.run(round && turnOf(points[i-1], points[0], points[1]) < cornerAngle)
			from = i
		}
	}
	return path
}

// unevenness is how many times as long as the chord beside it one is that is a straight line: those of a round are of
// about one length.
const unevenness = 3

// uneven reports whether a straight line and a round meet at a point.
func uneven(points []Point, i int) bool {
	before, after := distance(points[i-1], points[i]), distance(points[i], points[i+1])
	return max(before, after) > unevenness*min(before, after)
}

// thinned leaves out points that are at the place of the one before.
func thinned(points []Point, least float64) []Point {
	kept := points[:1:1]
	for i := 1; i < len(points); i++ {
		last := i == len(points)-1
		switch far := distance(kept[len(kept)-1], points[i]) > least; {
		case far || len(kept) == 1 && last:
			kept = append(kept, points[i])
		case last:
			kept[len(kept)-1] = points[i]
		}
	}
	return kept
}

type fitter struct {
	tolerance float64
	points    []Point
	path      *Path
}

// run fits a stretch without corners; a smooth round has the same tangent where it begins and ends.
func (f *fitter) run(round bool) {
	n := len(f.points) - 1
	if f.straight(0, n) {
		f.line(n)
		return
	}
	first, last := f.tangent(0, 1), f.tangent(n, -1)
	if round {
		across := unit(Point{f.points[1].X - f.points[n-1].X, f.points[1].Y - f.points[n-1].Y})
		first, last = across, Point{-across.X, -across.Y}
	}
	f.cubic(0, n, first, last)
}

// straight reports whether the points between two lie on the line between them.
func (f *fitter) straight(from, to int) bool {
	a, b := f.points[from], f.points[to]
	for _, p := range f.points[from+1 : to] {
		if fromLine(p, a, b) > f.tolerance/2 {
			return false
		}
	}
	return a != b || to == from+1
}

func (f *fitter) line(to int) {
	p := f.points[to]
	f.path.Curves = append(f.path.Curves, Curve{C1: f.path.last(), C2: p, To: p, Straight: true})
}

func (p *Path) last() Point {
	if n := len(p.Curves); n > 0 {
		return p.Curves[n-1].To
	}
	return p.From
}

// tangent is the direction of the curve at an end of the points, towards their inside: that of the parabola through
// three of them.
func (f *fitter) tangent(at, step int) Point {
	a, b := f.points[at], f.points[at+step]
	if at+2*step < 0 || at+2*step >= len(f.points) {
		return unit(Point{b.X - a.X, b.Y - a.Y})
	}
	c := f.points[at+2*step]
	ab, bc := distance(a, b), distance(b, c)
	u := Point{(b.X - a.X) / ab, (b.Y - a.Y) / ab}
	v := Point{(c.X - b.X) / bc, (c.Y - b.Y) / bc}
	w := ab / (ab + bc)
	return unit(Point{u.X + w*(u.X-v.X), u.Y + w*(u.Y-v.Y)})
}

// cubic fits the points from one to another with one curve, or with several.
func (f *fitter) cubic(from, to int, first, last Point) {
	if to == from+1 {
		f.pair(from, first, last)
		return
	}
	if f.straight(from, to) {
		f.line(to)
		return
	}
	u := f.chords(from, to)
	for range 5 {
		c := f.generate(from, to, u, first, last)
		worst, at := f.worst(from, to, &c, u)
		if worst <= f.tolerance && f.follows(from, to, &c, u) {
			f.path.Curves = append(f.path.Curves, Curve{C1: c[1], C2: c[2], To: c[3]})
			return
		}
		if worst > 40*f.tolerance {
			f.split(from, to, at, first, last)
			return
		}
		reparameterise(f.points[from:to+1], &c, u)
	}
	c := f.generate(from, to, u, first, last)
	_, at := f.worst(from, to, &c, u)
	f.split(from, to, at, first, last)
}

func (f *fitter) split(from, to, at int, first, last Point) {
	at = max(from+1, min(at, to-1))
	p, q := f.points[at-1], f.points[at+1]
	middle := unit(Point{p.X - q.X, p.Y - q.Y})
	f.cubic(from, at, first, middle)
	f.cubic(at, to, Point{-middle.X, -middle.Y}, last)
}

// pair is the curve between neighbouring points (Schneider's heuristic: control points at a third of the way).
func (f *fitter) pair(from int, first, last Point) {
	a, b := f.points[from], f.points[from+1]
	third := distance(a, b) / 3
	f.path.Curves = append(f.path.Curves, Curve{
		C1: Point{a.X + third*first.X, a.Y + third*first.Y}, C2: Point{b.X + third*last.X, b.Y + third*last.Y}, To: b,
	})
}

// chords gives each point its share of the way along the chords.
func (f *fitter) chords(from, to int) []float64 {
	u := make([]float64, to-from+1)
	for i := 1; i < len(u); i++ {
		u[i] = u[i-1] + distance(f.points[from+i-1], f.points[from+i])
	}
	for i := range u {
		u[i] /= u[len(u)-1]
	}
	return u
}

// generate finds the curve with given tangents that comes nearest to the points: least squares in the lengths of the
// tangents.
func (f *fitter) generate(from, to int, u []float64, first, last Point) [4]Point {
	a, d := f.points[from], f.points[to]
	var c00, c01, c11, x0, x1 float64
	for i, t := range u {
		b0, b1, b2, b3 := bernstein(t)
		p, q := Point{first.X * b1, first.Y * b1}, Point{last.X * b2, last.Y * b2}
		c00, c01, c11 = c00+dot(p, p), c01+dot(p, q), c11+dot(q, q)
		r := Point{
			f.points[from+i].X - a.X*(b0+b1) - d.X*(b2+b3),
			f.points[from+i].Y - a.Y*(b0+b1) - d.Y*(b2+b3),
		}
		x0, x1 = x0+dot(p, r), x1+dot(q, r)
	}
	det := c00*c11 - c01*c01
	l0, l1 := 0.0, 0.0
	if math.Abs(det) > 1e-12*c00*c11 {
		l0, l1 = (x0*c11-x1*c01)/det, (c00*x1-c01*x0)/det
	}
	if chord := distance(a, d); l0 < 1e-3*chord || l1 < 1e-3*chord || l0 > 3*chord+1e-12 || l1 > 3*chord+1e-12 {
		l0, l1 = chord/3, chord/3
	}
	return [4]Point{a, {a.X + l0*first.X, a.Y + l0*first.Y}, {d.X + l1*last.X, d.Y + l1*last.Y}, d}
}

// worst is how far the curve passes from a point at most, and from which.
func (f *fitter) worst(from, to int, c *[4]Point, u []float64) (worst float64, at int) {
	at = (from + to) / 2
	for i, t := range u {
		if d := distance(bezier(c, t), f.points[from+i]); d > worst {
			worst, at = d, from+i
		}
	}
	return worst, at
}

// follows reports whether the curve bulges between the points no more than the round that they are of does: a chord
// with turns φ at its ends is of a round that rises L·φ/8 above it.
func (f *fitter) follows(from, to int, c *[4]Point, u []float64) bool {
	for i := from; i < to; i++ {
		p, q := f.points[i], f.points[i+1]
		turn := 0.0
		if i > 0 {
			turn = turnOf(f.points[i-1], p, q)
		}
		if i+2 < len(f.points) {
			turn = max(turn, turnOf(p, q, f.points[i+2]))
		}
		if fromLine(bezier(c, (u[i-from]+u[i-from+1])/2), p, q) > f.tolerance+distance(p, q)*turn/6 {
			return false
		}
	}
	return true
}

// reparameterise moves each point's parameter to where the curve is nearest to it (one step of Newton's method).
func reparameterise(points []Point, c *[4]Point, u []float64) {
	for i := 1; i < len(u)-1; i++ {
		t := u[i]
		d := bezier(c, t)
		d = Point{d.X - points[i].X, d.Y - points[i].Y}
		s := 1 - t
		d1 := Point{
			3 * (s*s*(c[1].X-c[0].X) + 2*s*t*(c[2].X-c[1].X) + t*t*(c[3].X-c[2].X)),
			3 * (s*s*(c[1].Y-c[0].Y) + 2*s*t*(c[2].Y-c[1].Y) + t*t*(c[3].Y-c[2].Y)),
		}
		d2 := Point{
			6 * (s*(c[2].X-2*c[1].X+c[0].X) + t*(c[3].X-2*c[2].X+c[1].X)),
			6 * (s*(c[2].Y-2*c[1].Y+c[0].Y) + t*(c[3].Y-2*c[2].Y+c[1].Y)),
		}
		if slope := dot(d1, d1) + dot(d, d2); slope != 0 {
			u[i] = max(0, min(t-dot(d, d1)/slope, 1))
		}
	}
}

func bernstein(t float64) (b0, b1, b2, b3 float64) {
	s := 1 - t
	return s * s * s, 3 * s * s * t, 3 * s * t * t, t * t * t
}

func bezier(c *[4]Point, t float64) Point {
	b0, b1, b2, b3 := bernstein(t)
	return Point{
		b0*c[0].X + b1*c[1].X + b2*c[2].X + b3*c[3].X,
		b0*c[0].Y + b1*c[1].Y + b2*c[2].Y + b3*c[3].Y,
	}
}

func dot(a, b Point) float64      { return a.X*b.X + a.Y*b.Y }
func distance(a, b Point) float64 { return math.Hypot(a.X-b.X, a.Y-b.Y) }

func unit(p Point) Point {
	if l := math.Hypot(p.X, p.Y); l > 0 {
		return Point{p.X / l, p.Y / l}
	}
	return Point{1, 0}
}

// fromLine is how far p is from the line through a and b.
func fromLine(p, a, b Point) float64 {
	l := distance(a, b)
	if l == 0 {
		return distance(p, a)
	}
	return math.Abs((b.X-a.X)*(p.Y-a.Y)-(b.Y-a.Y)*(p.X-a.X)) / l
}
