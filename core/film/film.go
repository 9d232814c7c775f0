package film

import (
	"slices"

	"slowreveal/core/assembly"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// Film is a reveal laid out in time over its assembly. It is read-only and may
// be shared; every reader brings a Frame of its own.
type Film struct {
	Assembly *assembly.Assembly
	Reveal   *reveal.Reveal
	Schedule Schedule

	rest     []space.Rigid // each node in its parent
	still    []space.Rigid // each node in the world where nothing ever moves it
	moving   []int32       // the nodes that may leave still, parents first
	tracks   []track
	motions  []motion  // what cues do to nodes, once for all targets that move together
	moves    [][]int32 // by node, in document order: indices of motions
	opacity  channel[float64]
	tint     channel[Tint]
	surface  channel[Surface]
	drive    drives
	shots    []shot
	changing []int32 // moving, and those that a channel may change
	borrowed []borrowed
	bars     map[reveal.CueID]int    // the forward bar of each cue in the schedule
	ran      map[reveal.CueID]run    // which tracks are a cue's
	moved    map[reveal.CueID]traced // the first target of each movement
	flows    []flow
	arrows   []arrow
	segments int     // of all flow lines
	straight []int32 // those of them that are of a straight leg
	notes    []note
	taken    []Note // where no note may be: just the places count
	cards    []card
	boxes    []space.Box // of each shape's node, in its own frame
	aspect   float64     // of the frames: width over height
	opening  reveal.Camera
}

// Frame is everything that a picture of one moment needs.
type Frame struct {
	Time reveal.Micros
	// World holds the pose of every node in the world.
	World []space.Rigid
	// Opacity is that of every node times those above it. 0 means not drawn.
	Opacity []float64
	Camera  reveal.Camera
	// NoOcclusion says that parts do not darken each other.
	NoOcclusion bool
	// Tint is how far the colour of each node goes towards another one.
	Tint []Tint
	// Surface is how each node is drawn.
	Surface []Surface
	// Flow are the pieces of the flow lines, in the world; where a part has not
	// gone yet they have no length.
	Flow []Segment
	// Cards are the texts over the whole picture.
	Cards []Card
	// Notes are the notes that are seen, in the frame.
	Notes []Note
	// Step is the index in Reveal.Steps of the step that is running, −1 when
	// there is none.
	Step int

	progress     []float64
	motionStates []motionState
	values       []float64 // of the joints that are driven
	driven       *running
	around       []space.Box // work space of what a shot keeps in the frame
}

// Compile lays the reveal out in time. The document must be valid for the
// assembly (reveal.Validate).
func Compile(a *assembly.Assembly, r *reveal.Reveal) *Film {
	f := compile(a, r, r.Frame.Aspect())
	f.placeNotes()
	return f
}

// compile is Compile for frames of a shape, without the places of notes.
func compile(a *assembly.Assembly, r *reveal.Reveal, aspect float64) *Film {
	r = reveal.Resolved(r)
	f := &Film{
		Assembly: a, Reveal: r,
		rest:    make([]space.Rigid, len(a.Nodes)),
		moves:   make([][]int32, len(a.Nodes)),
		opacity: newOpacity(len(a.Nodes)),
		tint:    newChannel(len(a.Nodes), Tint{}, Tint.to),
		surface: newChannel(len(a.Nodes), UsualSurface, Surface.to),
		moved:   map[reveal.CueID]traced{}, bars: map[reveal.CueID]int{}, ran: map[reveal.CueID]run{},
		boxes: a.BoundsOf(), aspect: aspect, opening: r.Opening.Camera,
	}
	index := a.Index()
	f.open(index)
	f.Schedule = layOut(r)
	f.goOn()
	for i := range f.Schedule.Bars {
		bar := &f.Schedule.Bars[i]
		if bar.Retraced {
			continue
		}
		f.bars[bar.Cue] = i
		if first := len(f.tracks); !bar.Muted {
			f.addCue(bar, index)
			f.ran[bar.Cue] = run{first, len(f.tracks) - first}
		}
	}
	f.findDriven(index)
	f.leadOn()
	f.suppress(index)
	f.findMoving()
	f.borrowAxes()
	f.placeArrows(index)
	return f
}

// open puts the nodes where the opening has them.
func (f *Film) open(index map[assembly.NodeID]int) {
	nodes, o := f.Assembly.Nodes, &f.Reveal.Opening
	for i := range nodes {
		f.rest[i] = nodes[i].Pose.Rigid()
	}
	for _, p := range o.Poses {
		f.rest[index[p.Node]] = p.Pose.Rigid()
	}
	for i := range nodes {
		world := f.rest[i]
		if p := nodes[i].Parent; p >= 0 {
			world = f.still[p].Mul(&f.rest[i])
		}
		f.still = append(f.still, world)
	}
	for _, n := range o.Opacities {
		f.opacity.opened[index[n.Node]] = &n.Opacity
	}
	for _, id := range o.Suppressed {
		f.opacity.opened[index[id]] = new(float64)
	}
	for _, n := range o.Tints {
		f.tint.opened[index[n.Node]] = &Tint{n.Colour, n.Amount}
	}
	for _, n := range o.Surfaces {
		drawn := surfaceOf(n.Style)
		f.surface.opened[index[n.Node]] = &drawn
	}
}

// addCue gives the cue behind bar to the nodes that it acts on.
func (f *Film) addCue(bar *Bar, index map[assembly.NodeID]int) {
	cue := bar.cue
	first := track{
		start:    float64(bar.Start),
		duration: float64(cue.Duration),
		curve:    newCurve(cue.Easing),
		back:     bar.back,
	}
	switch {
	case cue.Kind.Camera():
		f.addShot(cue, first, index)
		return
	case cue.Kind == reveal.KindNote:
		f.notes = append(f.notes, note{cue: cue, node: index[cue.Targets[0]], start: bar.Start})
		return
	case cue.Kind == reveal.KindCard:
		f.cards = append(f.cards, card{cue, bar.Start})
		return
	case cue.Kind == reveal.KindArrow:
		return // when all that moves is known
	case cue.Kind == reveal.KindDrive:
		first.duration = float64(bar.Duration)
		f.tracks = append(f.tracks, first)
		f.addDrive(cue.Drive, bar, &f.tracks[len(f.tracks)-1])
		return
	}
	var motions []int32 // of each target
	for k, target := range cue.Targets {
		if k == 0 || cue.Stagger != 0 { // targets that move together share a track
			b := first
			b.start += float64(k) * float64(cue.Stagger)
			f.tracks = append(f.tracks, b)
			if cue.Kind.Moves() {
				f.motions = append(f.motions, newMotion(cue, len(f.tracks)-1))
				if cue.Axes() == reveal.ReferenceAxes {
					f.borrowed = append(f.borrowed, borrowed{len(f.motions) - 1, index[cue.Of], reveal.Micros(b.start)})
				}
			}
		}
		node, track := index[target], len(f.tracks)-1
		switch settings := cue.Settings().(type) {
		case *reveal.Fade:
			f.opacity.add(node, track, settings.To)
		case *reveal.Tint:
			f.tint.add(node, track, Tint{settings.Colour, settings.Amount})
		case *reveal.Surface:
			f.surface.add(node, track, surfaceOf(settings.Style))
		default:
			motions = append(motions, int32(len(f.motions)-1))
			f.moves[node] = append(f.moves[node], motions[k])
		}
	}
	if len(motions) > 0 {
		first := index[cue.Targets[0]]
		f.moved[cue.ID] = traced{node: first, motion: motions[0], part: first}
	}
	if cue.Flow != nil {
		f.addFlows(cue, motions, index)
	}
}

// suppress takes the fades from nodes that are left out: nothing brings them
// back.
func (f *Film) suppress(index map[assembly.NodeID]int) {
	for _, id := range f.Reveal.Opening.Suppressed {
		f.opacity.changes[index[id]] = nil
	}
}

// findMoving lists the nodes that At has to look at.
func (f *Film) findMoving() {
	moves, any := make([]bool, len(f.rest)), make([]bool, len(f.rest))
	nodes := f.Assembly.Nodes
	for i := range nodes {
		p := nodes[i].Parent
		if moves[i] = len(f.moves[i]) > 0 || f.drivenAt(i) || p >= 0 && moves[p]; moves[i] {
			f.moving = append(f.moving, int32(i))
			any[i] = true
		}
	}
	f.opacity.find(nodes, any)
	f.tint.find(nodes, any)
	f.surface.find(nodes, any)
	for i := range any {
		if any[i] {
			f.changing = append(f.changing, int32(i))
		}
	}
}

// Duration returns the length of the film.
func (f *Film) Duration() reveal.Micros { return f.Schedule.Duration }

// Ends returns when steps end, each time once, in order; those that are switched off do not count.
func (f *Film) Ends() []reveal.Micros {
	ends := []reveal.Micros{}
	for _, s := range f.Schedule.Steps {
		if !s.Muted {
			ends = append(ends, s.Start+s.Duration)
		}
	}
	return slices.Compact(ends)
}

// NewFrame returns a frame for At to fill, standing as at rest.
func (f *Film) NewFrame() *Frame {
	fr := &Frame{
		NoOcclusion:  f.Reveal.Frame.NoOcclusion,
		World:        append([]space.Rigid(nil), f.still...),
		Opacity:      f.opacity.filled(),
		Tint:         f.tint.filled(),
		Surface:      f.surface.filled(),
		progress:     make([]float64, len(f.tracks)),
		motionStates: make([]motionState, len(f.motions)),
		Flow:         make([]Segment, f.segments),
		Cards:        make([]Card, 0, len(f.cards)),
		Notes:        make([]Note, 0, len(f.notes)),
		around:       make([]space.Box, 0, len(f.rest)),
	}
	if m := f.drive.mechanism; m != nil {
		fr.values, fr.driven = make([]float64, len(m.Drivers)), f.newRunning()
	}
	return fr
}

// At fills fr with the film at time t. Before zero and behind the end it shows
// the first and the last moment. fr must come from this film's NewFrame.
func (f *Film) At(t reveal.Micros, fr *Frame) {
	f.evaluateScene(t, fr)
	f.evaluateFlow(fr)
	f.evaluateNotes(fr, f.aspect)
	f.evaluateCards(fr)
}

// Changing are the nodes whose pose or look may be another one at another time, in the order of the assembly. The
// list is the film's own.
func (f *Film) Changing() []int32 { return f.changing }

// evaluateScene fills in what stands where and how it looks, without lines and words.
func (f *Film) evaluateScene(t reveal.Micros, fr *Frame) {
	t = max(0, min(t, f.Schedule.Duration))
	fr.Time = t
	f.moveTo(t, fr)
	f.opacity.evaluate(f.Assembly.Nodes, fr.Opacity, fr.progress)
	f.tint.evaluate(f.Assembly.Nodes, fr.Tint, fr.progress)
	f.surface.evaluate(f.Assembly.Nodes, fr.Surface, fr.progress)
	fr.Camera = f.opening
	var before *shot
	for i := range f.shots {
		s := &f.shots[i]
		s.take(f, fr, before)
		if !s.orbit && fr.progress[s.track] > 0 {
			before = s
		}
	}
	fr.Step = f.Schedule.StepAt(t)
}

// newOpacity is a channel in which a node is seen through as much more as what holds it.
func newOpacity(nodes int) channel[float64] {
	c := newChannel(nodes, 1, mix)
	c.under = func(above, own float64) float64 { return max(0, min(own*above, 1)) }
	return c
}

// moveTo brings the progress of all cues and the poses to time t.
func (f *Film) moveTo(t reveal.Micros, fr *Frame) {
	for i := range f.tracks {
		fr.progress[i] = f.tracks[i].progress(float64(t))
	}
	for i := range f.motions {
		f.motions[i].at(fr.progress[f.motions[i].track], &fr.motionStates[i])
	}
	if fr.driven != nil {
		f.driveTo(float64(t), fr.progress, fr.values, fr.driven)
	}
	f.pose(fr)
}

func (f *Film) pose(fr *Frame) {
	for _, i := range f.moving {
		local := f.seat(int(i), fr.driven)
		parent := f.Assembly.Nodes[i].Parent
		for _, k := range f.moves[i] {
			if s := &fr.motionStates[k]; s.moves {
				s.apply(f.motions[k].axes, &local, fr.World, parent)
			}
		}
		if parent >= 0 {
			fr.World[i] = fr.World[parent].Mul(&local)
		} else {
			fr.World[i] = local
		}
	}
}

// mix goes from a to b; it returns a itself at 0 and b itself at 1.
func mix(a, b, u float64) float64 {
	switch u {
	case 0:
		return a
	case 1:
		return b
	}
	return a + (b-a)*u
}
