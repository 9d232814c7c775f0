package proof

import (
	"math"
	"sync"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/film"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// swept is where a body is during a piece of time: its corners, triangles and branches, each found once, when it is
// asked for first. The pairs of a piece ask for each many times.
type swept struct {
	tree  *solid.BVH
	arc   *film.Arc
	rests bool     // it stands in the frame that both share
	axis  *turning // while the moving body turns by any angle; both are seen from the axis then

	round     uint32 // what was found in an earlier one is of another piece
	corners   []way
	triangles []place
	branches  []place
}

// way is where a corner is at the beginning and at the end, and how far it may stray from the line between, mm.
type way struct {
	from, to space.Vec
	strays   float64
	round    uint32
}

// place is a box around what a triangle or a branch reaches. Seen from an axis it has Z along that and X how far from
// it.
type place struct {
	box    space.Box
	begun  space.Box // of a branch that goes straight on: what it reaches at the beginning, with how far that strays
	normal space.Vec // of a triangle at the beginning, of unit length; zero where it has none, and seen from an axis
	round  uint32
}

// both are the bodies of an encounter. They are used again: their lists are as long as the largest body.
type both struct{ still, moving swept }

var lent = sync.Pool{New: func() any { return new(both) }}

// begin makes both ready for a piece.
func (b *both) begin(p *piece, still, moving *solid.BVH) {
	var axis *turning
	if p.wide() && p.turns() {
		w := newTurning(p.moving.Helix)
		axis = &w
	}
	b.still.begin(still, &p.still, p.fixed, axis)
	b.moving.begin(moving, &p.moving, false, axis)
}

func (s *swept) begin(tree *solid.BVH, arc *film.Arc, rests bool, axis *turning) {
	s.tree, s.arc, s.rests, s.axis = tree, arc, rests, axis
	if s.round++; s.round == 0 { // after four thousand million pieces
		clear(s.corners)
		clear(s.triangles)
		clear(s.branches)
		s.round = 1
	}
	s.corners = longer(s.corners, len(tree.Shape.Positions)/3)
	s.triangles = longer(s.triangles, len(tree.Shape.Triangles)/3)
	s.branches = longer(s.branches, tree.Branches())
}

// longer is a list with room for n.
func longer[T any](list []T, n int) []T {
	if n <= len(list) {
		return list
	}
	return append(list, make([]T, n-len(list))...)
}

func (s *swept) corner(v uint32) *way {
	c := &s.corners[v]
	if c.round == s.round {
		return c
	}
	p := s.tree.Shape.Point(v)
	c.round = s.round
	switch {
	case s.axis != nil:
		if !s.rests {
			p = s.arc.From.Apply(p)
		}
		c.from = s.axis.seen(p)
	case s.rests:
		c.from, c.to, c.strays = p, p, 0
	default:
		c.from, c.to, c.strays = s.arc.From.Apply(p), s.arc.To.Apply(p), s.arc.Strays(p)
	}
	return c
}

// ways are those of a triangle's corners.
func (s *swept) ways(t uint32) [3]*way {
	c := s.tree.Shape.Triangles[3*t : 3*t+3]
	return [3]*way{s.corner(c[0]), s.corner(c[1]), s.corner(c[2])}
}

// triangle is a box around what a triangle reaches.
func (s *swept) triangle(t uint32) *space.Box {
	found := &s.triangles[t]
	if found.round == s.round {
		return &found.box
	}
	found.round = s.round
	ways := s.ways(t)
	if s.axis != nil {
		seen := solid.Triangle{ways[0].from, ways[1].from, ways[2].from}
		near := nearest(&seen)
		box := space.EmptyBox
		for _, p := range seen {
			box = box.With(space.Vec{X: hypot(p.X, p.Y), Z: p.Z})
		}
		box.Min.X = hypot(near.X, near.Y)
		found.box = s.advanced(box)
		return &found.box
	}
	box, strays := space.EmptyBox, 0.0
	for _, w := range ways {
		box, strays = box.With(w.from).With(w.to), max(strays, w.strays)
	}
	found.box = grown(box, strays)
	n := r3.Cross(r3.Sub(ways[1].from, ways[0].from), r3.Sub(ways[2].from, ways[1].from))
	if l := math.Sqrt(n.X*n.X + n.Y*n.Y + n.Z*n.Z); l < 1e-9 {
		found.normal = space.Vec{}
	} else {
		found.normal = space.Vec{X: n.X / l, Y: n.Y / l, Z: n.Z / l}
	}
	return &found.box
}

// branch is a box around what is in a branch of the tree.
func (s *swept) branch(k int32) *space.Box {
	found := &s.branches[k]
	if found.round == s.round {
		return &found.box
	}
	found.round = s.round
	own := s.tree.Branch(k)
	switch {
	case s.axis != nil:
		if !s.rests {
			own = own.Moved(&s.arc.From)
		}
		around := s.axis.around(own)
		near, far := radii(&around)
		around.Min.X, around.Max.X, around.Min.Y, around.Max.Y = near, far, 0, 0
		found.box = s.advanced(around)
	case s.rests:
		found.box = own
	case s.arc.Angle == 0:
		strays := straysOf(s.arc, own)
		begin, end := own.Moved(&s.arc.From), own.Moved(&s.arc.To)
		found.begun, found.box = grown(begin, strays), grown(begin.Union(end), min(strays, 1e9))
	default:
		found.box = sweptBy(s.arc, own)
	}
	return &found.box
}

// advanced is a box, seen from the axis, with how far the turning body advances.
func (s *swept) advanced(b space.Box) space.Box {
	if !s.rests {
		b.Min.Z += s.axis.low
		b.Max.Z += s.axis.high
	}
	return b
}

// branchesApart reports whether what is in two branches is apart during the piece.
func (b *both) branchesApart(p *piece, x, y int32) bool {
	if b.still.axis != nil || !p.fixed || p.moving.Angle != 0 {
		return separate(*b.still.branch(x), *b.moving.branch(y), 0)
	}
	// Straight on: what only the corners of the swept boxes have in common is told apart too.
	still, moving := b.still.branch(x), b.moving.branch(y)
	if separate(*still, *moving, 0) {
		return true
	}
	return solid.Meets(*still, b.moving.branches[y].begun, r3.Sub(p.moving.To.T, p.moving.From.T)) > 1
}

// apart reports whether two triangles are apart during the piece. n is a direction to try first; it becomes the one that
// told them apart.
func (b *both) apart(p *piece, t, u uint32, n *space.Vec) bool {
	if p.wide() && b.still.axis == nil {
		return false
	}
	if separate(*b.still.triangle(t), *b.moving.triangle(u), 0) {
		return true
	}
	x, y := b.still.ways(t), b.moving.ways(u)
	if w := b.still.axis; w != nil {
		return w.seenApart(
			&solid.Triangle{x[0].from, x[1].from, x[2].from}, &solid.Triangle{y[0].from, y[1].from, y[2].from},
		)
	}
	h := hull{
		strays: max(x[0].strays, x[1].strays, x[2].strays) + max(y[0].strays, y[1].strays, y[2].strays),
		rests:  b.still.rests,
	}
	for i := range 3 {
		h.a[0][i], h.a[1][i] = x[i].from, x[i].to
		h.b[0][i], h.b[1][i] = y[i].from, y[i].to
	}
	if *n != (space.Vec{}) && h.apartAlong(*n) {
		return true
	}
	// What slides along another surface is told apart by its normal.
	for _, normal := range [2]space.Vec{b.still.triangles[t].normal, b.moving.triangles[u].normal} {
		if normal != (space.Vec{}) && h.apartAlong(normal) {
			*n = normal
			return true
		}
	}
	return h.apart(n)
}

// moves is how far a triangle of each body may move in the piece, mm.
func (b *both) moves(t, u uint32) (most float64) {
	x, y := b.still.ways(t), b.moving.ways(u)
	for i := range 3 {
		most = max(most, x[i].length()+y[i].length())
	}
	return most
}

func (w *way) length() float64 {
	d := r3.Sub(w.to, w.from)
	return math.Sqrt(r3.Dot(d, d)) + w.strays
}
