package joint

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

const (
	camStep  = 5    // degrees between the rows of a table
	camGap   = 0.5  // mm: how far a follower may be from its cam as the assembly stands
	camClose = 1e-5 // mm: how closely a row is found
	// Of finer outlines so many corners are looked at, of the cam and of what follows it.
	camCorners, cornersOf = 1_500, 96
)

// CamTable reads from the shapes how a follower moves as a cam turns: of each 5° of the cam's joint the value of the
// follower's at which both are as near to one another as the assembly stands, both less their values at rest: degrees
// and mm, as a coupling's table has them. The cam turns about its joint's axis; the follower slides across that or turns
// about an axis parallel to it. What moves with a joint are the parts below its body that no other joint moves.
func CamTable(a *assembly.Assembly, shapes []*solid.Shape, cam, follower *assembly.Joint) ([][2]float64, error) {
	if !cam.Kind.Turns() || cam.Kind == assembly.Ball || cam.Kind == assembly.Universal {
		return nil, fmt.Errorf("“%s” does not turn about one axis: a cam does", cam.Name)
	}
	c := side{a: a, shapes: shapes, worlds: a.Worlds(), index: a.Index()}
	c.axis = c.lineOf(cam)
	m, err := c.motionOf(follower)
	if err != nil {
		return nil, err
	}
	t, ok := c.touching(c.movedBy(cam), c.movedBy(follower))
	if !ok {
		return nil, fmt.Errorf(
			"nothing on “%s” touches the outline of what “%s” turns, as the assembly stands",
			follower.Name,
			cam.Name,
		)
	}
	return follow(t.cam, t.follower, m)
}

// side looks at a mechanism along the axis of a cam.
type side struct {
	a      *assembly.Assembly
	shapes []*solid.Shape
	worlds []space.Rigid
	index  map[assembly.NodeID]int
	axis   line
}

func (c *side) lineOf(j *assembly.Joint) line { return lineOf(j, &c.worlds[c.index[j.Body]]) }

// seen is a direction across the axis as (u, v).
func (c *side) seen(v space.Vec) [2]float64 {
	u, w := solid.AxesOf(c.axis.axis)
	return [2]float64{r3.Dot(v, u), r3.Dot(v, w)}
}

// motion is how a follower moves across the axis: along a direction by mm, or about a point by degrees, anticlockwise
// where sense is 1.
type motion struct {
	turns       bool
	way, centre [2]float64
	sense       float64
}

func (c *side) motionOf(follower *assembly.Joint) (m motion, err error) {
	l := c.lineOf(follower)
	along := r3.Dot(l.axis, c.axis.axis)
	switch {
	case follower.Kind == assembly.Prismatic && math.Abs(along) < 0.02:
		return motion{way: c.seen(l.axis)}, nil
	case follower.Kind == assembly.Revolute && math.Abs(along) > 0.9998:
		return motion{turns: true, centre: c.seen(r3.Sub(l.centre, c.axis.centre)), sense: math.Copysign(1, along)}, nil
	}
	return m, fmt.Errorf(
		"“%s” neither slides across the cam's axis nor turns about one parallel to it: write the table by hand",
		follower.Name,
	)
}

// by moves a point by a value.
func (m *motion) by(p [2]float64, value float64) [2]float64 {
	if !m.turns {
		return [2]float64{p[0] + value*m.way[0], p[1] + value*m.way[1]}
	}
	return about(m.centre, p, m.sense*value)
}

// about turns a point about another one, anticlockwise, degrees.
func about(centre, p [2]float64, degrees float64) [2]float64 {
	s, c := math.Sincos(degrees * math.Pi / 180)
	x, y := p[0]-centre[0], p[1]-centre[1]
	return [2]float64{centre[0] + c*x - s*y, centre[1] + s*x + c*y}
}

// touch is where a follower lies on a cam: the outlines of both across the cam's axis, how far they are from each other,
// mm, and the part that follows.
type touch struct {
	cam, follower outline
	apart         float64
	node          int
}

