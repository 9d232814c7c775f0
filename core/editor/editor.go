package editor

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"

	"slowreveal/core/assembly"
	"slowreveal/core/edit"
	"slowreveal/core/film"
	"slowreveal/core/look"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/core/survey"
	"slowreveal/core/variant"
)

// Editor holds what is open. The zero Editor has nothing open.
type Editor struct {
	product   *assembly.Assembly // with the parts of all variants: what edits are checked against
	assembly  *assembly.Assembly // the product as the variant has it that is shown, node by node
	variant   assembly.VariantID
	survey    *survey.Survey
	boxes     []space.Box
	index     map[assembly.NodeID]int
	reveal    *reveal.Reveal
	film      *film.Film
	frame     *film.Frame
	shadow    *look.Shadow
	shown     *film.Frame // what the arrays hold: nothing but At and AtRest writes to it
	asked     *film.Frame // work space of questions
	resting   *film.Frame // the assembly as it was imported
	tried     *trying     // a joint of it that is tried out
	otherFlow []float32   // work space of Flow
	altering  []int32     // work space of Altered
	dash      float64     // of flow lines, mm
	shape     float64     // of the frame that is shown; 0 for the reveal's own
	// undoPreview takes back a change that is only being tried out.
	undoPreview *edit.Command
	// dragged are the cues whose bars are being dragged on the film.
	dragged []edit.Timed

	// Matrices are the world matrices of all nodes at the last At, 16 a node,
	// column-major, mm; Opacities one a node; Camera is laid out by
	// cameraFields.
	Matrices  []float32
	Opacities []float32
	// Tints are colour (linear RGB) and amount, 4 a node; Flow are the flow
	// lines, stroke by stroke: both ends in the world, mm, 6 a stroke. Surfaces are
	// flat amount, faces and edges, 3 a node.
	Tints    []float32
	Flow     []float32
	Surfaces []float32
	Camera   [cameraFields]float64
	// Version counts how often what the arrays hold has changed, but for the step and the time: a
	// picture of the same version is the same. Altered are the nodes that are otherwise in it than in the
	// version before.
	Version int32
	Altered []int32
	cast    int32 // the version that the shadow is of
}

// The fields of Editor.Camera: target x y z, orientation x y z w, distance, focal length,
// index of the step, time in µs, tangents of half the field of view across and
// up in the reveal's frame, 1 where the lines of sight are parallel.
const (
	cameraFields      = 14
	orientationField  = 3
	distanceField     = 7
	focalLengthField  = 8
	stepField         = 9
	timeField         = 10
	fieldField        = 11
	orthographicField = 13
	matrixNumbers     = 16
	tintNumbers       = 4
	surfaceNumbers    = 3
	flowNumbers       = 6
)

// Layout is how numbers lie in the arrays: how many each node has, or each stroke of a flow line, where what is in
// Camera, and how many cells the contact shadow has on a side.
var Layout = struct {
	Matrix  int            `json:"matrix"`
	Tint    int            `json:"tint"`
	Surface int            `json:"surface"`
	Flow    int            `json:"flow"`
	Shadow  int            `json:"shadow"`
	Camera  map[string]int `json:"camera"`
}{matrixNumbers, tintNumbers, surfaceNumbers, flowNumbers, look.ShadowSize, map[string]int{
	"numbers": cameraFields, "target": 0, "orientation": orientationField, "distance": distanceField,
	"focalLength": focalLengthField, "step": stepField, "time": timeField, "field": fieldField,
	"orthographic": orthographicField,
}}

// State is what the page shows besides the picture.
type State struct {
	Reveal   *reveal.Reveal `json:"reveal,omitempty"`
	Schedule *film.Schedule `json:"schedule,omitempty"`
	// Bars are those that have moved, Steps what they are in, where nothing else has
	// changed; there is neither reveal nor schedule then.
	Bars  []Moved   `json:"bars,omitempty"`
	Steps []Changed `json:"steps,omitempty"`
	// Inverse undoes the command that led here.
	Inverse *edit.Command `json:"inverse,omitempty"`
	// Command is what was done altogether where that says more than what was asked for; Grown are the steps that have
	// become longer by it.
	Command *edit.Command `json:"command,omitempty"`
	Grown   []int         `json:"grown,omitempty"`
	// Dressed is set where another variant is shown than before.
	Dressed *Dressed `json:"dressed,omitempty"`
}

// Moved is a bar of the schedule that has changed.
type Moved struct {
	Index int      `json:"index"`
	Bar   film.Bar `json:"bar"`
}

// Changed is a step in which bars have moved.
type Changed struct {
	Index int         `json:"index"`
	Step  reveal.Step `json:"step"`
	Span  film.Span   `json:"span"`
}

