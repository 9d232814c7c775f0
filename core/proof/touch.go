package proof

import (
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/clearance"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// resolution is by how much two bodies may still move, mm, where it is no longer asked when exactly they touch.
const resolution = 0.02

// shortest is the shortest piece of time that is divided, µs.
const shortest = 1.0

// encounter is two thinned bodies, and how they move.
type encounter struct {
	still, moving *clearance.Slim
	course        *course
	swept         *both
	left          int // how many pairs of triangles may still be looked at
}

// most is how many pairs of triangles are looked at of one pair of parts and one piece of time, some seconds' worth.
// Only meshes that lie in themselves, or in each other everywhere, need as many.
const most = 20_000_000

// pair is a triangle of each body, and the direction that told them apart last.
type pair struct {
	t, u uint32
	n    space.Vec
}

// first returns the earliest film time, µs, between two times between which no turn lies, from which on the bodies
// touch; last is the latest. ok is false where they do not.
func (e *encounter) first(from, to float64) (t float64, ok bool) { return e.search(from, to, false) }

func (e *encounter) last(from, to float64) (t float64, ok bool) { return e.search(from, to, true) }

func (e *encounter) search(from, to float64, late bool) (float64, bool) {
	if e.left < 0 {
		return 0, false
	}
	p := e.course.over(from, to)
	if p.boxesApart(e.still.Tree.Box(), e.moving.Tree.Box()) {
		return 0, false
	}
	if e.tooWide(&p) && to-from > shortest {
		return halves(from, to, late, func(a, b float64) (float64, bool) { return e.search(a, b, late) })
	}
	pairs := e.near(&p)
	if len(pairs) == 0 {
		return 0, false
	}
	return e.refine(from, to, pairs, late)
}

// met is when two bodies touch in a piece of time between two turns, µs; crowded says that too much of them lies close
// together for that to be found.
type met struct {
	times   [][2]float64
	crowded bool
}

// meet finds when the bodies touch in a piece of time.
func (e *encounter) meet(from, to float64) met {
	e.left = most
	first, touches := e.first(from, to)
	last := to
	if touches {
		last, _ = e.last(from, to)
	}
	switch {
	case e.left < 0:
		return met{crowded: true}
	case !touches:
		return met{}
	}
	return met{times: e.meetings(first, last)}
}

// gaps is at how many moments of a meeting it is looked whether the bodies are apart meanwhile: what is shorter than
// its share of the time is not told of.
const gaps = 16

// meetings divides the time from the first to the last touch of two bodies, between two turns, where they are apart
// meanwhile.
func (e *encounter) meetings(from, to float64) (list [][2]float64) {
	for k := 1; k < gaps; k++ {
		t := from + (to-from)*float64(k)/gaps
		place := e.course.against.At(t)
		if meets(e.still, e.moving, &place) || e.within(&place) {
			continue
		}
		left, ok := e.last(from, t)
		if !ok {
			left = from
		}
		next, ok := e.first(t, to)
		if !ok {
			next = to
		}
		if left < t && next > t {
			return append(append(list, e.meetings(from, left)...), e.meetings(next, to)...)
		}
	}
	return [][2]float64{{from, to}}
}

// within reports whether one of the bodies, whose surfaces do not meet, lies in the other.
func (e *encounter) within(place *space.Rigid) bool {
	inverse := place.Inverse()
	x, y := e.still.Tree.Triangle(0), e.moving.Tree.Triangle(0)
	return encloses(e.still.Tree, place.Apply(y[0])) || encloses(e.moving.Tree, inverse.Apply(x[0]))
}

// encloses reports whether a point lies in a closed body: whether a way out of it goes through its surface an odd
// number of times. The way is an odd one, so that it meets no edge.
func encloses(tree *solid.BVH, p space.Vec) bool {
	box := tree.Box()
	if separate(box, space.Box{Min: p, Max: p}, 0) {
		return false
	}
	out := r3.Add(p, r3.Scale(2*r3.Norm(box.Size())+1, r3.Unit(space.Vec{X: 0.8137, Y: 0.2713, Z: 0.5139})))
	n := 0
	for i := range len(tree.Shape.Triangles) / 3 {
		t := tree.Triangle(uint32(i))
		if pierced(&t, p, out) {
			n++
		}
	}
	return n%2 == 1
}

// tooWide reports whether a piece is to be divided before triangles are looked at: the bounds of what moves in it are
// so loose that most of them would seem to meet.
func (e *encounter) tooWide(p *piece) bool {
	if p.wide() {
		return !p.turns()
	}
	x, y := e.still.Tree.Box(), e.moving.Tree.Box()
	return straysOf(&p.still, x)+straysOf(&p.moving, y) > max(0.25, 0.02*min(r3.Norm(x.Size()), r3.Norm(y.Size())))
}

// halves looks at one half of a piece of time and then, if need be, at the other.
func halves(from, to float64, late bool, look func(a, b float64) (float64, bool)) (float64, bool) {
	middle := (from + to) / 2
	a, b, c, d := from, middle, middle, to
	if late {
		a, b, c, d = c, d, a, b
	}
	if t, ok := look(a, b); ok {
		return t, true
	}
	return look(c, d)
}

// refine finds the time at which the first, or last, of some pairs touch.
func (e *encounter) refine(from, to float64, pairs []pair, late bool) (float64, bool) {
	if to-from <= shortest || e.rests(pairs) {
		if late {
			return to, true
		}
		return from, true
	}
	return halves(from, to, late, func(a, b float64) (float64, bool) {
		if e.left -= len(pairs); e.left < 0 {
			return 0, false
		}
		half := e.course.over(a, b)
		var left []pair
		e.swept.begin(&half, e.still.Tree, e.moving.Tree)
		for _, q := range pairs {
			if !e.swept.apart(&half, q.t, q.u, &q.n) {
				left = append(left, q)
			}
		}
		if len(left) == 0 {
			return 0, false
		}
		return e.refine(a, b, left, late)
	})
}

// rests reports whether none of the pairs moves by more than the resolution in the piece that was looked at last.
func (e *encounter) rests(pairs []pair) bool {
	if e.swept.still.axis != nil {
		return false // it turns by more than a little
	}
	for _, q := range pairs {
		if e.swept.moves(q.t, q.u) > resolution {
			return false
		}
	}
	return true
}

// near lists the pairs of triangles that may touch during a piece.
func (e *encounter) near(p *piece) (list []pair) {
	e.swept.begin(p, e.still.Tree, e.moving.Tree)
	keep := func(x, y int32) bool { return e.left >= 0 && !e.swept.branchesApart(p, x, y) }
	e.still.Tree.Pairs(e.moving.Tree, keep, func(t, u uint32) {
		e.left--
		q := pair{t: t, u: u}
		if !e.swept.apart(p, t, u, &q.n) {
			list = append(list, q)
		}
	})
	return list
}
