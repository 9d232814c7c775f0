package fastener

import (
	"fmt"
	"math"
	"strings"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// Placement is what the surroundings of a part say of it.
type Placement struct {
	// Through is how many other parts have a hole on its axis in which its shank runs.
	Through int
	// On says that the shank of another part runs in its hole.
	On bool
	// Lies says that a face across its axis lies on another part.
	Lies bool
	// Opposite says that a part of another shape on the same axis lies on what it goes through.
	Opposite bool
	// Alike is how many parts have its shape, itself included.
	Alike int
}

// Axial is a shape seen along its main axis, in its own frame.
type Axial struct {
	Origin, Axis space.Vec
	// Shank is the radius of its longest cylinder seen from outside, Hole that of its longest hole, mm; 0 without one.
	Shank, Hole float64
	body        *body
}

// widest is how many times as wide as its thread a head or a nut is at most, over its corners (ISO 4032 and 4762 stay
// below 2.2; from memory).
const widest = 3

// Along looks at a shape along its main axis; nil where it has none, or is too large for a fastener.
func Along(s *solid.Shape, f *solid.Features) *Axial {
	if size := s.Bounds.Size(); max(size.X, size.Y, size.Z) > maxSize {
		return nil
	}
	b := loosely(s, f)
	if b == nil {
		return nil
	}
	return &Axial{
		Origin: b.origin,
		Axis:   b.axis,
		Shank:  longest(b.outer).radius,
		Hole:   longest(b.holes).radius,
		body:   b,
	}
}

// leastTurn is how much of the full round pieces of a cylinder have to cover together: coarse meshes have it in pieces,
// and with gaps.
const leastTurn = 0.25

// loosely is bodyOf for cylinders that come in pieces whose axes are a little off one another.
func loosely(s *solid.Shape, f *solid.Features) *body {
	type group struct {
		ring
		hole       bool
		turn, area float64
		axis, at   space.Vec
	}
	var groups []*group
	for i := range f.List {
		c := &f.List[i]
		if c.Kind != solid.Cylinder {
			continue
		}
		axis, centre := c.Axis.Vec(), c.Centre.Vec()
		var g *group
		for _, o := range groups {
			if o.hole == c.Hole && math.Abs(o.radius-c.Radius) < 0.03*o.radius &&
				math.Abs(r3.Dot(o.axis, axis)) > 0.9995 &&
				r3.Norm(r3.Cross(o.axis, r3.Sub(centre, o.at))) < 0.05*o.radius {
				g = o
			}
		}
		if g == nil {
			g = &group{ring: ring{c.Radius, math.Inf(1), math.Inf(-1)}, hole: c.Hole, axis: axis, at: centre}
			groups = append(groups, g)
		}
		along := r3.Dot(g.axis, r3.Sub(centre, g.at))
		g.low, g.high = min(g.low, along-c.Length/2), max(g.high, along+c.Length/2)
		g.turn, g.area = g.turn+c.Turn, g.area+c.Area
	}
	var main *group
	for _, g := range groups {
		if g.turn >= leastTurn && (main == nil || g.area > main.area) {
			main = g
		}
	}
	if main == nil {
		return nil
	}
	b := &body{axis: main.axis, origin: main.at, low: math.Inf(1), high: math.Inf(-1)}
	for _, g := range groups {
		if g.turn < leastTurn {
			continue
		}
		if math.Abs(r3.Dot(g.axis, b.axis)) < 0.9995 ||
			r3.Norm(r3.Cross(b.axis, r3.Sub(g.at, b.origin))) > 0.05*g.radius {
			return nil // a fastener has one axis
		}
		shift := r3.Dot(b.axis, r3.Sub(g.at, b.origin))
		low, high := shift+g.low, shift+g.high
		if r3.Dot(g.axis, b.axis) < 0 {
			low, high = shift-g.high, shift-g.low
		}
		if r := (ring{g.radius, low, high}); g.hole {
			b.holes = append(b.holes, r)
		} else {
			b.outer = append(b.outer, r)
		}
	}
	b.measure(s)
	return b
}

func longest(rings []ring) (best ring) {
	for _, r := range rings {
		if r.length() > best.length() {
			best = r
		}
	}
	return best
}

// Runs reports whether a cylinder of radius r fits one of radius hole as a shank fits its hole: not much larger than
// it, as threads are drawn, and not lost in it.
func Runs(r, hole float64) bool { return r > 0 && hole > 0 && r <= 1.25*hole && hole <= 1.35*r }

// Placed guesses what a shape that no standard knows is from where it sits: its axis, the holes that it goes through,
// what it lies on, what stands opposite, how many are alike, and its name. It has its measured diameter and no lead. It
// returns nil when it seems to be no fastener.
func (a *Axial) Placed(name string, p Placement) *Guess {
	b := a.body
	shank, hole := longest(b.outer), longest(b.holes)
	headed := shank.radius > 0 && b.outerWidth > 2.5*shank.radius && b.outerWidth < 2*widest*shank.radius &&
		shank.length() > 0.5*b.length()
	ring := hole.radius > 0 && hole.length() > 0.9*b.length() && b.length() < 4*hole.radius &&
		b.outerWidth < 2*widest*hole.radius &&
		!headed
	kind := Kind("")
	switch {
	case headed && p.Through > 0:
		kind = Screw
	case ring && p.On:
		kind = Nut
	default:
		return nil
	}
	var why []string
	certain := 0.0
	say := func(ok bool, weight float64, text string, args ...any) {
		if ok {
			certain, why = certain+weight, append(why, fmt.Sprintf(text, args...))
		}
	}
	say(p.Through == 1, 0.2, "its shank runs in a hole of another part")
	say(p.Through > 1, 0.3, "its shank runs in holes of %d parts", p.Through)
	say(p.On, 0.25, "another part runs in its hole")
	say(p.Lies, 0.15, "it lies on another part")
	say(p.Opposite, 0.15, "something stands opposite")
	say(p.Alike > 1, 0.1, "there are %d of them", p.Alike)
	lower := strings.ToLower(name)
	for k, words := range hints {
		for _, w := range words {
			if strings.Contains(lower, w) {
				if k == Washer && kind == Nut {
					kind = Washer
				}
				say(k == kind, 0.3, "its name says so")
				say(k != kind, -0.25, "its name says %s", w)
				break
			}
		}
	}
	g := b.guess(kind, 1, certain, "%s", strings.Join(why, "; "))
	if kind == Screw {
		g.Diameter, g.Length = 2*shank.radius, shank.length()
		if shank.low-b.low > b.high-shank.high { // the head is at the other end
			g.Out = space.Vec3Of(r3.Scale(-1, b.axis))
		}
	} else {
		g.Diameter, g.Length = 2*hole.radius, b.length()
	}
	g.Size = fmt.Sprintf("Ø%.3g", math.Round(g.Diameter*10)/10)
	return confidence(g)
}
