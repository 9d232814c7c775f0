package desk

import (
	"encoding/json"
	"errors"
	"fmt"
	"strconv"

	"slowreveal/core/arrange"
	"slowreveal/core/assembly"
	"slowreveal/core/compose"
	"slowreveal/core/fastener"
	"slowreveal/core/film"
	"slowreveal/core/look"
	"slowreveal/core/measure"
	"slowreveal/core/plan"
	"slowreveal/core/reveal"
	"slowreveal/core/solid"
	"slowreveal/core/space"
	"slowreveal/core/survey"
)

// Question is what the page asks; which fields count depends on Ask.
type Question struct {
	Ask         string            `json:"ask"`
	Text        string            `json:"text,omitempty"`
	Values      []float64         `json:"values,omitempty"`
	Quantity    measure.Quantity  `json:"quantity,omitempty"`
	Nodes       []assembly.NodeID `json:"nodes,omitempty"`
	Orientation *space.Quat       `json:"orientation,omitempty"`
	Lens        float64           `json:"lens,omitempty"`
	Parallel    bool              `json:"parallel,omitempty"`
	Aspect      float64           `json:"aspect,omitempty"`
	Margin      float64           `json:"margin,omitempty"`
	Time        reveal.Micros     `json:"time,omitempty"`
	Rate        int               `json:"rate,omitempty"`
	Rule        survey.Rule       `json:"rule,omitempty"`
	Easing      reveal.Easing     `json:"easing,omitzero"`
	Wish        *compose.Wish     `json:"wish,omitempty"`
	Along       space.Triple      `json:"along,omitzero"`
	Distance    float64           `json:"distance,omitempty"`
	Peel        bool              `json:"peel,omitempty"`
	Gap         bool              `json:"gap,omitempty"`
	Features    []PlacedFeature   `json:"features,omitempty"`
	Node        assembly.NodeID   `json:"node,omitempty"`
	Lines       []solid.Feature   `json:"lines,omitempty"`
	Point       space.Triple      `json:"point,omitzero"`
	Cue         reveal.CueID      `json:"cue,omitempty"`
	Ray         [2]space.Triple   `json:"ray,omitzero"` // origin and direction
	Camera      *reveal.Camera    `json:"camera,omitempty"`
	Plan        *plan.Plan        `json:"plan,omitempty"`
	Writing     plan.Writing      `json:"writing,omitzero"`
}

// Ask answers a question, both as JSON.
func (d *Desk) Ask(question []byte) (any, error) {
	var q Question
	if err := json.Unmarshal(question, &q); err != nil {
		return nil, fmt.Errorf("the question is not understood: %w", err)
	}
	switch q.Ask {
	case "measure":
		return measure.Parse(q.Quantity, q.Text)
	case "adjust":
		return measure.Adjust(q.Quantity, q.Text, q.Values)
	case "look":
		return look.Paper, nil
	case "noise":
		return look.NoiseBytes(), nil
	case "prose":
		return reveal.Prose(q.Text), nil
	case "signals":
		return look.Signals, nil
	case "caption":
		if d.film == nil {
			return nil, errClosed
		}
		step, opacity := d.film.Caption(q.Time)
		return Said{step, opacity}, nil
	case "plain":
		return reveal.PlainProse(q.Text), nil
	case "lettering":
		return look.Words, nil
	case "views":
		return film.Views(), nil
	case "fit":
		return d.fit(&q)
	case "digest":
		if d.film == nil {
			return nil, errClosed
		}
		return strconv.FormatUint(d.Digest(q.Time), 16), nil
	case "field":
		across, up := film.Field(q.Lens, q.Aspect)
		return [2]float64{across, up}, nil
	case "snap":
		if d.film == nil {
			return nil, errClosed
		}
		return film.Snap(q.Time, d.reveal.Frame.Rate), nil
	case "bounds":
		if d.assembly == nil {
			return nil, errClosed
		}
		b := d.assembly.Bounds()
		return [2]space.Triple{space.TripleOf(b.Min), space.TripleOf(b.Max)}, nil
	case "timecode":
		if d.film == nil {
			return nil, errClosed
		}
		return film.Timecode(q.Time, d.reveal.Frame.Rate), nil
	case "ways":
		return d.ways(q.Nodes)
	case "between":
		if d.assembly == nil || len(q.Features) != 2 {
			return nil, errClosed
		}
		return d.between(q.Features[0], q.Features[1])
	case "reach":
		if d.film == nil {
			return nil, errClosed
		}
		return d.reach(&q), nil
	case "drag":
		return drag(&q)
	case "edgeAt":
		return d.edgeAt(&q)
	case "reference":
		return d.reference(q.Features, q.Nodes)
	case "pick":
		if d.survey == nil {
			return nil, errors.New("the parts are still being looked at")
		}
		return d.survey.Pick(d.assembly, q.Rule, q.Nodes)
	case "planned":
		return d.planned(&q)
	case "finishes":
		return arrange.Library, nil
	case "notes":
		if d.film == nil {
			return nil, errClosed
		}
		fr := d.evaluate(q.Time)
		if q.Camera != nil {
			return d.film.NotesFor(fr, *q.Camera, d.aspect()), nil
		}
		return fr.Notes, nil
	case "cards":
		if d.film == nil {
			return nil, errClosed
		}
		return d.evaluate(q.Time).Cards, nil
	case "openHere":
		if d.film == nil {
			return nil, errClosed
		}
		return d.openHere(q.Time), nil
	case "captions":
		if d.reveal == nil {
			return nil, errClosed
		}
		return d.reveal.CaptionStyle(), nil
	case "spread":
		return d.spread(&q)
	case "compose":
		if d.reveal == nil || q.Wish == nil {
			return nil, errClosed
		}
		return compose.Command(d.reveal, *q.Wish)
	case "easing":
		return q.Easing.Points(), nil
	case "threads":
		return fastener.Coarse, nil
	case "place":
		if d.film == nil {
			return nil, errClosed
		}
		return d.place(q.Time), nil
	case "frames":
		return film.FrameCount(q.Time, q.Rate), nil
	case "shadow":
		if d.shadow == nil {
			return nil, errClosed
		}
		return d.shadow.Ground(), nil
	}
	return nil, fmt.Errorf("the question %q is not known", q.Ask)
}

