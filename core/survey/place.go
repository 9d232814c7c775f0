package survey

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/contact"
	"slowreveal/core/fastener"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

const (
	// onAxis is how far off, mm, and alongAxis how much (the cosine of the angle) an axis may be to be the same.
	onAxis, alongAxis = 0.3, 0.9995
	// mostPlaces is at how many parts of a shape it is looked.
	mostPlaces = 8
)

// places tells fasteners that no standard knows by where they sit.
type places struct {
	a        *assembly.Assembly
	shapes   []*solid.Shape
	facts    []Facts
	worlds   []space.Rigid
	features []*solid.Features // by shape, as they are asked for
	touching map[int][]touch
}

// touch is a part that another one touches, and the direction across where.
type touch struct {
	node   int
	normal space.Vec
	area   float64
}

// place adds guesses from where parts sit to the facts on shapes that have none yet.
func place(a *assembly.Assembly, shapes []*solid.Shape, facts []Facts, contacts []contact.Contact) {
	p := &places{
		a:        a,
		shapes:   shapes,
		facts:    facts,
		worlds:   a.Worlds(),
		features: make([]*solid.Features, len(shapes)),
		touching: map[int][]touch{},
	}
	index := a.Index()
	for i := range contacts {
		c := &contacts[i]
		x, y := index[c.A], index[c.B]
		p.touching[x] = append(p.touching[x], touch{y, c.Normal.Vec(), c.Area})
		p.touching[y] = append(p.touching[y], touch{x, r3.Scale(-1, c.Normal.Vec()), c.Area})
	}
	parts := make([][]int, len(shapes))
	for i := range a.Nodes {
		if n := &a.Nodes[i]; n.IsPart() {
			parts[n.Shape] = append(parts[n.Shape], i)
		}
	}
	found := make([]*fastener.Guess, len(shapes))
	for k := range shapes {
		if facts[k].Fastener != nil || len(parts[k]) == 0 {
			continue
		}
		axial := fastener.Along(shapes[k], p.of(k))
		if axial == nil {
			continue
		}
		for i, part := range parts[k] {
			if i == mostPlaces {
				break
			}
			g := axial.Placed(a.Nodes[part].Name, p.around(part, axial, len(parts[k])))
			if g != nil && (found[k] == nil || g.Confidence > found[k].Confidence) {
				found[k] = g
			}
		}
	}
	for k, g := range found {
		if g != nil {
			facts[k].Fastener = g
		}
	}
}

func (p *places) of(shape int) *solid.Features {
	if p.features[shape] == nil {
		f := p.shapes[shape].Features()
		p.features[shape] = &f
	}
	return p.features[shape]
}

// around is what stands around a part that is seen along an axis of its own.
func (p *places) around(part int, axial *fastener.Axial, alike int) fastener.Placement {
	out := fastener.Placement{Alike: alike}
	world := &p.worlds[part]
	origin, axis := world.Apply(axial.Origin), world.R.Apply(axial.Axis)
	shape := p.a.Nodes[part].Shape
	through := []int{}
	for _, t := range p.touching[part] {
		out.Lies = out.Lies || t.area > 0.5 && math.Abs(r3.Dot(t.normal, axis)) > 0.9
		runs := false
		for _, f := range p.of(p.a.Nodes[t.node].Shape).List {
			if f.Kind != solid.Cylinder || !coaxial(f.Moved(&p.worlds[t.node]), origin, axis) {
				continue
			}
			runs = runs || f.Hole && fastener.Runs(axial.Shank, f.Radius)
			out.On = out.On || !f.Hole && fastener.Runs(f.Radius, axial.Hole)
		}
		if runs {
			through = append(through, t.node)
		}
	}
	out.Through = len(through)
	// What lies on those that it goes through, or on what it lies on itself, with its own axis on this one.
	for _, by := range append(through, p.liesOn(part, axis)...) {
		for _, t := range p.touching[by] {
			if t.node == part || p.a.Nodes[t.node].Shape == shape {
				continue
			}
			for _, f := range p.of(p.a.Nodes[t.node].Shape).List {
				small := p.shapes[p.a.Nodes[t.node].Shape].Bounds.Size()
				if f.Kind == solid.Cylinder && max(small.X, small.Y, small.Z) < 200 &&
					coaxial(f.Moved(&p.worlds[t.node]), origin, axis) {
					out.Opposite = true
				}
			}
		}
	}
	return out
}

func (p *places) liesOn(part int, axis space.Vec) (list []int) {
	for _, t := range p.touching[part] {
		if t.area > 0.5 && math.Abs(r3.Dot(t.normal, axis)) > 0.9 {
			list = append(list, t.node)
		}
	}
	return list
}

func coaxial(f solid.Feature, origin, axis space.Vec) bool {
	return math.Abs(r3.Dot(f.Axis.Vec(), axis)) > alongAxis &&
		r3.Norm(r3.Cross(axis, r3.Sub(f.Centre.Vec(), origin))) < onAxis
}