var errClosed = errors.New("nothing is open")

// OpenAssembly lays a packed assembly (assembly.Pack) in the editor.
func (d *Editor) OpenAssembly(data []byte) error {
	a, err := assembly.Unpack(data)
	if err != nil {
		return err
	}
	index, err := a.CheckedIndex()
	if err != nil {
		return err
	}
	bounds := a.Bounds()
	d.Close() // the old one goes before the new one takes its room
	*d = Editor{
		product:  a,
		assembly: a,
		boxes:    a.BoundsOf(),
		index:    index,
		shadow:   look.NewShadow(bounds),
		Version:  d.Version,
	}
	d.Matrices = make([]float32, matrixNumbers*len(a.Nodes))
	d.Opacities = make([]float32, len(a.Nodes))
	d.Tints = make([]float32, tintNumbers*len(a.Nodes))
	d.Surfaces = make([]float32, surfaceNumbers*len(a.Nodes))
	d.dash = film.DashOf(bounds)
	return nil
}

// OpenSurvey lays what is known of the open assembly's parts, as JSON, beside it.
func (d *Editor) OpenSurvey(text []byte) error {
	if d.assembly == nil {
		return errClosed
	}
	s := &survey.Survey{}
	if err := json.Unmarshal(text, s); err != nil {
		return fmt.Errorf("reading the survey: %w", err)
	}
	if len(s.Shapes) != len(d.assembly.Shapes) {
		return errors.New("the survey is that of another assembly")
	}
	d.survey = s
	return nil
}

// OpenReveal lays a reveal, as JSON, in the editor.
func (d *Editor) OpenReveal(text []byte) (State, error) {
	if d.assembly == nil {
		return State{}, errClosed
	}
	r, err := reveal.Parse(text)
	if err != nil {
		return State{}, err
	}
	if err := reveal.Validate(r, d.product); err != nil {
		return State{}, err
	}
	d.reveal, d.undoPreview, d.shape = r, nil, 0
	own, err := variant.Find(d.product, r, "")
	if err != nil {
		return State{}, err
	}
	dressed := d.dress(own)
	d.compile()
	s := d.state()
	s.Dressed = dressed
	return s, nil
}

func (d *Editor) compile() {
	d.film = film.Compile(d.assembly, variant.Of(d.product, d.reveal, d.variant).Reveal)
	if d.shape > 0 {
		d.film = d.film.Shaped(d.shape, false)
	}
	d.frame, d.asked = d.film.NewFrame(), d.film.NewFrame()
}

// Shape lays the film out for frames of another shape, width over height, until the next reveal is opened; 0 is the
// reveal's own.
func (d *Editor) Shape(aspect float64) error {
	if d.film == nil {
		return errClosed
	}
	if aspect != 0 && !(aspect > 0.01 && aspect < 100) {
		return fmt.Errorf("%g is not a shape of a frame", aspect)
	}
	d.settle()
	d.shape = aspect
	d.compile()
	return nil
}

// Close takes everything out of the editor; it reports whether there was anything.
func (d *Editor) Close() bool {
	full := d.assembly != nil
	*d = Editor{Version: d.Version}
	return full
}

// evaluate works the film out for a question, without moving what is on the stage.
func (d *Editor) evaluate(t reveal.Micros) *film.Frame {
	d.film.At(t, d.asked)
	return d.asked
}

func (d *Editor) state() State { return State{Reveal: d.reveal, Schedule: &d.film.Schedule} }

// Apply changes the reveal. A preview is taken back first. Where only bars change
// their times it returns these and the steps that they are in.
func (d *Editor) Apply(command []byte) (State, error) {
	c, err := d.take(command)
	if err != nil {
		return State{}, err
	}
	s, err := d.apply(c)
	s.Command = nil // who asks has it
	return s, err
}

// take reads a command that changes the reveal as it is without a preview.
func (d *Editor) take(command []byte) (edit.Command, error) {
	if d.film == nil {
		return edit.Command{}, errClosed
	}
	if d.dragged != nil || d.undoPreview != nil {
		d.settle()
		d.compile()
	}
	return edit.Parse(command)
}

func (d *Editor) apply(c edit.Command) (State, error) {
	timed, timing := edit.Timing(d.reveal, c, nil)
	inverse, err := edit.DoNoting(d.reveal, d.product, &c)
	if err != nil {
		return State{}, err
	}
	var s State
	if !timing || !d.patch(timed, &s) {
		d.compile()
		s = d.state()
	}
	s.Inverse = &inverse
	if !timing {
		s.Command = &c
	}
	return s, nil
}

