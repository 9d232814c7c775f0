package mechanism

import (
	"math"

	"slowreveal/core/assembly"
	"slowreveal/core/space"
)

// cut is a joint that closes a loop: what it says of the displacements of its base and body, which hang on the same body
// by chains of other joints.
type cut struct {
	joint      int
	base, body []link // from what carries both
	frame      frame  // at rest, in the world
	rows       []row
	lead       float64 // mm in a degree
}

// frame is a joint's axis, a point of it, and what is across it.
type frame struct {
	point  space.Vec
	axes   [3]space.Vec // along it, and two across
	second space.Vec    // of a universal joint
}

func (f *frame) moved(m *space.Rigid) frame {
	g := frame{point: m.Apply(f.point), second: m.R.Apply(f.second)}
	for i := range f.axes {
		g.axes[i] = m.R.Apply(f.axes[i])
	}
	return g
}

// row is one equation of a cut.
type row struct {
	kind rowKind
	of   int // which direction of the body's frame, or of the world
	in   int // which one of the base's
}

type rowKind int

const (
	pointRow  rowKind = iota // both have the point at one place, along an axis of the world
	offsetRow                // the body's point is not off the base's along a direction of the base
	leanRow                  // a direction of the body stands across one of the base
	secondRow                // the second axis of a universal joint stands across its first
	helixRow                 // it has slid as far as it has turned
)

var (
	onePoint = []row{{pointRow, 0, 0}, {pointRow, 1, 0}, {pointRow, 2, 0}}
	onAxis   = []row{{offsetRow, 0, 1}, {offsetRow, 0, 2}}
	upright  = []row{{leanRow, 0, 1}, {leanRow, 0, 2}}
	unturned = []row{{leanRow, 1, 2}}
)

func rowsOf(kind assembly.JointKind) []row {
	join := func(lists ...[]row) (rows []row) {
		for _, l := range lists {
			rows = append(rows, l...)
		}
		return rows
	}
	switch kind {
	case assembly.Revolute:
		return join(onePoint, upright)
	case assembly.Prismatic:
		return join(onAxis, upright, unturned)
	case assembly.Cylindrical:
		return join(onAxis, upright)
	case assembly.Helical:
		return join(onAxis, upright, []row{{helixRow, 0, 0}})
	case assembly.Planar:
		return join([]row{{offsetRow, 0, 0}}, upright)
	case assembly.Ball:
		return onePoint
	case assembly.Universal:
		return join(onePoint, []row{{secondRow, 0, 0}})
	}
	return join(onePoint, upright, unturned)
}

// newCut makes the equations of a joint that is not in the tree.
func (m *Mechanism) newCut(i int) cut {
	j := &m.joints[i]
	at := &m.rest[m.index[j.Body]]
	c := cut{joint: i, rows: rowsOf(j.Kind), lead: j.Lead / 360}
	c.frame.point = at.Apply(j.Point.Vec())
	axis := at.R.Apply(unit(j.Axis.Vec()))
	if axis == (space.Vec{}) {
		axis = space.Vec{Z: 1}
	}
	u, v := across(axis)
	c.frame.axes = [3]space.Vec{axis, u, v}
	if j.Second != nil {
		c.frame.second = unit(reject(at.R.Apply(j.Second.Vec()), axis))
	}
	above := m.carries(j.base, j.body)
	c.base, c.body = m.chain(above, j.base), m.chain(above, j.body)
	return c
}

// carries is the nearest body that two bodies hang on.
func (m *Mechanism) carries(a, b int) int {
	for da, db := m.depth(a), m.depth(b); a != b; {
		if da >= db {
			a, da = m.parents[a], da-1
		} else {
			b, db = m.parents[b], db-1
		}
	}
	return a
}

// chain is the way from a body to one that hangs on it.
func (m *Mechanism) chain(from, to int) (links []link) {
	for ; to != from; to = m.parents[to] {
		links = append(append([]link(nil), m.ways[to]...), links...)
	}
	return links
}

// twist is how a point moves as a coordinate grows: it turns with spin, rad, about a line through a point, and slides.
type twist struct {
	spin, point, slide space.Vec
}