// touching finds where the parts that a cam's joint turns come nearest to those that its follower's moves, in the middle
// of what two of them have in common along the axis.
func (c *side) touching(turning, following []int) (t touch, ok bool) {
	t.apart = camGap
	boxes := c.a.BoundsOf()
	for _, i := range turning {
		for _, k := range following {
			if !nearby(boxes[i], boxes[k], camGap) {
				continue
			}
			one, other := c.along(i), c.along(k)
			low, high := max(one.low, other.low), min(one.high, other.high)
			if high-low < 1e-3 {
				continue
			}
			w := low + 0.487*(high-low)
			for _, o := range one.loops(w) {
				if o.area() <= 0 {
					continue // a hole
				}
				bounds := o.blocked()
				for _, g := range other.outlines(w) {
					if g.area() <= 0 {
						continue
					}
					if d := math.Abs(apart(&bounds, rounded(g))); d < t.apart {
						t, ok = touch{o, g, d, k}, true
					}
				}
			}
		}
	}
	return t, ok
}

// along looks at a part along the cam's axis.
func (c *side) along(node int) *around {
	back := c.worlds[node].Inverse()
	l := line{back.Apply(c.axis.centre), back.R.Apply(c.axis.axis)}
	u, v := solid.AxesOf(c.axis.axis)
	return lookAcross(c.shapes[c.a.Nodes[node].Shape], l.centre, l.axis, back.R.Apply(u), back.R.Apply(v))
}

// movedBy are the parts that move with a joint.
func (c *side) movedBy(j *assembly.Joint) (list []int) {
	other := map[int]bool{}
	for i := range c.a.Joints {
		if o := &c.a.Joints[i]; o.Body != j.Body {
			other[c.index[o.Body]] = true
		}
	}
	under := make([]bool, len(c.a.Nodes))
	for i := range c.a.Nodes {
		n := &c.a.Nodes[i]
		under[i] = n.ID == j.Body || n.Parent >= 0 && under[n.Parent] && !other[i]
		if under[i] && n.IsPart() {
			list = append(list, i)
		}
	}
	return list
}

// round is an outline, or the circle that it is.
type round struct {
	outline
	centre [2]float64
	radius float64 // 0 for what is no circle
}

// rounded finds whether an outline is a circle's: its corners are equally far from their middle.
func rounded(o outline) (r round) {
	o = thinned(o, cornersOf)
	r.outline = o
	for _, p := range o {
		r.centre[0], r.centre[1] = r.centre[0]+p[0]/float64(len(o)), r.centre[1]+p[1]/float64(len(o))
	}
	low, high := math.Inf(1), 0.0
	for _, p := range o {
		d := math.Hypot(p[0]-r.centre[0], p[1]-r.centre[1])
		low, high = min(low, d), max(high, d)
	}
	if len(o) >= 10 && high-low < 2e-3*high {
		r.radius = high
	}
	return r
}

// apart is how far a follower is from a cam's outline, mm; negative where it is in that.
func apart(cam *blocks, f round) float64 {
	if f.radius > 0 {
		return cam.off(f.centre) - f.radius
	}
	least := math.Inf(1)
	for _, p := range f.outline {
		least = min(least, cam.off(p))
	}
	follower := f.outline.blocked()
	for _, p := range cam.outline {
		least = min(least, follower.off(p))
	}
	return least
}

// blocks are an outline's edges, so many together in a box: where a box is far, its edges need not be looked at.
type blocks struct {
	outline
	boxes []block
}

type block struct{ low, high [2]float64 }

const edgesOf = 12

func (o outline) blocked() (b blocks) {
	b.outline = o
	for i := 0; i < len(o); i += edgesOf {
		box := block{o[i], o[i]}
		for k := i; k <= min(i+edgesOf, len(o)); k++ {
			p := o[k%len(o)]
			for c := range 2 {
				box.low[c], box.high[c] = min(box.low[c], p[c]), max(box.high[c], p[c])
			}
		}
		b.boxes = append(b.boxes, box)
	}
	return b
}

