package joint

import (
	"cmp"
	"context"
	"fmt"
	"hash/fnv"
	"maps"
	"math"
	"slices"

	"github.com/sourcegraph/conc/iter"
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/contact"
	"slowreveal/core/fastener"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// Found is what an assembly's shapes say of how it runs.
type Found struct {
	Joints    []FoundJoint    `json:"joints"`
	Couplings []FoundCoupling `json:"couplings"`
}

// FoundJoint is a joint that offers itself.
type FoundJoint struct {
	assembly.Joint
	Confidence float64 `json:"confidence"` // 0…1
	Why        string  `json:"why"`
}

// FoundCoupling is a coupling between joints that offer themselves.
type FoundCoupling struct {
	assembly.Coupling
	Confidence float64 `json:"confidence"`
	Why        string  `json:"why"`
}

// Known is what a finder is told of the parts: their contacts, and what fastener each shape seems to be.
type Known struct {
	Contacts  []contact.Contact
	Fasteners []*fastener.Guess // by shape
}

// finder looks for joints.
type finder struct {
	a        *assembly.Assembly
	known    Known
	index    map[assembly.NodeID]int
	worlds   []space.Rigid
	features []solid.Features // by shape
	boxes    []space.Box
	wheels   [][]Wheel    // by shape, as are
	threads  [][]Thread   // these,
	racks    [][]Straight // these,
	faces    [][]face     // and these
	rods     []rod
	found    Found
	pins     []int            // nodes that something turns on
	through  map[int][]boreOf // pins: what they go through
}

// Find looks for the joints and couplings of an assembly at rest.
func Find(ctx context.Context, a *assembly.Assembly, shapes []*solid.Shape, known Known) Found {
	f := &finder{
		a: a, known: known, index: a.Index(), worlds: a.Worlds(),
		boxes: a.BoundsOf(), features: make([]solid.Features, len(shapes)), wheels: make([][]Wheel, len(shapes)),
		threads: make([][]Thread, len(shapes)), racks: make([][]Straight, len(shapes)),
		faces: make([][]face, len(shapes)),
		found: Found{Joints: []FoundJoint{}, Couplings: []FoundCoupling{}}, through: map[int][]boreOf{},
	}
	iter.ForEachIdx(shapes, func(i int, s **solid.Shape) {
		if ctx.Err() != nil {
			return
		}
		f.features[i] = (*s).Features()
		if g := known.Fasteners[i]; g == nil {
			f.wheels[i] = Wheels(*s, &f.features[i])
			f.threads[i] = Threads(*s, &f.features[i])
			f.racks[i] = Racks(*s, &f.features[i])
			f.faces[i] = facesOf(*s, &f.features[i])
		}
	})
	for i := range known.Contacts {
		one, other := f.index[known.Contacts[i].A], f.index[known.Contacts[i].B]
		f.between(one, other)
	}
	f.lieBetween(ctx)
	f.onRods()
	f.linkByPins()
	f.keepBest()
	f.holdPins()
	f.mesh()
	f.runBelts()
	f.runOnThreads()
	f.followCams(ctx, shapes)
	return f.found
}

// about is the joint of a kind that was found for a body, along an axis of the world and so near to it; nil without one.
func (f *finder) about(body int, kind assembly.JointKind, l line, within float64) *FoundJoint {
	for i := range f.found.Joints {
		j := &f.found.Joints[i]
		if f.index[j.Body] == body && j.Kind == kind && f.lineOf(j).near(l, within) {
			return j
		}
	}
	return nil
}

// lineOf is a joint's axis in the world.
func (f *finder) lineOf(j *FoundJoint) line { return lineOf(&j.Joint, &f.worlds[f.index[j.Body]]) }

// lineOf is the axis of a joint whose body stands at a place of the world.
func lineOf(j *assembly.Joint, at *space.Rigid) line {
	return line{at.Apply(j.Point.Vec()), r3.Unit(at.R.Apply(j.Axis.Vec()))}
}

// fastenerOf is what fastener a node seems to be, nil for another part.
func (f *finder) fastenerOf(node int) *fastener.Guess {
	return f.known.Fasteners[f.a.Nodes[node].Shape]
}

// boreOf is a part with a bore that a pin goes through.
type boreOf struct {
	node int
	bore
}

// bore is a shaft that sits in a bore, in the world.
type bore struct {
	line
	radius, length float64 // of what both have in common, mm
	gap            float64
}

const (
	coaxial  = 0.1  // mm: how far two axes may be from each other
	snug     = 0.3  // mm: how much smaller than its bore a shaft may be
	mostTurn = 0.6  // how much of the round a bore has to go
	shortest = 0.25 // of the radius: the length in common
)

// between looks for a shaft in a bore between two parts that touch.
func (f *finder) between(i, j int) {
	if f.fixes(i) || f.fixes(j) {
		return
	}
	if b, ok := f.inBore(i, j); ok {
		f.turns(i, j, b)
		f.goesThrough(i, j, b)
	} else if b, ok := f.inBore(j, i); ok {
		f.turns(j, i, b)
		f.goesThrough(j, i, b)
	}
}

// fixes reports whether a node is a fastener that holds others.
func (f *finder) fixes(node int) bool {
	g := f.fastenerOf(node)
	return g != nil && (g.Kind == fastener.Screw || g.Kind == fastener.Nut || g.Kind == fastener.Washer)
}

// inBore looks for the longest piece of a shaft of one node in a bore of another.
func (f *finder) inBore(shaft, around int) (best bore, ok bool) {
	for _, s := range f.features[f.a.Nodes[shaft].Shape].List {
		if s.Kind != solid.Cylinder || s.Hole || s.Turn < mostTurn {
			continue
		}
		axis, centre := f.worlds[shaft].R.Apply(s.Axis.Vec()), f.worlds[shaft].Apply(s.Centre.Vec())
		for _, h := range f.features[f.a.Nodes[around].Shape].List {
			gap := h.Radius - s.Radius
			if h.Kind != solid.Cylinder || !h.Hole || h.Turn < mostTurn || gap > snug || gap < -0.05-0.01*s.Radius {
				continue
			}
			other, middle := f.worlds[around].R.Apply(h.Axis.Vec()), f.worlds[around].Apply(h.Centre.Vec())
			if math.Abs(r3.Dot(axis, other)) < 0.9998 {
				continue
			}
			d := r3.Sub(middle, centre)
			along := r3.Dot(d, axis)
			if r3.Norm(r3.Sub(d, r3.Scale(along, axis))) > coaxial {
				continue
			}
			low, high := max(-s.Length/2, along-h.Length/2), min(s.Length/2, along+h.Length/2)
			if long := high - low; long > shortest*s.Radius && long > best.length {
				at := r3.Add(centre, r3.Scale((low+high)/2, axis))
				best = bore{line: line{at, axis}, radius: s.Radius, length: long, gap: gap}
			}
		}
	}
	return best, best.length > 0
}

// turns proposes that one of two turns in, or on, the other.
func (f *finder) turns(shaft, around int, b bore) {
	pin, bearing := f.is(shaft, fastener.Pin), f.is(around, fastener.Bearing)
	if f.is(shaft, fastener.Bearing) {
		return // pressed into its seat
	}
	wheel, teeth := f.roundAbout(around, b.line)
	own, toothed := f.roundAbout(shaft, b.line)
	body, base, sure := shaft, around, 0.45
	why := fmt.Sprintf("a shaft of Ø %.4g mm sits in a bore over %.3g mm", 2*b.radius, b.length)
	switch {
	case bearing:
		sure, why = 0.85, fmt.Sprintf("a shaft of Ø %.4g mm sits in a bearing", 2*b.radius)
	case teeth && toothed:
		return
	case wheel && (pin || !own):
		body, base, sure = around, shaft, 0.7
		why = fmt.Sprintf("a wheel sits on a pin of Ø %.4g mm over %.3g mm", 2*b.radius, b.length)
	case pin: // pressed in one of the parts that it goes through, most often
		f.through[shaft] = append(f.through[shaft], boreOf{around, b})
		return
	case wheel:
		body, base, sure = around, shaft, 0.5
	}
	if teeth || toothed {
		sure = min(sure+0.15, 0.9)
	}
	if base == shaft {
		f.pins = append(f.pins, shaft)
	}
	f.propose(assembly.Revolute, body, base, b.line, sure, why)
}

func (f *finder) is(node int, kind fastener.Kind) bool {
	g := f.fastenerOf(node)
	return g != nil && g.Kind == kind
}

// roundAbout reports whether a part is a wheel about an axis of the world, and whether it has teeth there.
func (f *finder) roundAbout(node int, l line) (round, teeth bool) {
	shape := f.a.Nodes[node].Shape
	back := f.worlds[node].Inverse()
	own := line{back.Apply(l.centre), back.R.Apply(l.axis)}
	for _, w := range f.wheels[shape] {
		if (line{w.Centre, w.Axis}).same(own) {
			return true, true
		}
	}
	box := f.a.Shapes[shape].Bounds()
	widest := 0.0 // from the axis to a corner of its box
	for i := range 8 {
		d := r3.Sub(box.Corner(i), own.centre)
		widest = max(widest, r3.Norm(r3.Sub(d, r3.Scale(r3.Dot(d, own.axis), own.axis))))
	}
	for _, c := range f.features[shape].List {
		// A round surface about the axis that is as wide as the part.
		if c.Kind == solid.Cylinder && !c.Hole && c.Turn > 0.9 && c.Radius*math.Sqrt2 > 0.97*widest &&
			(line{c.Centre.Vec(), c.Axis.Vec()}).same(own) {
			return true, false
		}
	}
	return false, false
}

// propose adds a joint about an axis of the world.
func (f *finder) propose(kind assembly.JointKind, body, base int, l line, sure float64, why string) {
	a, b := &f.a.Nodes[body], &f.a.Nodes[base]
	back := f.worlds[body].Inverse()
	j := assembly.Joint{
		ID: idOf(a.ID, b.ID), Name: a.Name, Kind: kind, Body: a.ID, Base: b.ID,
		Axis:  space.Vec3Of(back.R.Apply(l.axis)).Rounded(1e7),
		Point: space.Vec3Of(back.Apply(l.centre)).Rounded(1e7),
	}
	f.found.Joints = append(f.found.Joints, FoundJoint{Joint: j, Confidence: sure, Why: why})
}

// idOf names what is found between two nodes: the same whenever it is found again.
func idOf[T ~string](a, b T) assembly.JointID {
	h := fnv.New32a()
	fmt.Fprintf(h, "%s\n%s", a, b)
	return assembly.JointID(fmt.Sprintf("found-%08x", h.Sum32()))
}

// linkByPins joins links that a pin goes through: they turn on what the pin is fixed in without a bore, or else on the
// largest of them.
func (f *finder) linkByPins() {
	for _, pin := range slices.Sorted(maps.Keys(f.through)) {
		list := f.through[pin]
		base := -1
		for _, c := range f.known.Contacts {
			other := f.index[c.B]
			if f.index[c.A] != pin {
				if other != pin {
					continue
				}
				other = f.index[c.A]
			}
			if !f.fixes(other) && !slices.ContainsFunc(list, func(b boreOf) bool { return b.node == other }) &&
				base < 0 {
				base = other
			}
		}
		if base < 0 {
			if len(list) < 2 {
				continue
			}
			base = slices.MaxFunc(
				list,
				func(a, b boreOf) int { return cmp.Compare(f.size(a.node), f.size(b.node)) },
			).node
		}
		for _, b := range list {
			if b.node != base {
				body, on := b.node, base
				if f.size(body) > f.size(on) {
					body, on = on, body // the smaller one moves, most often
				}
				why := fmt.Sprintf("%s, Ø %.4g mm, goes through both", f.a.Nodes[pin].Name, 2*b.radius)
				f.propose(assembly.Revolute, body, on, b.line, 0.55, why)
			}
		}
	}
}

// size is how large a part is, mm.
func (f *finder) size(node int) float64 {
	return r3.Norm(f.a.Shapes[f.a.Nodes[node].Shape].Bounds().Size())
}

// keepBest leaves each body one joint about each axis: the surest.
func (f *finder) keepBest() {
	slices.SortStableFunc(f.found.Joints, func(a, b FoundJoint) int { return cmp.Compare(b.Confidence, a.Confidence) })
	var kept []FoundJoint
	for _, j := range f.found.Joints {
		axis := line{j.Point.Vec(), r3.Unit(j.Axis.Vec())}
		if !slices.ContainsFunc(kept, func(o FoundJoint) bool {
			return o.Body == j.Body && axis.same(line{o.Point.Vec(), r3.Unit(o.Axis.Vec())})
		}) {
			kept = append(kept, j)
		}
	}
	slices.SortStableFunc(kept, func(a, b FoundJoint) int { return cmp.Compare(f.index[a.Body], f.index[b.Body]) })
	f.found.Joints = append([]FoundJoint{}, kept...)
}

// holdPins fixes pins that wheels turn on in what turns itself: planets go round with their carrier.
func (f *finder) holdPins() {
	turning := map[int]bool{}
	for _, j := range f.found.Joints {
		turning[f.index[j.Body]] = true
	}
	slices.Sort(f.pins)
	for _, pin := range slices.Compact(f.pins) {
		if turning[pin] {
			continue
		}
		best, area := -1, -1.0
		for _, c := range f.known.Contacts {
			other := f.index[c.A]
			if other == pin {
				other = f.index[c.B]
			} else if f.index[c.B] != pin {
				continue
			}
			if turning[other] && !f.turnsOn(other, pin) && !f.coaxial(other, pin) && c.Area > area {
				best, area = other, c.Area
			}
		}
		if best >= 0 {
			why := fmt.Sprintf("a wheel turns on it, and it sits in %s", f.a.Nodes[best].Name)
			f.propose(assembly.Fixed, pin, best, line{f.worlds[pin].T, space.Vec{Z: 1}}, 0.6, why)
		}
	}
}

// coaxial reports whether what turns on a pin turns about the same axis as another body: then it tells nothing of whether
// the pin goes round with that.
func (f *finder) coaxial(body, pin int) bool {
	for i := range f.found.Joints {
		own := &f.found.Joints[i]
		if f.index[own.Body] != body || own.Kind == assembly.Fixed {
			continue
		}
		for k := range f.found.Joints {
			if on := &f.found.Joints[k]; f.index[on.Base] == pin && f.lineOf(on).same(f.lineOf(own)) {
				return true
			}
		}
	}
	return false
}

func (f *finder) turnsOn(body, base int) bool {
	return slices.ContainsFunc(f.found.Joints, func(j FoundJoint) bool {
		return f.index[j.Body] == body && f.index[j.Base] == base
	})
}
