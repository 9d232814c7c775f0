package film

import (
	"math"
	"slices"

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

// flow is one flow line: the way of what it is drawn of, leg by leg.
type flow struct {
	of       []traced    // the line goes through the middle of them
	legs     [][]float64 // the stops of each: of the movement itself, and of those that lead on from there
	from, to float64
	line     reveal.LineType
	first    int // of its segments in a frame
}

// traced is a point that a motion carries.
type traced struct {
	node   int // whose motion it is
	motion int32
	part   int     // whose middle is followed: node, or a part in it
	on     []int32 // the motions of the node that lead on from there
}

// leg is the motion of a leg.
func (t *traced) leg(k int) int32 {
	if k == 0 {
		return t.motion
	}
	return t.on[k-1]
}

// addFlows gives a cue, whose motions are those from first on, its flow lines.
func (f *Film) addFlows(cue *reveal.Cue, motions []int32, index map[assembly.NodeID]int) {
	line := flow{line: cue.Flow.Line}
	line.from, line.to = cue.Flow.Span()
	if line.line == "" {
		line.line = reveal.Dashed
	}
	line.legs = [][]float64{f.motions[motions[0]].stops()}
	add := func(of ...traced) {
		l := line
		l.of = of
		f.flows = append(f.flows, l)
	}
	var all []traced
	for k, target := range cue.Targets {
		node := index[target]
		own := traced{node: node, motion: motions[k], part: node}
		switch cue.Flow.Of {
		case reveal.FlowAll:
			all = append(all, own)
		case reveal.FlowPart:
			for i := range f.Assembly.Nodes {
				if f.Assembly.Nodes[i].IsPart() && f.below(i, node) {
					add(traced{node: node, motion: motions[k], part: i})
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

// leadOn lets flow lines follow their parts along the later movements that have no flow line of their own, and
// counts their segments.
func (f *Film) leadOn() {
	drawn := map[int32]bool{}
	for k := range f.flows {
		for i := range f.flows[k].of {
			drawn[f.flows[k].of[i].motion] = true
		}
	}
	for k := range f.flows {
		w := &f.flows[k]
		if w.to == 1 {
			f.extend(w, drawn)
		}
		w.first = f.segments
		for _, stops := range w.legs {
			if len(stops) == 2 {
				f.straight = append(f.straight, int32(f.segments))
			}
			f.segments += len(stops) - 1
		}
	}
}

// extend adds to a flow line the legs that all that it is drawn of go in common.
func (f *Film) extend(w *flow, drawn map[int32]bool) {
	common := math.MaxInt
	for i := range w.of {
		t := &w.of[i]
		moves := f.moves[t.node]
		for _, m := range moves[slices.Index(moves, t.motion)+1:] {
			if drawn[m] {
				break
			}
			t.on = append(t.on, m)
		}
		common = min(common, len(t.on))
	}
	for k := range common {
		w.legs = append(w.legs, f.motions[w.of[0].on[k]].stops())
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

// evaluateFlow finds the flow lines as far as their cues have come.
func (f *Film) evaluateFlow(fr *Frame) {
	for k := range f.flows {
		w := &f.flows[k]
		last, length := f.along(w, 0, w.from, fr), 0.0
		opacity := 1.0
		for i := range w.of {
			opacity = min(opacity, fr.Opacity[w.of[i].part])
		}
		next := w.first
		for leg, stops := range w.legs {
			for i := 1; i < len(stops); i++ {
				at := stops[i]
				if leg == 0 { // what lies before the piece's begin or behind its end has no length
					if at = max(w.from, min(at, w.to)); i == len(stops)-1 {
						at = w.to
					}
				}
				p := f.along(w, leg, at, fr)
				fr.Flow[next] = Segment{From: last, To: p, Start: length, Opacity: opacity, Line: w.line}
				length += r3.Norm(r3.Sub(p, last))
				last = p
				next++
			}
		}
	}
	f.merge(fr)
	f.evaluateArrows(fr)
}

// merge leaves of straight pieces that run along one another only one: strokes of two would fill each other's gaps.
func (f *Film) merge(fr *Frame) {
	if len(f.straight) > maxMerged {
		return
	}
	for k, j := range f.straight {
		for _, i := range f.straight[:k] {
			fr.Flow[j].leaveTo(&fr.Flow[i])
		}
	}
}

const (
	maxMerged = 150  // pieces: all are held against all
	oneLine   = 0.05 // mm, how far apart the ends of what is one line are
)

// leaveTo takes from a piece what another one draws, unless that is in the middle of it.
func (s *Segment) leaveTo(o *Segment) {
	way := r3.Sub(o.To, o.From)
	long := r3.Norm(way)
	if long < oneLine || s.From == s.To || o.Opacity < seenFlow || s.Line != o.Line {
		return
	}
	way = r3.Scale(1/long, way)
	along := func(p space.Vec) (at, aside float64) {
		d := r3.Sub(p, o.From)
		at = r3.Dot(d, way)
		return at, r3.Norm(r3.Sub(d, r3.Scale(at, way)))
	}
	a, besideA := along(s.From)
	b, besideB := along(s.To)
	if besideA > oneLine || besideB > oneLine {
		return
	}
	cut := func(at float64) space.Vec { return r3.Add(o.From, r3.Scale(at, way)) }
	within := func(at float64) bool { return at >= -oneLine && at <= long+oneLine }
	switch {
	case within(a) && within(b):
		s.From = s.To
	case within(a):
		at := 0.0
		if b > a {
			at = long
		}
		s.Start += math.Abs(at - a)
		s.From = cut(at)
	case within(b):
		at := 0.0
		if a > b {
			at = long
		}
		s.To = cut(at)
	}
}

// along returns where what is traced was after the share u of the way that it has
// gone on a leg: the middle of all, in the world, later motions left aside.
func (f *Film) along(w *flow, leg int, u float64, fr *Frame) space.Vec {
	var sum space.Vec
	for i := range w.of {
		t := &w.of[i]
		point := f.middle(t.part)
		if t.part != t.node {
			inverse := fr.World[t.node].Inverse()
			in := inverse.Mul(&fr.World[t.part])
			point = in.Apply(point)
		}
		m := t.leg(leg)
		sum = r3.Add(sum, f.carried(t.node, m, u*fr.progress[f.motions[m].track], point, fr))
	}
	return r3.Scale(1/float64(len(w.of)), sum)
}

// middle is where a flow line leads to a node, in its frame.
func (f *Film) middle(node int) space.Vec {
	if n := &f.Assembly.Nodes[node]; n.IsPart() {
		return f.Assembly.Shapes[n.Shape].Middle()
	}
	return f.boxes[node].Centre()
}

// carried returns where a point of a node is after the progress u of one of its motions.
func (f *Film) carried(node int, last int32, u float64, point space.Vec, fr *Frame) space.Vec {
	local := f.seat(node, fr.driven)
	parent := f.Assembly.Nodes[node].Parent
	for _, m := range f.moves[node] {
		motion, stride := &f.motions[m], fr.motionStates[m]
		if m == last {
			motion.at(u, &stride)
		}
		if stride.moves {
			stride.apply(motion.axes, &local, fr.World, parent)
		}
		if m == last {
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
	middle := f.middle(t.node)
	return f.carried(t.node, t.motion, 0, middle, fr), f.carried(t.node, t.motion, 1, middle, fr), true
}

// DashOf returns the length of a flow line's dashes in an assembly with these bounds, mm. The gaps
// are half as long.
func DashOf(bounds space.Box) float64 {
	return r3.Norm(bounds.Size()) / 90
}

// seenFlow is the opacity of a part from which its flow line is drawn.
const seenFlow = 0.3

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
	if length < 1e-6 || s.Opacity < seenFlow || !(dash > 0) {
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
