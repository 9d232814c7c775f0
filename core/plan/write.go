package plan

import (
	"math"
	"slices"
	"strconv"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/caption"
	"slowreveal/core/edit"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// Fineness says how many moves go into a step.
type Fineness string

// The finenesses.
const (
	EachMove Fineness = "each" // every move is a step
	Usual    Fineness = "usual"
	// fasteners are undone in the step of what they hold, and what is taken from a unit in one step
	Few Fineness = "few"
)

// Writing says how moves become steps; the zero value is the usual way.
type Writing struct {
	// Moves are the numbers of those that are written, all without any. What carries them comes along.
	Moves    []int    `json:"moves,omitempty"`
	Fineness Fineness `json:"fineness,omitempty"`
	// Join and Split name moves, by their first node, that go into the step of the move before them, or begin one of
	// their own, whatever the fineness says.
	Join  []assembly.NodeID `json:"join,omitempty"`
	Split []assembly.NodeID `json:"split,omitempty"`
	// Pace is how many times as fast as usual things go, 0 for 1.
	Pace float64 `json:"pace,omitempty"`
	// NoShots leaves the camera where it is, NoFlow leaves flow lines out.
	NoShots bool `json:"noShots,omitempty"`
	NoFlow  bool `json:"noFlow,omitempty"`
	// AllAtOnce makes one step of it, in which everything goes along its way at once or layer by layer; Length is how
	// long that takes, µs.
	AllAtOnce AllAtOnce     `json:"allAtOnce,omitempty"`
	Duration  reveal.Micros `json:"duration,omitempty"`
	// Fresh begins the ids of what is new; it must be unused.
	Fresh string `json:"fresh"`
}

// Written is the steps of a plan, put into a document.
type Written struct {
	Command edit.Command `json:"command"`
	// Steps are the numbers of the moves in each of the new steps.
	Steps [][]int `json:"steps"`
}

// Begin is where a plan goes on in a film: behind the step that runs at a time, and at the beginning of all where the
// time is 0. at is the time from which on it does.
func Begin(f *film.Film, t reveal.Micros) (index int, at reveal.Micros) {
	for i, s := range f.Schedule.Steps {
		if t > s.Start || i == 0 && t > 0 {
			index, at = i+1, s.Start+s.Duration
		}
	}
	return index, at
}

// Insert writes moves of a plan into a document, behind the step that runs at a time of its film.
func Insert(p *Plan, a *assembly.Assembly, doc *reveal.Reveal, t reveal.Micros, w Writing) Written {
	f := film.Compile(a, doc)
	index, at := Begin(f, t)
	fr := f.NewFrame()
	f.At(at, fr)
	out := Written{Command: edit.Command{Op: edit.Batch}}
	var steps []reveal.Step
	if w.AllAtOnce != StepByStep {
		steps = atOnce(p, a, doc, fr.World, fr.Camera, w)
		out.Steps = [][]int{w.Moves}
	} else {
		steps, out.Steps = write(p, a, doc, fr.World, fr.Camera, w)
	}
	for i := range steps {
		out.Command.Commands = append(
			out.Command.Commands,
			edit.Command{Op: edit.InsertStep, Step: &steps[i], Index: index + i},
		)
	}
	return out
}

// writer writes steps.
type writer struct {
	p       *Plan
	w       Writing
	a       *assembly.Assembly
	index   map[assembly.NodeID]int
	rest    []space.Rigid
	boxes   []space.Box
	moved   []space.Vec // by node, what it and what it hangs in have been moved by, in the world
	aspect  float64
	camera  reveal.Camera
	cues    int
	size    float64
	written []reveal.Step
	minded  map[assembly.NodeID]bool // of which it has been said what is to be minded
}

const second = float64(reveal.Second)

// write writes moves of a plan as steps with cues, and says which moves are in each. world is how the assembly stands
// where the plan begins, camera what is seen of it there.
func write(
	p *Plan,
	a *assembly.Assembly,
	doc *reveal.Reveal,
	world []space.Rigid,
	camera reveal.Camera,
	w Writing,
) (steps []reveal.Step, groups [][]int) {
	wr := newWriter(p, a, world, w)
	wr.aspect, wr.camera = doc.Frame.Aspect(), camera
	groups = wr.groups()
	for _, group := range groups {
		wr.step(group)
	}
	return wr.written, groups
}

func newWriter(p *Plan, a *assembly.Assembly, world []space.Rigid, w Writing) *writer {
	wr := &writer{
		p:      p,
		w:      w,
		a:      a,
		index:  a.Index(),
		rest:   world,
		boxes:  a.BoundsOf(),
		moved:  make([]space.Vec, len(a.Nodes)),
		size:   max(r3.Norm(a.Bounds().Size()), 1),
		minded: map[assembly.NodeID]bool{},
	}
	if wr.w.Pace <= 0 {
		wr.w.Pace = 1
	}
	return wr
}

// groups divides the chosen moves into steps.
func (w *writer) groups() (groups [][]int) {
	for i := range w.p.Moves {
		if len(w.w.Moves) > 0 && !slices.Contains(w.w.Moves, i) {
			continue
		}
		if n := len(groups); n > 0 && w.joins(groups[n-1], i) {
			groups[n-1] = append(groups[n-1], i)
			continue
		}
		groups = append(groups, []int{i})
	}
	return groups
}

// joins reports whether a move goes into the step of those before it.
func (w *writer) joins(group []int, i int) bool {
	last, m := &w.p.Moves[group[len(group)-1]], &w.p.Moves[i]
	switch {
	case slices.Contains(w.w.Split, m.Nodes[0]):
		return false
	case slices.Contains(w.w.Join, m.Nodes[0]):
		return true
	}
	if last.Carried != m.Carried && !(w.w.Fineness == Few && slices.Contains(group, m.Carried)) {
		return false
	}
	switch w.w.Fineness {
	case EachMove:
		return false
	case Few:
		return len(group) < 6 && (last.Fastener != "" || m.Carried >= 0)
	}
	// Nuts with their washers and screws, what is taken from a unit that has left, and what is pulled off one part the
	// same way.
	same := slices.Equal(last.Beside, m.Beside)
	return len(group) < 3 &&
		(m.Carried >= 0 || same && (last.Fastener != "") == (m.Fastener != "") && (m.Fastener != "" || sameWay(last, m)))
}

// sameWay reports whether two moves go along one straight direction.
func sameWay(a, b *Move) bool {
	x, y := a.Paths[0].Legs, b.Paths[0].Legs
	return len(x) == 1 && len(y) == 1 && r3.Dot(x[0].Along.Vec(), y[0].Along.Vec()) > 0.999
}

func (w *writer) step(group []int) {
	id := w.w.Fresh + "-" + strconv.Itoa(len(w.written)+1)
	step := reveal.Step{ID: reveal.StepID(id), Notice: w.notice(group)}
	at := 0.3 * second
	for n, k := range group {
		m := &w.p.Moves[k]
		if n == 0 {
			step.Title, step.Instruction = m.Title, m.Instruction
		} else {
			step.Instruction += " " + m.Instruction
		}
		for _, tool := range m.Tools {
			if !slices.Contains(step.Tools, tool) {
				step.Tools = append(step.Tools, tool)
			}
		}
	}
	looks := w.looks(group)
	for n, look := range looks {
		if !w.w.NoShots {
			at = w.look(&step, n, look, len(looks) > 1, at)
		}
		for i := range look {
			at = w.move(&step, &look[i], at)
		}
	}
	if gone := w.through(group); w.p.Fade && len(gone) > 0 {
		c := w.cue(
			reveal.Cue{
				Kind:     reveal.KindFade,
				Targets:  gone,
				Offset:   reveal.Micros(math.Round(at + 0.2*second)),
				Duration: w.time(0.8),
				Easing:   reveal.Smooth,
				Fade:     &reveal.Fade{To: 0},
			},
		)
		step.Cues = append(step.Cues, c)
		at = float64(c.Offset + c.Duration)
	}
	words := caption.Cue{
		Title:  step.Title,
		Text:   reveal.PlainProse(step.Instruction),
		Notice: step.Notice,
		Tools:  step.Tools,
	}
	read := float64(caption.Needs(words.Words())) + 0.1*second
	step.Duration = reveal.Micros(math.Ceil(max(at+0.6*second, read)/1e5) * 1e5)
	w.written = append(w.written, step)
}

// through lists the nodes of the moves of the assembly itself of which a step has the last: their own, or what is done
// with what they have taken along.
func (w *writer) through(group []int) (nodes []assembly.NodeID) {
	last := map[int]int{}
	for i := range w.p.Moves {
		last[w.carrier(i)] = i
	}
	for top, i := range last {
		if slices.Contains(group, i) {
			nodes = append(nodes, w.p.Moves[top].Nodes...)
		}
	}
	slices.Sort(nodes)
	return nodes
}

// carrier is the move of the assembly itself that has taken a move's parts along, or that move.
func (w *writer) carrier(i int) int {
	for w.p.Moves[i].Carried >= 0 {
		i = w.p.Moves[i].Carried
	}
	return i
}

func (w *writer) time(seconds float64) reveal.Micros {
	return reveal.Micros(math.Round(seconds/w.w.Pace*100)) * 10_000
}

func (w *writer) cue(c reveal.Cue) reveal.Cue {
	w.cues++
	c.ID = reveal.CueID(w.w.Fresh + "-c" + strconv.Itoa(w.cues))
	return c
}

// run is nodes of a move that one cue moves: in their own axes, or in those of the assembly.
type run struct {
	axes  reveal.Axes
	nodes []assembly.NodeID
	legs  []reveal.Leg
}

// runs divides the nodes of a move by the directions in which cues can move them. What is screwed out goes by its own
// axes.
func (w *writer) runs(m *Move) (list []run) {
	own := (len(m.Nodes) > 1 || m.Thread != nil) && m.Swing == nil
	for i, id := range m.Nodes {
		r := run{axes: reveal.AssemblyAxes, nodes: []assembly.NodeID{id}}
		for _, l := range m.Paths[i].Legs {
			along := l.Along
			if own {
				r.axes = reveal.OwnAxes
				along = space.Vec3Of(w.rest[w.index[id]].R.ApplyInverse(w.rest[0].R.Apply(l.Along.Vec())))
			}
			r.legs = append(r.legs, reveal.Leg{Along: along.Rounded(1e4), Distance: l.Distance})
		}
		k := slices.IndexFunc(list, func(o run) bool { return o.axes == r.axes && slices.Equal(o.legs, r.legs) })
		if k < 0 {
			list = append(list, r)
		} else {
			list[k].nodes = append(list[k].nodes, id)
		}
	}
	return list
}

// move writes the cues of a move from a time of the step on, µs, and returns when they end.
func (w *writer) move(step *reveal.Step, m *Move, at float64) (end float64) {
	end = at
	for _, r := range w.runs(m) {
		n := len(r.nodes)
		stagger := reveal.Micros(0)
		if n > 1 && (m.Fastener != "" || m.Thread != nil) {
			stagger = w.time(min(0.25, 2/float64(n-1)))
		}
		last := reveal.Cue{
			Targets: r.nodes,
			Offset:  reveal.Micros(math.Round(at)),
			Stagger: stagger,
			Easing:  reveal.Smooth,
		}
		legs := slices.Clone(r.legs)
		add := func(c reveal.Cue) {
			step.Cues = append(step.Cues, c)
			last.Offset += c.Duration
		}
		if m.Thread != nil {
			add(w.unscrewed(m.Thread, &last, &legs[0]))
			last.Easing = reveal.Out
		}
		if m.Swing != nil {
			before := legs[:m.Swing.After]
			legs = legs[m.Swing.After:]
			if len(before) > 0 {
				add(w.led(last, r.axes, before))
			}
			add(w.swung(m.Swing, last, before))
		}
		c := w.led(last, r.axes, legs)
		step.Cues = append(step.Cues, c)
		end = max(end, float64(c.Offset+c.Duration+reveal.Micros(n-1)*stagger))
	}
	w.carry(m)
	return end
}

// carry notes where a move has taken its nodes, and all below them.
func (w *writer) carry(m *Move) {
	by := map[int]space.Vec{}
	for i, id := range m.Nodes {
		var sum space.Vec
		for _, l := range m.Paths[i].Legs {
			sum = r3.Add(sum, r3.Scale(l.Distance, w.rest[0].R.Apply(l.Along.Vec())))
		}
		by[w.index[id]] = sum
	}
	inherited := make([]space.Vec, len(w.a.Nodes))
	for i := range w.a.Nodes {
		if p := w.a.Nodes[i].Parent; p >= 0 {
			inherited[i] = inherited[p]
		}
		if d, ok := by[i]; ok {
			inherited[i] = r3.Add(inherited[i], d)
		}
		w.moved[i] = r3.Add(w.moved[i], inherited[i])
	}
}

// seen is what a step with a move has to show: where its nodes stand and where they go, and what they leave.
func (w *writer) seen(m *Move) (boxes []space.Box) {
	for i, id := range m.Nodes {
		n := w.index[id]
		b := w.boxes[n].Moved(&w.rest[n]).Shifted(w.moved[n])
		boxes = append(boxes, b)
		for _, l := range m.Paths[i].Legs {
			b = b.Shifted(r3.Scale(l.Distance, w.rest[0].R.Apply(l.Along.Vec())))
			boxes = append(boxes, b)
		}
	}
	for _, id := range m.Beside {
		n := w.index[id]
		boxes = append(boxes, w.boxes[n].Moved(&w.rest[n]).Shifted(w.moved[n]))
	}
	return boxes
}