// off is how far a point is from an outline that goes anticlockwise, mm; negative where it lies within.
func (b *blocks) off(p [2]float64) float64 {
	least, inside := math.Inf(1), false
	for n := range b.boxes {
		box := &b.boxes[n]
		x := max(box.low[0]-p[0], p[0]-box.high[0], 0)
		y := max(box.low[1]-p[1], p[1]-box.high[1], 0)
		if far := x*x+y*y >= least; far && (y > 0 || p[0] > box.high[0]) {
			continue
		}
		for i := n * edgesOf; i < min((n+1)*edgesOf, len(b.outline)); i++ {
			from, to := b.outline[i], b.outline[(i+1)%len(b.outline)]
			x, y := to[0]-from[0], to[1]-from[1]
			t := max(0, min(1, ((p[0]-from[0])*x+(p[1]-from[1])*y)/max(x*x+y*y, 1e-30)))
			dx, dy := p[0]-from[0]-t*x, p[1]-from[1]-t*y
			least = min(least, dx*dx+dy*dy)
			if (from[1] > p[1]) != (to[1] > p[1]) && p[0] < from[0]+(p[1]-from[1])/y*x {
				inside = !inside
			}
		}
	}
	if inside {
		return -math.Sqrt(least)
	}
	return math.Sqrt(least)
}

// follow finds the follower's values as the cam turns once round.
func follow(cam, follower outline, m motion) ([][2]float64, error) {
	f := rounded(follower)
	cam = thinned(cam, camCorners)
	bounds := cam.blocked()
	gap := func(turned, value float64) float64 {
		moved := round{centre: m.by(f.centre, value), radius: f.radius}
		moved.centre = about([2]float64{}, moved.centre, -turned) // as the cam sees it
		if f.radius == 0 {
			moved.outline = make(outline, len(f.outline))
			for i, p := range f.outline {
				moved.outline[i] = about([2]float64{}, m.by(p, value), -turned)
			}
		}
		return apart(&bounds, moved)
	}
	far := m.farthest(cam, f)
	rest := gap(0, 0)
	lift := 1.0
	if gap(0, 0.01*far) < gap(0, -0.01*far) {
		lift = -1
	}
	table := [][2]float64{{0, 0}}
	for turned := camStep; turned <= 360; turned += camStep {
		before := table[len(table)-1][1]
		value, ok := settle(func(v float64) float64 { return gap(float64(turned), before+lift*v) - rest }, far)
		if !ok {
			return nil, fmt.Errorf(
				"the follower leaves the cam, or cannot give way to it, when that has turned by %d°",
				turned,
			)
		}
		table = append(table, [2]float64{float64(turned), math.Round((before+lift*value)*1e4) / 1e4})
	}
	last := &table[len(table)-1]
	if math.Abs(last[1]) > 1e-2 {
		return nil, errors.New("the follower does not come back in a revolution: it is led by something else")
	}
	last[1] = 0
	return table, nil
}

// farthest bounds what a follower moves: as far as the cam is wide, or as that is seen from what the follower turns about.
func (m *motion) farthest(cam outline, f round) float64 {
	wide := 0.0
	for _, p := range cam {
		wide = max(wide, math.Hypot(p[0], p[1]))
	}
	if !m.turns {
		return wide
	}
	arm := math.Hypot(f.centre[0]-m.centre[0], f.centre[1]-m.centre[1])
	return min(90, wide/max(arm, 1e-9)*180/math.Pi)
}

// settle finds where a gap that grows with a value is 0, within ±far of where it is looked for first.
func settle(gap func(float64) float64, far float64) (float64, bool) {
	low, high := 0.0, 0.0
	for step := far / 256; gap(low) > 0; step *= 2 {
		if low -= step; low < -far {
			return 0, false
		}
	}
	for step := far / 256; gap(high) < 0; step *= 2 {
		if high += step; high > far {
			return 0, false
		}
	}
	for high-low > camClose {
		if middle := (low + high) / 2; gap(middle) < 0 {
			low = middle
		} else {
			high = middle
		}
	}
	return (low + high) / 2, true
}

// thinned leaves of an outline what bounds its way to a micrometre, or, where that are very many corners, as closely as
// so many can: corners on straight lines say nothing.
func thinned(o outline, most int) outline {
	for within := 1e-6; ; within *= 4 {
		out := slices.Clone(o)
		for i := 0; i < len(out) && len(out) > 3; {
			a, p, b := out[(i+len(out)-1)%len(out)], out[i], out[(i+1)%len(out)]
			l := math.Hypot(b[0]-a[0], b[1]-a[1])
			if l < 1e-9 || math.Abs((p[0]-a[0])*(b[1]-a[1])-(p[1]-a[1])*(b[0]-a[0]))/l < within {
				out = slices.Delete(out, i, i+1)
			} else {
				i++
			}
		}
		if len(out) <= most {
			return out
		}
	}
}
