package proof

import (
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/film"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// course is how two bodies move: one against the other, or, where both turn, each against what holds both.
type course struct {
	film    *film.Film
	against *film.Against
	each    *[2]body // of both, once that is needed
	nodes   [2]int
}

// body is how one body moves against what holds both: not at all where against is nil.
type body struct {
	against *film.Against
	stays   space.Rigid
}

// piece is a piece of time between two turns: how the bodies move in it, in a frame that both share.
type piece struct {
	still, moving film.Arc
	fixed         bool // the still body stands in its own frame
}

// over returns the piece between two film times, µs.
func (c *course) over(from, to float64) piece {
	arc := c.against.Arc(from, to)
	if !arc.Both {
		return piece{still: film.Arc{From: space.Identity, To: space.Identity}, moving: arc, fixed: true}
	}
	if c.each == nil {
		c.each = c.both()
	}
	return piece{still: c.each[0].over(from, to), moving: c.each[1].over(from, to)}
}

func (c *course) both() (each *[2]body) {
	each = &[2]body{}
	fr := c.film.NewFrame()
	above := fr.World[c.against.Above()].Inverse()
	for i, node := range c.nodes {
		each[i] = body{c.film.Against(c.against.Above(), node), above.Mul(&fr.World[node])}
	}
	return each
}

func (b *body) over(from, to float64) film.Arc {
	if b.against == nil {
		return film.Arc{From: b.stays, To: b.stays}
	}
	return b.against.Arc(from, to)
}

// wide says that the piece tells nothing of how far points stray, and has to be divided.
func (p *piece) wide() bool { return p.still.Angle > film.Wide || p.moving.Angle > film.Wide }

// turns says that it can be told all the same what is apart, by turning.
func (p *piece) turns() bool { return p.fixed && p.moving.Helix != nil }

// boxesApart reports whether what is in two boxes, each in its body's frame, is apart during the piece.
func (p *piece) boxesApart(x, y space.Box) bool {
	if p.fixed && p.moving.Angle == 0 {
		way := r3.Sub(p.moving.To.T, p.moving.From.T)
		return solid.Meets(x, grown(y.Moved(&p.moving.From), straysOf(&p.moving, y)), way) > 1
	}
	return separate(sweptBy(&p.still, x), sweptBy(&p.moving, y), 0)
}

// sweptBy is a box that holds another one during an arc.
func sweptBy(a *film.Arc, b space.Box) space.Box {
	if a.Angle > film.Wide && a.Helix != nil {
		return revolved(a, b)
	}
	return grown(b.Moved(&a.From).Union(b.Moved(&a.To)), min(straysOf(a, b), 1e9))
}

// revolved is a box around all that a box reaches while it turns by any angle.
func revolved(a *film.Arc, b space.Box) space.Box {
	w := newTurning(a.Helix)
	around := w.around(b.Moved(&a.From))
	_, far := radii(&around)
	around.Min.X, around.Min.Y, around.Min.Z = -far, -far, around.Min.Z+w.low
	around.Max.X, around.Max.Y, around.Max.Z = far, far, around.Max.Z+w.high
	out := space.EmptyBox
	for i := range 8 {
		out = out.With(w.back(around.Corner(i)))
	}
	return out
}
