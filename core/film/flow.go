package film

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// Segment is a straight piece of a flow line, in the world, mm. Where both ends
// are the same there is nothing to see.
type Segment struct {
	From, To space.Vec
	// Start is the length of the line before this piece, mm: dashes run on.
	Start float64
	// Opacity is that of the part.
	Opacity float64
	Line    reveal.LineType
}

// flow is one flow line: the way of what it is drawn of, sampled at stops.
type flow struct {
	of       []traced // the line goes through the middle of them
	stops    []float64
	from, to float64
	line     reveal.LineType
	first    int // of its segments in a frame
}

// traced is a point that a motion carries.
type traced struct {
	node   int // whose motion it is
	motion int32
	part   int // whose middle is followed: node, or a part in it
}

// addFlows gives a cue, whose motions are those from first on, its flow lines.
func (f *Film) addFlows(cue *reveal.Cue, motions []int32, index map[assembly.NodeID]int) {
	line := flow{line: cue.Flow.Line}
	line.from, line.to = cue.Flow.Span()
	if line.line == "" {
		line.line = reveal.Dashed
	}
	line.stops = f.motions[motions[0]].stops()
	add := func(of ...traced) {
		l := line
		l.of, l.first = of, f.segments
		f.segments += len(l.stops) - 1
		f.flows = append(f.flows, l)
	}
	var all []traced
	for k, target := range cue.Targets {
		node := index[target]
		own := traced{node, motions[k], node}
		switch cue.Flow.Of {
		case reveal.FlowAll:
			all = append(all, own)
		case reveal.FlowPart:
			for i := range f.Assembly.Nodes {
				if f.Assembly.Nodes[i].IsPart() && f.below(i, node) {
					add(traced{node, motions[k], i})
				}
			}
		default:
			add(own)
		}
	}
	if len(all) > 0 {
		add(all...)
	}
}

// stops lists the progress at which a line along the motion needs a point: a
// straight one its ends, a turn one every few degrees.
func (m *motion) stops() []float64 {
	switch {
	case m.route != nil:
		return m.route.stops()
	case m.degrees == 0:
		return []float64{0, 1}
	}
	n := int(min(math.Ceil(math.Abs(m.degrees)/8)+1, 360))
	stops := make([]float64, n+1)
	for i := range stops {
		stops[i] = float64(i) / float64(n)
	}
	return stops
}

// trace finds the flow lines as far as their cues have come.
func (f *Film) trace(fr *Frame) {
	for k := range f.flows {
		w := &f.flows[k]
		last, length := f.along(w, w.from, fr), 0.0
		opacity := 1.0
		for i := range w.of {
			opacity = min(opacity, fr.Opacity[w.of[i].part])
		}
		for i := 1; i < len(w.stops); i++ {
			// What lies before the piece's begin or behind its end has no length.
			at := max(w.from, min(w.stops[i], w.to))
			if i == len(w.stops)-1 {
				at = w.to
			}
			p := f.along(w, at, fr)
			fr.Flow[w.first+i-1] = Segment{From: last, To: p, Start: length, Opacity: opacity, Line: w.line}
			length += r3.Norm(r3.Sub(p, last))
			last = p
		}
	}
}

// along returns where what is traced was after the share u of the way that it has
// gone: the middle of all, in the world, later motions left aside.
func (f *Film) along(w *flow, u float64, fr *Frame) space.Vec {
	var sum space.Vec
	for i := range w.of {
		t := &w.of[i]
		point := f.boxes[t.part].Centre()
		if t.part != t.node {
			inverse := fr.World[t.node].Inverse()
			in := inverse.Then(&fr.World[t.part])
			point = in.Apply(point)
		}
		sum = r3.Add(sum, f.carried(t, u*fr.progress[f.motions[t.motion].beat], point, fr))
	}
	return r3.Scale(1/float64(len(w.of)), sum)
}

// carried returns where a point of a part is after the progress u of a motion.
func (f *Film) carried(t *traced, u float64, point space.Vec, fr *Frame) space.Vec {
	local := f.rest[t.node]
	parent := f.Assembly.Nodes[t.node].Parent
	for _, m := range f.moves[t.node] {
		motion, stride := &f.motions[m], fr.strides[m]
		if m == t.motion {
			motion.at(u, &stride)
		}
		if stride.moves {
			stride.apply(motion.axes, &local, fr.World, parent)
		}
		if m == t.motion {
			break
		}
	}
	p := local.Apply(point)
	if parent >= 0 {
		p = fr.World[parent].Apply(p)
	}
	return p
}

// Reach returns where a movement takes the middle of its first target: from where
// it stands without it to where it stands when it is complete, in the world as it
// is in fr, later movements left aside. ok is false for a cue that moves nothing.
func (f *Film) Reach(cue reveal.CueID, fr *Frame) (from, to space.Vec, ok bool) {
	t, ok := f.moved[cue]
	if !ok {
		return from, to, false
	}
	middle := f.boxes[t.node].Centre()
	return f.carried(&t, 0, middle, fr), f.carried(&t, 1, middle, fr), true
}

// DashOf returns the length of a flow line's dashes in an assembly, mm. The gaps
// are half as long.
func DashOf(a *assembly.Assembly) float64 {
	return r3.Norm(a.Bounds().Size()) / 90
}

// pattern returns how long a stroke and its gap are.
func pattern(line reveal.LineType, dash float64) (stroke, gap float64) {
	switch line {
	case reveal.Solid:
		return dash, 0
	case reveal.Dotted:
		return 0.12 * dash, 0.38 * dash
	}
	return dash, dash / 2
}

// Dashes calls draw for each stroke of the piece, from the seat on. A line that is
// all but see-through is not drawn.
func (s *Segment) Dashes(dash float64, draw func(from, to space.Vec)) {
	way := r3.Sub(s.To, s.From)
	length := r3.Norm(way)
	if length < 1e-6 || s.Opacity < 0.3 || !(dash > 0) {
		return
	}
	stroke, gap := pattern(s.Line, dash)
	if gap == 0 || length/dash > 4000 { // thousands of dashes are a line
		draw(s.From, s.To)
		return
	}
	period := stroke + gap
	for at := -math.Mod(s.Start, period); at < length; at += period {
		from, to := max(at, 0), min(at+stroke, length)
		if from < to {
			draw(r3.Add(s.From, r3.Scale(from/length, way)), r3.Add(s.From, r3.Scale(to/length, way)))
		}
	}
}