// patch moves the bars of cues whose times have changed in the document.
func (d *Editor) patch(timed []edit.Timed, s *State) bool {
	// twins have settings elsewhere; in other shapes cameras depend on the times
	if d.film.Reveal != d.reveal || d.shape > 0 {
		return false
	}
	touched := map[int]bool{}
	for _, t := range timed {
		changed, ok := d.film.Retime(t.Cue, t.Offset, t.Duration)
		if !ok {
			return false
		}
		for _, i := range changed {
			s.Bars = append(s.Bars, Moved{i, d.film.Schedule.Bars[i]})
		}
		step, _ := d.reveal.FindCue(t.Cue)
		touched[step] = true
	}
	for i := range d.reveal.Steps {
		if touched[i] {
			s.Steps = append(s.Steps, Changed{i, d.reveal.Steps[i], d.film.Schedule.Steps[i]})
		}
	}
	return true
}

// Preview shows the reveal as the command would make it, until the next Preview,
// Apply or Settle. Where only bars change their times, it says which, and the
// document stays as it is.
func (d *Editor) Preview(command []byte) (State, error) {
	if d.film == nil {
		return State{}, errClosed
	}
	c, err := edit.Parse(command)
	if err != nil {
		return State{}, err
	}
	if bars, ok := d.retime(c); ok {
		return State{Bars: bars}, nil
	}
	s, err := d.Apply(command)
	if err != nil {
		return s, err
	}
	d.undoPreview, s.Inverse = s.Inverse, nil
	return s, nil
}

// retime drags bars on the film alone, also out of their steps. It takes an earlier drag back first, when it
// was of other bars.
func (d *Editor) retime(c edit.Command) ([]Moved, bool) {
	if d.undoPreview != nil {
		return nil, false
	}
	timed, ok := edit.Timing(d.reveal, c, func(step int) reveal.Micros { return d.film.Schedule.Steps[step].Start })
	if !ok || d.dragged != nil && !sameCues(d.dragged, timed) {
		return nil, false
	}
	var bars []Moved
	for _, t := range timed {
		changed, ok := d.film.Retime(t.Cue, t.Offset, t.Duration)
		if !ok {
			d.compile()
			d.dragged = nil
			return nil, false
		}
		for _, i := range changed {
			bars = append(bars, Moved{i, d.film.Schedule.Bars[i]})
		}
	}
	d.dragged = timed
	return bars, true
}

func sameCues(a, b []edit.Timed) bool {
	return slices.EqualFunc(a, b, func(x, y edit.Timed) bool { return x.Cue == y.Cue })
}

// Settle takes a preview back.
func (d *Editor) Settle() (State, error) {
	if d.film == nil {
		return State{}, errClosed
	}
	d.settle()
	d.compile()
	return d.state(), nil
}

func (d *Editor) settle() {
	d.dragged = nil // the film is compiled anew
	if d.undoPreview == nil {
		return
	}
	if _, err := edit.Do(d.reveal, d.product, *d.undoPreview); err != nil {
		panic("editor: a preview cannot be taken back: " + err.Error())
	}
	d.undoPreview = nil
}

// ContactShadow fills and returns the contact shadow of the frame that was laid out last:
// a map as of look.Shadow, nil when nothing is open.
func (d *Editor) ContactShadow() []float32 {
	if d.shown == nil {
		return nil
	}
	if d.cast != d.Version {
		d.cast = d.Version
		d.shadow.Cast(d.assembly, d.shown)
	}
	return d.shadow.Dark
}

// Order puts nodes, by number, into the order in which an eye sees them as they stand in what was laid
// out last, the farthest first; false, and nothing changed, where one is not there.
func (d *Editor) Order(nodes []int32, eye look.Eye) bool {
	if d.shown == nil {
		return false
	}
	boxes := make([]look.Box, len(nodes))
	for k, i := range nodes {
		if i < 0 || int(i) >= len(d.boxes) {
			return false
		}
		boxes[k] = look.Box{Own: d.boxes[i], World: d.shown.World[i]}
	}
	before := slices.Clone(nodes)
	for k, i := range look.BackToFront(boxes, eye) {
		nodes[k] = before[i]
	}
	return true
}

// aspect is that of the frame that is shown, 16:9 where there is none.
func (d *Editor) aspect() float64 {
	if d.shape > 0 {
		return d.shape
	}
	if d.reveal == nil {
		return 16.0 / 9
	}
	return d.reveal.Frame.Aspect()
}

// Digest returns a hash of everything in the frame at t, to the bit.
func (d *Editor) Digest(t reveal.Micros) uint64 {
	return d.evaluate(t).Digest()
}
