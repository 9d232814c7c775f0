package joint

import (
	"fmt"
	"math"
	"slices"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/solid"
)

// bend is where a belt lies on a pulley, in the world: its inner face's axis and radius, and how much of the round it goes.
type bend struct {
	line
	radius, turn, width float64
}

const (
	leastBend = 0.12 // of the round
	mostBend  = 0.9
)

// bends are the round inner faces of a part that could be a belt: parts of cylinders about parallel axes.
func (f *finder) bends(node int) (list []bend) {
	at := &f.worlds[node]
	for _, h := range f.features[f.a.Nodes[node].Shape].List {
		if h.Kind != solid.Cylinder || !h.Hole || h.Turn < leastBend || h.Turn > mostBend {
			continue
		}
		b := bend{line{at.Apply(h.Centre.Vec()), at.R.Apply(h.Axis.Vec())}, h.Radius, h.Turn, h.Length}
		if !slices.ContainsFunc(list, func(o bend) bool { return o.near(b.line, coaxial) }) {
			list = append(list, b)
		}
	}
	return list
}

// wholeRound reports whether bends make a belt's way: about parallel axes, a whole round all together, as an open belt has
// between its pulleys.
func wholeRound(list []bend) bool {
	sum := 0.0
	for _, b := range list {
		if math.Abs(r3.Dot(b.axis, list[0].axis)) < parallel {
			return false
		}
		sum += b.turn
	}
	return len(list) >= 2 && math.Abs(sum-1) < 0.08
}

// runBelts couples pulleys that a belt lies around.
func (f *finder) runBelts() {
	for i := range f.a.Nodes {
		if !f.a.Nodes[i].IsPart() || f.fastenerOf(i) != nil {
			continue
		}
		list := f.bends(i)
		if !wholeRound(list) {
			continue
		}
		var pulleys []int
		var on []bend
		for _, b := range list {
			if p := f.pulleyIn(&b, i); p >= 0 {
				pulleys, on = append(pulleys, p), append(on, b)
			}
		}
		for k := 1; k < len(pulleys); k++ {
			f.runBelt(i, [2]int{pulleys[0], pulleys[k]}, [2]bend{on[0], on[k]})
		}
	}
}

// pulleyIn is the part that a belt lies on in a bend: round about the bend's axis, and as large as that; −1 without one.
func (f *finder) pulleyIn(b *bend, belt int) int {
	best, closest := -1, 0.1*b.radius
	for i := range f.a.Nodes {
		n := &f.a.Nodes[i]
		if !n.IsPart() || i == belt {
			continue
		}
		for _, c := range f.features[n.Shape].List {
			at := line{f.worlds[i].Apply(c.Centre.Vec()), f.worlds[i].R.Apply(c.Axis.Vec())}
			beside := math.Abs(r3.Dot(r3.Sub(at.centre, b.centre), b.axis)) > (c.Length+b.width)/2
			if c.Kind != solid.Cylinder || c.Hole || c.Turn < 0.6 || beside || !b.near(at, coaxial) {
				continue
			}
			if off := math.Abs(c.Radius - b.radius); off < closest {
				best, closest = i, off
			}
		}
	}
	return best
}

func (f *finder) runBelt(belt int, pulleys [2]int, on [2]bend) {
	var joints [2]assembly.JointID
	for k, p := range pulleys {
		if j := f.about(p, assembly.Revolute, on[k].line, coaxial); j != nil {
			joints[k] = j.ID
			continue
		}
		why := fmt.Sprintf("%s lies around it", f.a.Nodes[belt].Name)
		f.propose(assembly.Revolute, p, 0, on[k].line, 0.5, why)
		joints[k] = f.found.Joints[len(f.found.Joints)-1].ID
	}
	d := [2]float64{2 * on[0].radius, 2 * on[1].radius}
	// What drives is the small one, most often.
	if d[0] < d[1] {
		joints[0], joints[1], d[0], d[1] = joints[1], joints[0], d[1], d[0]
	}
	f.found.Couplings = append(f.found.Couplings, FoundCoupling{
		Coupling: assembly.Coupling{
			ID: idOf(joints[0], joints[1]), Name: f.a.Nodes[belt].Name,
			Kind: assembly.Belt, Joint: joints[0], By: joints[1], Sizes: d,
		},
		Confidence: 0.7,
		Why:        fmt.Sprintf("%s lies around Ø %.4g and Ø %.4g mm", f.a.Nodes[belt].Name, d[0], d[1]),
	})
}
