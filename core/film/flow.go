package film

import (
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/space"
)

// Segment is a flow line from where a part stood to where it has gone, in the
// world, mm. Where both ends are the same there is nothing to see.
type Segment struct {
	From, To space.Vec
	// Opacity is that of the part.
	Opacity float64
}

// flow is a motion of a node that leaves a line.
type flow struct {
	node   int
	motion int32
}

// trace finds the flow lines: for each, the middle of the node as it stands
// before the motion and after it, later motions left aside.
func (f *Film) trace(fr *Frame) {
	for k := range f.flows {
		w := &f.flows[k]
		local := f.rest[w.node]
		parent := f.Assembly.Nodes[w.node].Parent
		middle := f.boxes[w.node].Centre()
		var s Segment
		for _, m := range f.moves[w.node] {
			if m == w.motion {
				s.From = local.Apply(middle)
			}
			if stride := &fr.strides[m]; stride.moves {
				stride.apply(f.motions[m].axes, &local, fr.World, parent)
			}
			if m == w.motion {
				s.To = local.Apply(middle)
				break
			}
		}
		if parent >= 0 {
			s.From, s.To = fr.World[parent].Apply(s.From), fr.World[parent].Apply(s.To)
		}
		s.Opacity = fr.Opacity[w.node]
		fr.Flow[k] = s
	}
}

// DashOf returns the length of a flow line's dashes in an assembly, mm. The gaps
// are half as long.
func DashOf(a *assembly.Assembly) float64 {
	return r3.Norm(a.Bounds().Size()) / 90
}

// Dashes calls draw for each dash of the line, from the seat on. A line that is
// all but see-through is not drawn.
func (s *Segment) Dashes(dash float64, draw func(from, to space.Vec)) {
	way := r3.Sub(s.To, s.From)
	length := r3.Norm(way)
	if length < 1e-6 || s.Opacity < 0.3 || !(dash > 0) {
		return
	}
	if length/dash > 4000 { // a thousand dashes are a line
		draw(s.From, s.To)
		return
	}
	for at := 0.0; at < length; at += 1.5 * dash {
		draw(r3.Add(s.From, r3.Scale(at/length, way)), r3.Add(s.From, r3.Scale(min(at+dash, length)/length, way)))
	}
}
