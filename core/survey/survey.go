package survey

import (
	"cmp"
	"context"
	"fmt"
	"slices"

	"github.com/sourcegraph/conc/iter"

	"slowreveal/core/assembly"
	"slowreveal/core/contact"
	"slowreveal/core/fastener"
	"slowreveal/core/joint"
	"slowreveal/core/solid"
)

// Survey is what is known of an assembly at rest.
type Survey struct {
	// Shapes are the facts on each shape, as in Assembly.Shapes.
	Shapes []Facts `json:"shapes"`
	// Ready are part sets that offer themselves.
	Ready    []Set             `json:"ready"`
	Contacts []contact.Contact `json:"contacts"`
	// Mechanism are joints and couplings that offer themselves.
	Mechanism joint.Found `json:"mechanism"`
	// Tolerance is the gap up to which parts count as touching, mm.
	Tolerance float64 `json:"tolerance"`
}

// Facts are what is known of one shape.
type Facts struct {
	solid.Mass
	// Like is the index of the first shape that is the same or mirrored: its
	// own where it is the first.
	Like     int             `json:"like"`
	Mirrored bool            `json:"mirrored,omitempty"`
	Fastener *fastener.Guess `json:"fastener,omitempty"`
}

// Set is a group of parts under a name.
type Set struct {
	Name  string            `json:"name"`
	Nodes []assembly.NodeID `json:"nodes"`
	// Confidence is that of the least sure guess in it, 0…1.
	Confidence float64 `json:"confidence"`
}

// Of surveys an assembly.
func Of(ctx context.Context, a *assembly.Assembly, shapes []*solid.Shape) (*Survey, error) {
	s := &Survey{Shapes: Shapes(a, shapes), Tolerance: contact.Tolerance}
	var err error
	s.Contacts, err = contact.Find(ctx, a, shapes, contact.Tolerance)
	place(a, shapes, s.Shapes, s.Contacts)
	s.Ready = ready(a, s.Shapes)
	known := joint.Known{Contacts: s.Contacts}
	for i := range s.Shapes {
		known.Fasteners = append(known.Fasteners, s.Shapes[i].Fastener)
	}
	s.Mechanism = joint.Find(ctx, a, shapes, known)
	return s, err
}

// Shapes returns the facts on each shape.
func Shapes(a *assembly.Assembly, shapes []*solid.Shape) []Facts {
	facts := make([]Facts, len(shapes))
	names := make([]string, len(shapes))
	for i := range a.Nodes {
		if n := &a.Nodes[i]; n.IsPart() && names[n.Shape] == "" {
			names[n.Shape] = n.Name
		}
	}
	iter.ForEachIdx(facts, func(i int, fact *Facts) {
		fact.Mass = shapes[i].Mass()
		f := shapes[i].Features()
		fact.Fastener = fastener.Recognise(shapes[i], &f, names[i])
	})
	like, mirrored := solid.Families(shapes)
	for i := range facts {
		facts[i].Like, facts[i].Mirrored = like[i], mirrored[i]
	}
	return facts
}

var plural = map[fastener.Kind]string{
	fastener.Screw:   "Screws",
	fastener.Nut:     "Nuts",
	fastener.Washer:  "Washers",
	fastener.Pin:     "Pins",
	fastener.Bearing: "Bearings",
}

// ready returns the fasteners by kind, size and length: the sets that a hand
// would pick first.
func ready(a *assembly.Assembly, facts []Facts) []Set {
	byName := map[string]*Set{}
	for i := range a.Nodes {
		n := &a.Nodes[i]
		if !n.IsPart() || facts[n.Shape].Fastener == nil {
			continue
		}
		g := facts[n.Shape].Fastener
		name := plural[g.Kind]
		if g.Size != "" {
			name += " " + g.Size
		}
		if g.Size == "" && g.Kind == fastener.Pin {
			name += fmt.Sprintf(" Ø%.3g", g.Diameter)
		}
		if g.Kind == fastener.Screw || g.Kind == fastener.Pin {
			name += fmt.Sprintf(" × %.4g", g.Length)
		}
		s := byName[name]
		if s == nil {
			s = &Set{Name: name, Confidence: 1}
			byName[name] = s
		}
		s.Nodes = append(s.Nodes, n.ID)
		s.Confidence = min(s.Confidence, g.Confidence)
	}
	sets := make([]Set, 0, len(byName))
	for _, s := range byName {
		sets = append(sets, *s)
	}
	slices.SortFunc(sets, func(x, y Set) int { return cmp.Compare(x.Name, y.Name) })
	return sets
}
