package joint

import (
	"fmt"
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/space"
)

// placed is a ring of teeth where it stands.
type placed struct {
	*Wheel
	node         int
	centre, axis space.Vec
}

const (
	likeModules = 0.1 // by how much the modules of wheels in mesh may differ, as a share: tips are often cut
	offCentre   = 0.4 // modules: how far their distance may be from the sum of their pitch radii
)

// mesh finds gears that mesh, and couples them.
func (f *finder) mesh() {
	var wheels []placed
	for i := range f.a.Nodes {
		n := &f.a.Nodes[i]
		if !n.IsPart() {
			continue
		}
		for k := range f.wheels[n.Shape] {
			w := &f.wheels[n.Shape][k]
			wheels = append(wheels, placed{w, i, f.worlds[i].Apply(w.Centre), f.worlds[i].R.Apply(w.Axis)})
		}
	}
	for i := range wheels {
		for k := i + 1; k < len(wheels); k++ {
			if wheels[i].node != wheels[k].node {
				f.inMesh(&wheels[i], &wheels[k])
			}
		}
	}
	f.meshRacks(wheels)
}

// inMesh couples two wheels whose teeth mesh: parallel axes, one module, as far apart as their teeth say, and side by side.
func (f *finder) inMesh(a, b *placed) {
	if a.Inner {
		a, b = b, a // the one with inner teeth is the second
	}
	ma, mb := a.Module(), b.Module()
	if a.Inner || math.Abs(r3.Dot(a.axis, b.axis)) < parallel || math.Abs(ma-mb) > likeModules*ma {
		return
	}
	d := r3.Sub(b.centre, a.centre)
	along := r3.Dot(d, a.axis)
	apart := r3.Norm(r3.Sub(d, r3.Scale(along, a.axis)))
	teeth := a.Teeth + b.Teeth
	if b.Inner {
		teeth = b.Teeth - a.Teeth
	}
	module := (ma + mb) / 2
	want := module * float64(teeth) / 2
	if math.Abs(apart-want) > offCentre*module || math.Abs(along) > 0.95*(a.Width+b.Width)/2 {
		return
	}
	one, other := f.jointFor(a), f.jointFor(b)
	words := fmt.Sprintf("%d and %d teeth of module %.3g", a.Teeth, b.Teeth, module)
	if b.Inner {
		words = fmt.Sprintf("%d teeth within %d, module %.3g", a.Teeth, b.Teeth, module)
	}
	c := assembly.Coupling{
		ID: idOf(one, other), Name: fmt.Sprintf("%s and %s", f.a.Nodes[a.node].Name, f.a.Nodes[b.node].Name),
		Kind: assembly.Gear, Joint: one, By: other, Sizes: [2]float64{float64(a.Teeth), float64(b.Teeth)}, Inner: b.Inner,
	}
	f.found.Couplings = append(f.found.Couplings, FoundCoupling{
		Coupling: c, Confidence: min(a.Confidence, b.Confidence),
		Why: fmt.Sprintf("%s, %.4g mm apart where %.4g fit", words, apart, want),
	})
}

// jointFor is the joint that a wheel turns about, or one that holds it where none was found.
func (f *finder) jointFor(w *placed) assembly.JointID {
	for i := range f.found.Joints {
		j := &f.found.Joints[i]
		if f.index[j.Body] != w.node {
			continue
		}
		if j.Kind == assembly.Fixed || (line{w.centre, w.axis}).same(f.lineOf(j)) {
			return j.ID
		}
	}
	kind, why, sure := assembly.Fixed, "it has inner teeth and no shaft", 0.5
	if !w.Inner {
		kind, why, sure = assembly.Revolute, "it is a gear in mesh", 0.5
	}
	f.propose(kind, w.node, 0, line{w.centre, w.axis}, sure, why)
	return f.found.Joints[len(f.found.Joints)-1].ID
}
