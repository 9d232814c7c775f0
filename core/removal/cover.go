package removal

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/outline"
	"slowreveal/core/plan"
	"slowreveal/core/space"
)

const (
	// mostExtra is how much farther than it must something goes, as a share of the assembly's diagonal, so that it
	// covers nothing and nothing covers it, and extraCost what each such diagonal costs against being covered whole.
	mostExtra = 0.5
	extraCost = 1.0
	// littleCovered is which share of something may be covered.
	littleCovered = 0.1
	// laterEye is what it counts, against 1 in the step in which the second of two leaves, that one covers the other from
	// where a later step is seen.
	laterEye = 0.5
)

// cover is what has left, as it is seen from where the steps are seen: what covers what. Sight is along parallel lines;
// each body is the convex hull of its points.
type cover struct {
	*search
	eyes   []space.Mat3 // the different ones
	eyeOf  []int        // by move, and in the end
	later  [][]int      // by move: the others of those of the moves after it, and in the end
	bodies []body       // of the moves that have been placed
}

// body is what a unit takes along and keeps to the end.
type body struct {
	move, unit int // the outermost that has been placed
	step       int // the move with which it leaves
	parts      []int
	clear      bool      // one sees through all of it
	views      []view    // by eye, as it stood before
	moved      space.Vec // in the world, by all that has been placed
}

// view is how a body is seen, in mm of a picture plane: its hull, nil until it is needed, that one's area and bounds, and
// how near its middle is.
type view struct {
	hull      []outline.Point
	area      float64
	low, high outline.Point
	deep      float64
}

// newCover foresees how the camera is turned.
func (s *search) newCover() *cover {
	c := &cover{search: s}
	from := s.subject.Eye
	if from == (space.Quat{}) {
		from = plan.FirstEye()
	}
	known := map[space.Quat]int{}
	p := s.result()
	for _, eye := range plan.Eyes(&p, s.subject.Assembly, s.world, from, plan.Writing{}) {
		for i := range eye {
			eye[i] = math.Round(eye[i]*1e6) / 1e6
		}
		k, ok := known[eye]
		if !ok {
			k, known[eye] = len(c.eyes), len(c.eyes)
			c.eyes = append(c.eyes, eye.Normalized().Matrix())
		}
		c.eyeOf = append(c.eyeOf, k)
	}
	c.later = make([][]int, len(c.eyeOf))
	for i := len(c.eyeOf) - 2; i >= 0; i-- {
		next := c.eyeOf[i+1]
		for _, eye := range append(slices.Clone(c.later[i+1]), next) {
			if eye != c.eyeOf[i] && !slices.Contains(c.later[i], eye) {
				c.later[i] = append(c.later[i], eye)
			}
		}
	}
	return c
}

// best is how far a move goes in its last legs: from the distance that it must go on, the one that costs least. clear
// takes a distance on until nothing is in the way there.
func (c *cover) best(move int, must float64, clear func(far float64) float64) float64 {
	if c.confined(move) { // it leaves to others what it can of the room that there is
		return must
	}
	taken, left := c.taken(move), c.left(move)
	best, least := must, c.cost(move, taken, left, must)
	for far := must; least > 0 && far-must < mostExtra*c.size; {
		far = clear(far + c.gap())
		if far > mostFar*c.size {
			break
		}
		if cost := c.cost(move, taken, left, far) + extraCost*(far-must)/c.size; cost < least {
			best, least = far, cost
		}
	}
	return best
}

// confined reports whether a move, or what has taken it along, can only go so far.
func (c *cover) confined(move int) bool {
	for ; move >= 0; move = c.carrier(move) {
		for _, w := range c.moves[move].ways {
			if w.legs[len(w.legs)-1].most > 0 {
				return true
			}
		}
	}
	return false
}

// place adds a move, with the distances that it has got.
func (c *cover) place(move int) {
	taken := c.taken(move)
	kept := c.bodies[:0]
	for _, b := range c.bodies {
		if c.carrier(b.move) != move {
			kept = append(kept, b)
		}
	}
	c.bodies = kept
	for _, b := range taken {
		b.moved = r3.Add(b.moved, total(c.moves[move].ways[b.unit]))
		c.bodies = append(c.bodies, b)
	}
}

// carrier is the move that has taken along what a move takes from there, −1 for none.
func (c *cover) carrier(move int) int { return c.moves[move].carried }

// taken are the bodies that go with a move: what its units keep, and what is taken from them later.
func (c *cover) taken(move int) (list []body) {
	m := c.moves[move]
	away := map[int]bool{}
	for _, b := range c.bodies {
		if c.carrier(b.move) != move {
			continue
		}
		for u := range m.units {
			if c.in(&m.units[u])[b.parts[0]] {
				b.move, b.unit = move, u
				list = append(list, b)
			}
		}
		for _, p := range b.parts {
			away[p] = true
		}
	}
	for u := range m.units {
		if b := c.body(move, u, away); len(b.parts) > 0 {
			list = append(list, b)
		}
	}
	return list
}