func (t *twist) ofPoint(p space.Vec) space.Vec { return add(cross(t.spin, sub(p, t.point)), t.slide) }

func (t *twist) ofDirection(d space.Vec) space.Vec { return cross(t.spin, d) }

// walk goes along a chain and returns where it leads; twists are filled with those of its links.
func (m *Mechanism) walk(links []link, x []float64, twists []twist) space.Rigid {
	at := space.Identity
	for k, l := range links {
		c := &m.coordinates[l.coordinate]
		axis := at.R.Apply(c.axis)
		t := &twists[k]
		*t = twist{point: at.Apply(c.point), slide: scale(axis, l.sign*c.advance)}
		if c.turns {
			t.spin = scale(axis, l.sign*math.Pi/180)
		}
		move := c.motion(l.sign * x[l.coordinate])
		at = at.Mul(&move)
	}
	return at
}

// evaluate fills in how far the loop is from being closed, mm, a number for each row, and by how much that grows with
// each coordinate, a list of numbers for each row. Leaning is measured at the distance size.
func (c *cut) evaluate(m *Mechanism, x []float64, s *work, r []float64, slopes func(row, coordinate int) *float64) {
	base, body := m.walk(c.base, x, s.base), m.walk(c.body, x, s.body)
	f, g := c.frame.moved(&base), c.frame.moved(&body)
	for i, row := range c.rows {
		r[i] = row.value(c, &f, &g, m.size)
		for k, l := range c.base {
			*slopes(i, l.coordinate) += row.slope(c, &f, &g, m.size, &s.base[k], nil)
		}
		for k, l := range c.body {
			*slopes(i, l.coordinate) += row.slope(c, &f, &g, m.size, nil, &s.body[k])
		}
	}
}

func (w row) value(c *cut, f, g *frame, size float64) float64 {
	switch w.kind {
	case pointRow:
		return component(sub(g.point, f.point), w.of)
	case offsetRow:
		return dot(sub(g.point, f.point), f.axes[w.in])
	case leanRow:
		return size * dot(g.axes[w.of], f.axes[w.in])
	case secondRow:
		return size * dot(g.second, f.axes[0])
	}
	turned := math.Atan2(dot(g.axes[1], f.axes[2]), dot(g.axes[1], f.axes[1])) * (180 / math.Pi)
	off := dot(sub(g.point, f.point), f.axes[0]) - c.lead*turned
	return math.Remainder(off, 360*c.lead)
}

// slope is how much the value grows as one of the two frames moves.
func (w row) slope(c *cut, f, g *frame, size float64, base, body *twist) float64 {
	var df, dg frame
	if base != nil {
		df = frame{point: base.ofPoint(f.point), axes: [3]space.Vec{
			base.ofDirection(f.axes[0]), base.ofDirection(f.axes[1]), base.ofDirection(f.axes[2]),
		}}
	} else {
		dg = frame{point: body.ofPoint(g.point), second: body.ofDirection(g.second)}
		dg.axes[w.of] = body.ofDirection(g.axes[w.of])
	}
	apart, drifts := sub(g.point, f.point), sub(dg.point, df.point)
	switch w.kind {
	case pointRow:
		return component(drifts, w.of)
	case offsetRow:
		return dot(drifts, f.axes[w.in]) + dot(apart, df.axes[w.in])
	case leanRow:
		return size * (dot(dg.axes[w.of], f.axes[w.in]) + dot(g.axes[w.of], df.axes[w.in]))
	case secondRow:
		return size * (dot(dg.second, f.axes[0]) + dot(g.second, df.axes[0]))
	}
	spin := space.Vec{}
	if body != nil {
		spin = body.spin
	} else {
		spin = scale(base.spin, -1)
	}
	return dot(drifts, f.axes[0]) + dot(apart, df.axes[0]) - c.lead*dot(spin, f.axes[0])*(180/math.Pi)
}

func component(v space.Vec, i int) float64 { return [3]float64{v.X, v.Y, v.Z}[i] }
