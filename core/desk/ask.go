package desk

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"strconv"

	"slowreveal/core/arrange"
	"slowreveal/core/assembly"
	"slowreveal/core/compose"
	"slowreveal/core/fastener"
	"slowreveal/core/film"
	"slowreveal/core/look"
	"slowreveal/core/measure"
	"slowreveal/core/reveal"
	"slowreveal/core/solid"
	"slowreveal/core/space"
	"slowreveal/core/survey"
)

// Question is what the page asks; which fields count depends on Ask.
type Question struct {
	Ask         string            `json:"ask"`
	Text        string            `json:"text,omitempty"`
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
	Features    []PlacedFeature   `json:"features,omitempty"`
	Node        assembly.NodeID   `json:"node,omitempty"`
	Lines       []solid.Feature   `json:"lines,omitempty"`
	Point       space.Triple      `json:"point,omitzero"`
	Camera      *reveal.Camera    `json:"camera,omitempty"`
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
	case "look":
		return look.Paper, nil
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
	case "edgeAt":
		return d.edgeAt(&q)
	case "reference":
		return d.reference(q.Features)
	case "pick":
		if d.survey == nil {
			return nil, errors.New("the parts are still being looked at")
		}
		return d.survey.Pick(d.assembly, q.Rule, q.Nodes)
	case "finishes":
		return arrange.Library, nil
	case "notes":
		if d.film == nil {
			return nil, errClosed
		}
		d.film.At(q.Time, d.frame)
		if q.Camera != nil {
			return d.film.NotesFor(d.frame, *q.Camera, d.aspect()), nil
		}
		return d.frame.Notes, nil
	case "cards":
		if d.film == nil {
			return nil, errClosed
		}
		d.film.At(q.Time, d.frame)
		return d.frame.Cards, nil
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
	case "dash":
		if d.assembly == nil {
			return nil, errClosed
		}
		return film.DashOf(d.assembly), nil
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

// between relates two features as their nodes stand in what was laid out last.
func (d *Desk) between(a, b PlacedFeature) (solid.Relation, error) {
	if d.shown == nil {
		d.AtRest()
	}
	var world [2]solid.Feature
	for k, f := range [2]PlacedFeature{a, b} {
		i, ok := d.index[f.Node]
		if !ok {
			return solid.Relation{}, fmt.Errorf("there is no node %q", f.Node)
		}
		world[k] = f.Feature.Moved(&d.shown.World[i])
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

// Reference is a feature as a movement uses it: in the axes of the whole assembly,
// and its direction in the world.
type Reference struct {
	Along space.Triple `json:"along"`
	Pivot space.Triple `json:"pivot"`
	World space.Triple `json:"world"`
}

// reference takes one feature as its node stands at the playhead.
func (d *Desk) reference(features []PlacedFeature) (Reference, error) {
	if d.shown == nil || len(features) != 1 {
		return Reference{}, errClosed
	}
	i, ok := d.index[features[0].Node]
	if !ok {
		return Reference{}, fmt.Errorf("there is no node %q", features[0].Node)
	}
	f := features[0].Feature.Moved(&d.shown.World[i])
	whole := d.shown.World[0].Inverse()
	return Reference{Along: space.TripleOf(whole.R.Apply(f.Axis.Vec())), Pivot: space.TripleOf(whole.Apply(f.Centre.Vec())), World: f.Axis}, nil
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
	if d.frame == nil {
		d.At(0)
	}
	var boxes []space.Box
	for _, id := range q.Nodes {
		if i, ok := d.index[id]; ok {
			boxes = append(boxes, d.boxes[i].Moved(&d.frame.World[i]))
		}
	}
	if len(boxes) == 0 {
		for i := range d.assembly.Nodes {
			if n := &d.assembly.Nodes[i]; n.IsPart() && d.frame.Opacity[i] > 0 {
				boxes = append(boxes, d.boxes[i].Moved(&d.frame.World[i]))
			}
		}
	}
	return film.Fit(reveal.Camera{Orientation: *q.Orientation, Lens: q.Lens, Parallel: q.Parallel}, q.Aspect, q.Margin, boxes)
}

// Way is a direction that is offered for a move.
type Way struct {
	Label string       `json:"label"`
	Axes  reveal.Axes  `json:"axes"`
	Along space.Triple `json:"along"`
	// World is the same direction in the world, at the playhead.
	World space.Triple `json:"world"`
}

// Ways is what is offered for the picked nodes: directions, and the point of
// their own frames about which a turn makes sense.
type Ways struct {
	Ways []Way `json:"ways"`
	// Centre is the middle of the picked parts at the playhead, in the world.
	Centre space.Triple `json:"centre"`
	// Pivot is the middle of the first node in its own frame, at rest.
	Pivot space.Triple `json:"pivot"`
	// Distance is a sensible length for a move, mm: about their size.
	Distance float64 `json:"distance"`
	// Thread is what an unscrew of the first node needs, where its shape seems
	// to be a screw or a nut.
	Thread *Thread `json:"thread,omitempty"`
}

// Thread is how a fastener comes out of its seat, in its own frame.
type Thread struct {
	Size  string       `json:"size"`
	Along space.Triple `json:"along"` // out of the seat
	Pivot space.Triple `json:"pivot"`
	Lead  float64      `json:"lead"`  // mm a turn
	Turns float64      `json:"turns"` // the length of the thread, whole turns
	Sure  float64      `json:"sure"`
}

func (d *Desk) thread(node int) *Thread {
	shape := d.assembly.Nodes[node].Shape
	if d.survey == nil || shape < 0 {
		return nil
	}
	g := d.survey.Shapes[shape].Fastener
	if g == nil || g.Lead == 0 {
		return nil
	}
	return &Thread{Size: g.Size, Along: g.Out, Pivot: g.Origin, Lead: g.Lead, Turns: max(1, math.Round(g.Length/g.Lead)), Sure: g.Sure}
}

func (d *Desk) ways(nodes []assembly.NodeID) (Ways, error) {
	var w Ways
	if d.assembly == nil {
		return w, errClosed
	}
	if d.frame == nil {
		d.At(0)
	}
	all, first := space.Nothing, -1
	for _, id := range nodes {
		if i, ok := d.index[id]; ok {
			all = all.Union(d.boxes[i].Moved(&d.frame.World[i]))
			if first < 0 {
				first = i
			}
		}
	}
	if first < 0 {
		return w, nil
	}
	size := all.Size()
	w.Centre = space.TripleOf(all.Centre())
	w.Distance = math.Max(5, math.Round(max(size.X, size.Y, size.Z)/5)*5)
	w.Pivot = space.TripleOf(d.boxes[first].Centre())
	w.Thread = d.thread(first)
	names := [3]string{"X", "Y", "Z"}
	for _, axes := range []reveal.Axes{reveal.Own, reveal.Parent, reveal.Whole} {
		frame := &d.frame.World[first].R
		switch p := d.assembly.Nodes[first].Parent; {
		case axes == reveal.Parent && p >= 0:
			frame = &d.frame.World[p].R
		case axes == reveal.Whole:
			frame = &d.frame.World[0].R
		}
		for k := range 3 {
			for _, sign := range []float64{1, -1} {
				var along space.Triple
				along[k] = sign
				label := "+" + names[k]
				if sign < 0 {
					label = "−" + names[k]
				}
				w.Ways = append(w.Ways, Way{label, axes, along, space.TripleOf(frame.Apply(along.Vec()))})
			}
		}
	}
	return w, nil
}
