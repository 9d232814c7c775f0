package editor

import (
	"errors"
	"fmt"
	"slices"

	"slowreveal/core/assembly"
	"slowreveal/core/compose"
	"slowreveal/core/film"
	"slowreveal/core/look"
	"slowreveal/core/quantity"
	"slowreveal/core/reveal"
	"slowreveal/core/solid"
	"slowreveal/core/space"
	"slowreveal/core/survey"
	"slowreveal/core/timecode"
)

// Queries is all that a page can ask; its TypeScript is made from it (make generate).
var Queries = slices.Concat(playing, authoring)

// playing are the queries of a page that only shows: those of the client page, whose core is built without the others
// (tag player).
var playing = []Query{
	query("prose", func(_ *Editor, q Text) ([]reveal.Block, error) { return reveal.Prose(q.Text), nil }),
	query("field", func(_ *Editor, q Lens) ([2]float64, error) {
		across, up := film.Field(q.FocalLength, q.Aspect)
		return [2]float64{across, up}, nil
	}),
	query("strips", func(_ *Editor, q Screen) (Strips, error) {
		edge, contour := look.Default.Widths(q.Lines, q.Ratio)
		return Strips{edge, contour, look.Default.Pull(q.Lines)}, nil
	}),
	constant("look", look.Default),
	constant("noise", look.NoiseBytes()),
	constant("lettering", look.Words),
	constant("signals", look.Signals),
	constant("views", film.Views()),
	ofAssembly("bounds", (*Editor).bounds),
	ofAssembly("fit", func(d *Editor, q Framed) (reveal.Camera, error) {
		return d.subject().Fit(q.Nodes, q.From, q.Aspect, q.Margin)
	}),
	ofAssembly("joints", (*Editor).joints),
	ofAssembly("shadow", func(d *Editor, _ nothing) (look.Floor, error) { return d.shadow.Floor(), nil }),
	ofFilm("timecode", func(d *Editor, q Moment) (string, error) {
		return timecode.Clock(q.Time, d.reveal.Frame.Rate), nil
	}),
	ofFilm("notes", func(d *Editor, q Noted) ([]film.Note, error) {
		fr := d.evaluate(q.Time)
		if q.Camera != nil {
			return d.film.NotesFor(fr, *q.Camera, d.aspect()), nil
		}
		return fr.Notes, nil
	}),
}

// Typed is what somebody has typed as a quantity; Values are those that it changes.
type Typed struct {
	Kind   quantity.Kind `json:"kind"`
	Text   string        `json:"text"`
	Values []float64     `json:"values,omitempty"`
}

// Text is words of a reveal.
type Text struct {
	Text string `json:"text"`
}

// Eased is an easing.
type Eased struct {
	Easing reveal.Easing `json:"easing"`
}

// Lens is a focal length, mm, and the shape of the frame.
type Lens struct {
	FocalLength float64 `json:"focalLength"`
	Aspect      float64 `json:"aspect"`
}

// Screen is a picture of so many lines, of which so many make up a pixel of the screen.
type Screen struct {
	Lines float64 `json:"lines"`
	Ratio float64 `json:"ratio"`
}

// Strips are the widths of inner lines and of contours, in pixels, and the share of their distance by which they are
// moved towards the eye.
type Strips struct {
	Edge    float64 `json:"edge"`
	Contour float64 `json:"contour"`
	Pull    float64 `json:"pull"`
}

// Counted is a length of time, and frames a second.
type Counted struct {
	Time reveal.Micros `json:"time"`
	Rate int           `json:"rate"`
}

// Moment is a time of the film.
type Moment struct {
	Time reveal.Micros `json:"time"`
}

// Stepped is a time of the film, and how many frames later or earlier another one is.
type Stepped struct {
	Time   reveal.Micros `json:"time"`
	Frames int           `json:"frames"`
}

// Noted is a time of the film, and the camera that notes are set for: the film's when left out.
type Noted struct {
	Time   reveal.Micros  `json:"time"`
	Camera *reveal.Camera `json:"camera,omitempty"`
}

// Picked are nodes.
type Picked struct {
	Nodes []assembly.NodeID `json:"nodes"`
}

// PickRule is how nodes are found from others.
type PickBy struct {
	Rule  survey.Rule       `json:"rule"`
	Nodes []assembly.NodeID `json:"nodes"`
}

