package joint

import (
	"context"
	"fmt"
	"math"
	"slices"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/fastener"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// face is a flat face of a shape, in its frame, mm.
type face struct {
	centre, normal space.Vec
	corners        []space.Vec
}

const (
	playOf    = 0.35 // mm: how far a slide may be from its guide
	leastOf   = 0.05 // of a part's size: how long a face that guides is
	guidedFor = 0.2  // of the part's size: over how much of it a guide goes, at least
	blocking  = 0.3  // the cosine of what a way must not run against
)

// facesOf are the flat faces of a shape that could guide it: those that are long enough.
func facesOf(s *solid.Shape, f *solid.Features) (list []face) {
	least := leastOf * r3.Norm(s.Bounds.Size())
	corners := make([][]space.Vec, len(f.List))
	for t, of := range f.Of {
		if of < 0 || f.List[of].Kind != solid.Plane || f.List[of].Area < least*least {
			continue
		}
		for k := range 3 {
			corners[of] = append(corners[of], s.Point(s.Triangles[3*t+k]))
		}
	}
	for i, c := range corners {
		if c != nil {
			list = append(list, face{f.List[i].Centre.Vec(), f.List[i].Axis.Vec(), c})
		}
	}
	return list
}

// guide is a face of what stands still that keeps a part from going its way.
type guide struct {
	normal space.Vec // of the face that guides, in the world: towards the part
	middle space.Vec
	gap    float64
	reach  [2][2]float64 // of what both faces have in common, along solid.AxesOf the normal
}

// guides are the flat faces of one node that lie against faces of another.
func (f *finder) guides(part, base int) (list []guide) {
	at, on := &f.worlds[part], &f.worlds[base]
	for _, p := range f.faces[f.a.Nodes[part].Shape] {
		normal, centre := at.R.Apply(p.normal), at.Apply(p.centre)
		u, v := solid.AxesOf(normal)
		for _, q := range f.faces[f.a.Nodes[base].Shape] {
			gap := r3.Dot(r3.Sub(on.Apply(q.centre), centre), normal)
			if r3.Dot(on.R.Apply(q.normal), normal) > -parallel || gap < -0.05 || gap > playOf {
				continue
			}
			g := guide{normal: r3.Scale(-1, normal), gap: gap, middle: centre}
			for k, way := range []space.Vec{u, v} {
				a, b := reachOf(p.corners, at, way), reachOf(q.corners, on, way)
				g.reach[k] = [2]float64{max(a[0], b[0]), min(a[1], b[1])}
				middle := (g.reach[k][0]+g.reach[k][1])/2 - r3.Dot(centre, way)
				g.middle = r3.Add(g.middle, r3.Scale(middle, way))
			}
			if g.reach[0][1] > g.reach[0][0] && g.reach[1][1] > g.reach[1][0] {
				list = append(list, g)
			}
		}
	}
	return list
}

// reachOf is from where to where points go along a direction.
func reachOf(points []space.Vec, at *space.Rigid, way space.Vec) [2]float64 {
	r := [2]float64{math.Inf(1), math.Inf(-1)}
	for _, p := range points {
		d := r3.Dot(at.Apply(p), way)
		r[0], r[1] = min(r[0], d), max(r[1], d)
	}
	return r
}

// along is how long what two faces have in common is in a direction across their normal.
func (g *guide) along(way space.Vec) float64 {
	u, v := solid.AxesOf(r3.Scale(-1, g.normal))
	return math.Abs(
		r3.Dot(way, u),
	)*(g.reach[0][1]-g.reach[0][0]) + math.Abs(
		r3.Dot(way, v),
	)*(g.reach[1][1]-g.reach[1][0])
}

// lieBetween looks for slides among all parts that come near one another: with their play they do not touch their guides.
func (f *finder) lieBetween(ctx context.Context) {
	var parts []int
	for i := range f.a.Nodes {
		if f.a.Nodes[i].IsPart() && len(f.faces[f.a.Nodes[i].Shape]) > 1 && !f.fixes(i) {
			parts = append(parts, i)
		}
	}
	for k, i := range parts {
		if ctx.Err() != nil {
			return
		}
		for _, j := range parts[:k] {
			if nearby(f.boxes[i], f.boxes[j], playOf) {
				f.slide(j, i)
			}
		}
	}
}

// nearby reports whether two boxes are no farther from each other than that along any axis, mm.
func nearby(a, b space.Box, within float64) bool {
	return a.Min.X <= b.Max.X+within && b.Min.X <= a.Max.X+within &&
		a.Min.Y <= b.Max.Y+within && b.Min.Y <= a.Max.Y+within &&
		a.Min.Z <= b.Max.Z+within && b.Min.Z <= a.Max.Z+within
}

// slide proposes that one of two parts slides along the other: it lies between faces that leave it one way.
func (f *finder) slide(i, j int) {
	if f.screwed(i, j) {
		return
	}
	part, base := i, j
	guides := f.guides(part, base)
	if !liesBetween(guides) {
		part, base = j, i
		guides = f.guides(part, base)
	}
	if f.size(base) < f.size(part)/2 { // a carriage on its rail
		part, base = base, part
		guides = f.guides(part, base)
	}
	best := guided{}
	for _, way := range f.waysBetween(part, guides) {
		if g := guidedAlong(guides, way); g.sure > best.sure+1e-9 ||
			g.sure > best.sure-1e-9 && g.length > best.length+1e-6 {
			best = g
		}
	}
	// What is let into another one is held by less.
	if best.sure > 0 && best.length > guidedFor*f.size(part) {
		f.propose(assembly.Prismatic, part, base, line{best.middle, best.way}, best.sure, best.why)
	}
}

// liesBetween reports whether a part is what the faces are around, and not what is around others.
func liesBetween(guides []guide) bool {
	var middle space.Vec
	for i := range guides {
		middle = r3.Add(middle, r3.Scale(1/float64(len(guides)), guides[i].middle))
	}
	out := 0.0
	for i := range guides {
		out -= r3.Dot(r3.Sub(guides[i].middle, middle), guides[i].normal)
	}
	return out > 0
}

// screwed reports whether a fastener holds two parts together.
func (f *finder) screwed(i, j int) bool {
	touches := map[int]map[int]bool{} // fasteners: which of the two
	for _, c := range f.known.Contacts {
		a, b := f.index[c.A], f.index[c.B]
		for _, p := range [][2]int{{a, b}, {b, a}} {
			if fixing, other := p[0], p[1]; f.fixes(fixing) && (other == i || other == j) {
				if touches[fixing] == nil {
					touches[fixing] = map[int]bool{}
				}
				touches[fixing][other] = true
			}
		}
	}
	for _, both := range touches {
		if len(both) == 2 {
			return true
		}
	}
	return false
}

// waysBetween are the directions that a part could slide in between faces: across two of them, or along the part's own axes
// where all face one way.
func (f *finder) waysBetween(part int, guides []guide) (list []space.Vec) {
	add := func(v space.Vec) {
		if n := r3.Norm(v); n > 0.1 {
			v = r3.Scale(1/n, v)
			if !slices.ContainsFunc(list, func(o space.Vec) bool { return math.Abs(r3.Dot(o, v)) > parallel }) &&
				len(list) < 8 {
				list = append(list, v)
			}
		}
	}
	for i := range guides {
		for k := i + 1; k < len(guides); k++ {
			add(r3.Cross(guides[i].normal, guides[k].normal))
		}
	}
	for k := range 3 {
		way := f.worlds[part].R.Apply([3]space.Vec{{X: 1}, {Y: 1}, {Z: 1}}[k])
		for i := range guides {
			if math.Abs(r3.Dot(way, guides[i].normal)) < 0.02 {
				add(way)
			}
		}
	}
	return list
}

// guided is how well faces hold a part to a direction.
type guided struct {
	way, middle space.Vec
	length      float64
	sure        float64
	why         string
}

// guidedAlong says how sure it is that what lies between faces slides along a direction, 0 where it does not.
func guidedAlong(guides []guide, way space.Vec) (g guided) {
	var sides []space.Vec
	both, stopped := 0, map[bool]bool{}
	n := 0.0
	for i := range guides {
		s := &guides[i]
		if d := r3.Dot(s.normal, way); math.Abs(d) > blocking {
			stopped[d > 0] = true
			continue
		}
		g.middle, n = r3.Add(g.middle, s.middle), n+1
		g.length = max(g.length, s.along(way))
		if slices.ContainsFunc(sides, func(o space.Vec) bool { return r3.Dot(o, s.normal) > parallel }) {
			continue
		}
		if slices.ContainsFunc(sides, func(o space.Vec) bool { return r3.Dot(o, s.normal) < -parallel }) {
			both++
		}
		sides = append(sides, s.normal)
	}
	if len(stopped) == 2 || both == 0 || n == 0 {
		return g
	}
	g.way, g.middle = way, r3.Scale(1/n, g.middle)
	switch {
	case both >= 2:
		g.sure = 0.75
	case len(sides) > 2:
		g.sure = 0.6
	default: // two faces leave two ways: the long one
		g.sure = 0.4
	}
	g.why = fmt.Sprintf("it lies between %d faces that leave it one way, over %.3g mm", len(sides), g.length)
	if len(stopped) == 1 {
		g.sure -= 0.2
		g.why += ", up to a stop"
	}
	return g
}

// onRods proposes that what two parallel rods go through slides along them. Pins that end in it are no rods.
func (f *finder) onRods() {
	slid := map[int]bool{}
	for i, a := range f.rods {
		for _, b := range f.rods[:i] {
			if slid[a.node] || a.node != b.node || math.Abs(r3.Dot(a.axis, b.axis)) < parallel ||
				a.near(b.line, 2*max(a.radius, b.radius)) {
				continue
			}
			slid[a.node] = true
			why := fmt.Sprintf("two rods of Ø %.4g mm go through it", 2*a.radius)
			f.propose(assembly.Prismatic, a.node, a.rod, a.line, 0.7, why)
		}
	}
}

// rod is a shaft that goes through a part and stands out of it on both sides.
type rod struct {
	bore
	node, rod int
}

// goesThrough takes note of a shaft that stands out of the part which it goes through, on both sides.
func (f *finder) goesThrough(shaft, around int, b bore) {
	if f.is(shaft, fastener.Bearing) || f.is(around, fastener.Bearing) {
		return
	}
	own := f.boxes[shaft]
	low, high := math.Inf(1), math.Inf(-1)
	for i := range 8 {
		d := r3.Dot(r3.Sub(own.Corner(i), b.centre), b.axis)
		low, high = min(low, d), max(high, d)
	}
	if out := b.length; b.length > 3*b.radius && low < -out && high > out {
		f.rods = append(f.rods, rod{b, around, shaft})
	}
}
