package editor

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/compose"
	"slowreveal/core/reveal"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// OfBody asks what axes features give a joint of a body.
type OfBody struct {
	Body     assembly.NodeID  `json:"body"`
	Features []compose.Placed `json:"features"`
}

// AxisOffer is an axis for a joint, in its body's own frame as everything stands at rest.
type AxisOffer struct {
	Axis  space.Vec3 `json:"axis"`
	Point space.Vec3 `json:"point"`
	Text  string     `json:"text"`
	// Direction says that any point will do.
	Direction bool `json:"direction,omitempty"`
}

// mostOffers bounds how many axes of features are offered.
const mostOffers = 14

// axes offers the axes of features, the largest first, each line once, and the body's own.
func (d *Editor) axes(q OfBody) ([]AxisOffer, error) {
	i, ok := d.index[q.Body]
	if !ok {
		return nil, fmt.Errorf("there is no node %q", q.Body)
	}
	rest := d.rest()
	back := rest.World[i].Inverse()
	features := slices.Clone(q.Features)
	size := func(f *solid.Feature) float64 {
		if f.Kind == solid.Cylinder {
			return f.Radius * f.Length * 10 // before edges
		}
		return f.Length
	}
	slices.SortStableFunc(features, func(a, b compose.Placed) int {
		return cmp.Compare(size(&b.Feature), size(&a.Feature))
	})
	var list []AxisOffer
	for _, p := range features {
		at, known := d.index[p.Node]
		if !known || len(list) == mostOffers {
			continue
		}
		f := &p.Feature
		o := AxisOffer{
			Axis:  space.Vec3Of(back.R.Apply(rest.World[at].R.Apply(f.Axis.Vec()))).Rounded(1e9),
			Point: space.Vec3Of(back.Apply(rest.World[at].Apply(f.Centre.Vec()))),
			Text:  fmt.Sprintf("%s of %s", featureWords(f), d.assembly.Nodes[at].Name),
		}
		if !slices.ContainsFunc(list, o.same) {
			list = append(list, o)
		}
	}
	middle := space.Vec3Of(d.boxes[i].Centre())
	for k, name := range []string{"X", "Y", "Z"} {
		o := AxisOffer{Point: middle, Text: "its own " + name, Direction: true}
		o.Axis[k] = 1
		list = append(list, o)
	}
	return list, nil
}

func featureWords(f *solid.Feature) string {
	switch {
	case f.Kind == solid.Plane:
		return "plane"
	case f.Kind == solid.Line:
		return fmt.Sprintf("edge, %s mm,", reveal.Number(f.Length))
	case f.Hole:
		return fmt.Sprintf("hole Ø %s", reveal.Number(2*f.Radius))
	}
	return fmt.Sprintf("round Ø %s", reveal.Number(2*f.Radius))
}

// same reports whether two axes are one line.
func (o AxisOffer) same(p AxisOffer) bool {
	a, b := o.Axis.Vec(), p.Axis.Vec()
	d := r3.Sub(p.Point.Vec(), o.Point.Vec())
	off := r3.Norm(r3.Sub(d, r3.Scale(r3.Dot(d, a), a)))
	return math.Abs(r3.Dot(a, b)) > 0.9999 && off < 0.01
}