// Referred is what a movement of nodes is to go along.
type Referred struct {
	By    compose.Placed    `json:"by"`
	Nodes []assembly.NodeID `json:"nodes"`
}

// Pair is two features that are related to each other.
type Pair struct {
	A compose.Placed `json:"a"`
	B compose.Placed `json:"b"`
}

// Framed is what is to be framed: nodes, or all that shows without any, from where a camera looks.
type Framed struct {
	Nodes  []assembly.NodeID `json:"nodes"`
	From   reveal.Camera     `json:"from"`
	Aspect float64           `json:"aspect"`
	// Margin is the share of the frame that stays free.
	Margin float64 `json:"margin"`
}

// NearEdge asks which of a node's straight edges lies within a distance, mm, of a point of the world.
type NearEdge struct {
	Node     assembly.NodeID `json:"node"`
	Lines    []solid.Feature `json:"lines"`
	Point    space.Vec3      `json:"point"`
	Distance float64         `json:"distance"`
}

// OfCue is a cue.
type OfCue struct {
	Cue reveal.CueID `json:"cue"`
}

// Said is whose step's words are seen, −1 for none, and how strongly.
type Said struct {
	Step    int     `json:"step"`
	Opacity float64 `json:"opacity"`
}

// Place is where in the script a time lies.
type Place struct {
	Step   int           `json:"step"`   // index of the step that runs, −1 without one
	Offset reveal.Micros `json:"offset"` // time since it began
}

// subject is what operations are done on: what is open, as it stands on the stage.
func (d *Editor) subject() *compose.Subject {
	return &compose.Subject{
		Reveal: d.reveal, Assembly: d.assembly, Film: d.film, Frame: d.seen(),
		Index: d.index, Boxes: d.boxes, Survey: d.survey,
	}
}

// seen is what is on the stage; before anything is, the assembly at rest.
func (d *Editor) seen() *film.Frame {
	if d.shown == nil {
		return d.rest()
	}
	return d.shown
}

// bounds are the lowest and the highest corner of the assembly at rest.
func (d *Editor) bounds(nothing) ([2]space.Vec3, error) {
	b := d.assembly.Bounds()
	return [2]space.Vec3{space.Vec3Of(b.Min), space.Vec3Of(b.Max)}, nil
}

func (d *Editor) pick(q PickBy) ([]assembly.NodeID, error) {
	if d.survey == nil {
		return nil, errors.New("the parts are still being looked at")
	}
	return d.survey.Pick(d.assembly, q.Rule, q.Nodes)
}

// between relates two features as their nodes stand on the stage.
func (d *Editor) between(a, b compose.Placed) (solid.Relation, error) {
	fr := d.seen()
	var world [2]solid.Feature
	for k, f := range [2]compose.Placed{a, b} {
		i, ok := d.index[f.Node]
		if !ok {
			return solid.Relation{}, fmt.Errorf("there is no node %q", f.Node)
		}
		world[k] = f.Feature.Moved(&fr.World[i])
	}
	return solid.Between(world[0], world[1]), nil
}

// edgeAt is −1 where no edge is near.
func (d *Editor) edgeAt(q NearEdge) (int, error) {
	i, ok := d.index[q.Node]
	if !ok || d.shown == nil {
		return -1, errClosed
	}
	inverse := d.shown.World[i].Inverse()
	return solid.LineAt(q.Lines, inverse.Apply(q.Point.Vec()), q.Distance), nil
}

func (d *Editor) place(t reveal.Micros) Place {
	step, offset := d.film.Schedule.Place(t)
	return Place{step, offset}
}

// threadGuessed reports whether a cue unscrews by a guess: nothing is known of a thread of its part.
func (d *Editor) threadGuessed(q OfCue) (bool, error) {
	i, k := d.reveal.FindCue(q.Cue)
	if i < 0 {
		return false, nil
	}
	cue := d.reveal.Steps[i].Cues[k]
	u := d.reveal.Original(&cue).Unscrew
	if u == nil || u.Turns != compose.UnknownTurns || u.Lead != compose.UnknownLead || len(cue.Targets) == 0 {
		return false, nil
	}
	ways, err := d.subject().Ways(cue.Targets)
	return ways.Thread == nil, err
}