// PlacedFeature is a feature of a node's shape, in its own frame.
type PlacedFeature struct {
	Node    assembly.NodeID `json:"node"`
	Feature solid.Feature   `json:"feature"`
}

// seen is what is on the stage; before anything is, the assembly at rest.
func (d *Desk) seen() *film.Frame {
	if d.shown == nil {
		return d.rest()
	}
	return d.shown
}

// between relates two features as their nodes stand in what was laid out last.
func (d *Desk) between(a, b PlacedFeature) (solid.Relation, error) {
	fr := d.seen()
	var world [2]solid.Feature
	for k, f := range [2]PlacedFeature{a, b} {
		i, ok := d.index[f.Node]
		if !ok {
			return solid.Relation{}, fmt.Errorf("there is no node %q", f.Node)
		}
		world[k] = f.Feature.Moved(&fr.World[i])
	}
	return solid.Between(world[0], world[1]), nil
}

// edgeAt returns which of a node's straight edges lies within a distance of a
// point of the world, −1 for none.
func (d *Desk) edgeAt(q *Question) (int, error) {
	i, ok := d.index[q.Node]
	if !ok || d.shown == nil {
		return -1, errClosed
	}
	inverse := d.shown.World[i].Inverse()
	return solid.LineAt(q.Lines, inverse.Apply(q.Point.Vec()), q.Distance), nil
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

func (d *Desk) place(t reveal.Micros) Place {
	p := Place{Step: d.film.Schedule.StepAt(t)}
	if p.Step >= 0 {
		p.Offset = t - d.film.Schedule.Steps[p.Step].Start
	}
	return p
}

// fit frames nodes as they stand at the playhead, or all parts that show.
func (d *Desk) fit(q *Question) (reveal.Camera, error) {
	if d.assembly == nil || q.Orientation == nil {
		return reveal.Camera{}, errClosed
	}
	fr := d.seen()
	var boxes []space.Box
	for _, id := range q.Nodes {
		if i, ok := d.index[id]; ok {
			boxes = append(boxes, d.boxes[i].Moved(&fr.World[i]))
		}
	}
	if len(boxes) == 0 {
		for i := range d.assembly.Nodes {
			if n := &d.assembly.Nodes[i]; n.IsPart() && fr.Opacity[i] > 0 {
				boxes = append(boxes, d.boxes[i].Moved(&fr.World[i]))
			}
		}
	}
	return film.Fit(
		reveal.Camera{Orientation: *q.Orientation, Lens: q.Lens, Parallel: q.Parallel},
		q.Aspect,
		q.Margin,
		boxes,
	)
}