// cost is how much is covered among what a move takes along and the others, where the move goes a distance in its last
// legs.
func (c *cover) cost(move int, taken, left []body, far float64) (sum float64) {
	m := c.moves[move]
	by := make([]space.Vec, len(m.ways))
	for u, w := range m.ways {
		last := w.legs[len(w.legs)-1]
		by[u] = r3.Add(total(w), r3.Scale(far-last.far, last.along))
	}
	for i := range taken {
		a := &taken[i]
		for k := range left {
			sum += c.fromAll(a, &left[k], by[a.unit], space.Vec{})
		}
		for k := range taken[:i] {
			if b := &taken[k]; a.unit != b.unit {
				sum += c.fromAll(a, b, by[a.unit], by[b.unit])
			}
		}
	}
	return sum
}

// left are the bodies that have left from the same place as a move, or that it leaves: what stays of what carried it.
func (c *cover) left(move int) (list []body) {
	carrier := c.carrier(move)
	away := map[int]bool{}
	for k, m := range c.moves {
		if m.carried != carrier {
			continue
		}
		for _, u := range m.units {
			for _, p := range u.parts {
				away[p] = true
			}
		}
		for i := range c.bodies {
			if k > move && c.bodies[i].move == k {
				list = append(list, c.bodies[i])
			}
		}
	}
	if carrier < 0 {
		return list
	}
	for u := range c.moves[carrier].units {
		if b := c.body(carrier, u, away); len(b.parts) > 0 {
			list = append(list, b)
		}
	}
	return list
}

// body is what a unit of a move has without some parts.
func (c *cover) body(move, unit int, away map[int]bool) body {
	b := body{
		move:  move,
		unit:  unit,
		step:  move,
		views: make([]view, len(c.eyes)),
	}
	for _, p := range c.moves[move].units[unit].parts {
		if !away[p] {
			b.parts = append(b.parts, p)
		}
	}
	b.clear = true
	for _, p := range b.parts {
		b.clear = b.clear && c.subject.Assembly.SeenThrough(p)
	}
	return b
}

// fromAll is how much is covered of two bodies that have gone so far, from where the step is seen with which the second
// of them leaves, and from where those after it are.
func (c *cover) fromAll(a, b *body, byA, byB space.Vec) float64 {
	if a.clear && b.clear {
		return 0
	}
	step := max(a.step, b.step)
	sum := c.covered(a, b, byA, byB, c.eyeOf[step])
	for _, eye := range c.later[step] {
		sum += laterEye * c.covered(a, b, byA, byB, eye)
	}
	return sum
}

// covered is which share of the farther of two bodies lies behind the nearer one, beyond what may.
func (c *cover) covered(a, b *body, byA, byB space.Vec, eye int) float64 {
	x, y := c.look(a, eye), c.look(b, eye)
	byA, byB = r3.Add(a.moved, byA), r3.Add(b.moved, byB)
	r := &c.eyes[eye]
	way := r3.Sub(byA, byB)
	right, up := r3.Dot(way, r.Column(0)), r3.Dot(way, r.Column(1))
	if x.low[0]+right > y.high[0] || x.high[0]+right < y.low[0] || x.low[1]+up > y.high[1] || x.high[1]+up < y.low[1] {
		return 0
	}
	nearer, farther := a, y
	if x.deep+r3.Dot(way, r.Column(2)) < y.deep {
		nearer, farther = b, x
	}
	if nearer.clear {
		return 0
	}
	moved := make([]outline.Point, len(x.hull))
	for i, p := range x.hull {
		moved[i] = outline.Point{p[0] + right, p[1] + up}
	}
	return max(0, outline.Area(outline.Common(moved, y.hull))/farther.area-littleCovered)
}

// look finds how a body is seen from an eye.
func (c *cover) look(b *body, eye int) *view {
	v := &b.views[eye]
	if v.hull != nil {
		return v
	}
	r := &c.eyes[eye]
	swing := c.moves[b.step].swing
	near, far := math.Inf(1), math.Inf(-1)
	var points []outline.Point
	for _, part := range b.parts {
		at := c.world[part]
		if swing != nil {
			turn := space.TurnAbout(
				c.world[0].Apply(swing.Pivot.Vec()),
				c.world[0].R.Apply(swing.About.Vec()),
				swing.Degrees,
			)
			at = turn.Mul(&at)
		}
		for _, p := range c.farthest(c.nodes[part].Shape) {
			q := at.Apply(p)
			points = append(points, outline.Point{r3.Dot(q, r.Column(0)), r3.Dot(q, r.Column(1))})
			depth := r3.Dot(q, r.Column(2))
			near, far = min(near, depth), max(far, depth)
		}
	}
	v.hull, v.deep = outline.Hull(points), (near+far)/2
	v.area, v.low, v.high = outline.Area(v.hull), v.hull[0], v.hull[0]
	for _, p := range v.hull {
		for k := range p {
			v.low[k], v.high[k] = min(v.low[k], p[k]), max(v.high[k], p[k])
		}
	}
	return v
}

// farthest are the points of a shape that tell where it reaches.
func (s *search) farthest(shape int) []space.Vec {
	if s.corners == nil {
		s.corners = make([][]space.Vec, len(s.subject.Shapes))
	}
	if s.corners[shape] == nil {
		s.corners[shape] = s.subject.Shapes[shape].Farthest()
	}
	return s.corners[shape]
}
