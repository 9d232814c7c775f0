package film

import (
	"slices"

	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// borrowed is a motion that is written in the axes of another node.
type borrowed struct {
	motion int
	of     int
	start  reveal.Micros
}

// borrowAxes writes the motions that use another node's axes in those of the whole
// assembly: as that node stands when each begins. One that begins earlier may move
// the node of a later one, so that they are taken in the order of time.
func (f *Film) borrowAxes() {
	if len(f.borrowed) == 0 {
		return
	}
	slices.SortStableFunc(f.borrowed, func(a, b borrowed) int { return int(a.start - b.start) })
	fr := f.NewFrame()
	for _, b := range f.borrowed {
		f.moveTo(b.start, fr)
		whole := fr.World[0].Inverse()
		in := whole.Mul(&fr.World[b.of])
		f.motions[b.motion].into(&in)
	}
}

// into rewrites a motion that is written in the axes of in for those that in leads
// to.
func (m *motion) into(in *space.Rigid) {
	m.axes = reveal.AssemblyAxes
	m.way, m.axis, m.pivot = in.R.Apply(m.way), in.R.Apply(m.axis), in.Apply(m.pivot)
	if m.route != nil {
		m.route = m.route.turned(&in.R)
	}
}
