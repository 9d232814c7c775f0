package plan

import (
	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// AllAtOnce says how everything is taken apart in one step.
type AllAtOnce string

// The ways of taking everything apart in one step.
const (
	StepByStep AllAtOnce = ""
	Together   AllAtOnce = "together"
	Layers     AllAtOnce = "layers"
)

// atOnce is a step in which all goes along its way at the same time or layer by layer, a pause, and the way back.
func atOnce(
	p *Plan,
	a *assembly.Assembly,
	doc *reveal.Reveal,
	world []space.Rigid,
	camera reveal.Camera,
	w Writing,
) []reveal.Step {
	wr := newWriter(p, a, world, w)
	length := w.Duration
	if length <= 0 {
		length = 4 * reveal.Second
	}
	step := reveal.Step{ID: reveal.StepID(w.Fresh + "-apart"), Title: "All parts", Duration: length + 2*reveal.Second}
	n := reveal.Micros(max(len(p.Moves), 1))
	for i := range p.Moves {
		at, lasts := reveal.Micros(0), length
		if w.AllAtOnce == Layers {
			lasts = max(2*length/(n+1), reveal.MinCueDuration)
			at = (length - lasts) * reveal.Micros(i) / max(n-1, 1)
		}
		for _, r := range wr.runs(&p.Moves[i]) {
			step.Cues = append(step.Cues, wr.within(&p.Moves[i], r, at, lasts)...)
		}
	}
	if c, err := film.Fit(camera, doc.Frame.Aspect(), 0.12, wr.outcome()); err == nil && !w.NoShots {
		step.Cues = append(
			step.Cues,
			wr.cue(
				reveal.Cue{
					Kind:     reveal.KindShot,
					Duration: length,
					Easing:   reveal.Smooth,
					Shot:     &reveal.Shot{Name: "All parts", Camera: c},
				},
			),
		)
	}
	back := reveal.Step{
		ID:       reveal.StepID(w.Fresh + "-back"),
		Title:    "And back",
		Duration: length,
		Retrace:  &reveal.Retrace{Steps: []reveal.StepID{step.ID}, KeepCamera: true},
	}
	return []reveal.Step{step, back}
}

// within are the cues that lead nodes of a move along its way in a time, µs. What is turned is turned as in the steps:
// one after the other. What has been taken along goes without its turn, as where that is about has not come to rest.
func (w *writer) within(m *Move, r run, at, lasts reveal.Micros) (list []reveal.Cue) {
	add := func(c reveal.Cue, share reveal.Micros) {
		c.Offset, c.Duration = at, max(lasts*share/4, reveal.MinCueDuration)
		at += c.Duration
		list = append(list, w.cue(c))
	}
	led := func(legs []reveal.Leg) reveal.Cue {
		c := reveal.Cue{Targets: r.nodes, Easing: reveal.Smooth}
		goes(&c, r.axes, legs)
		return c
	}
	switch {
	case m.Swing == nil || m.Carried >= 0:
		add(led(r.legs), 4)
	case m.Swing.After == 0:
		add(w.swung(m.Swing, reveal.Cue{Targets: r.nodes, Easing: reveal.Smooth}, nil), 1)
		add(led(r.legs), 3)
	default:
		before := r.legs[:m.Swing.After]
		add(led(before), 1)
		add(w.swung(m.Swing, reveal.Cue{Targets: r.nodes, Easing: reveal.Smooth}, before), 1)
		add(led(r.legs[m.Swing.After:]), 2)
	}
	return list
}

// outcome is where all parts stand in the end.
func (w *writer) outcome() (boxes []space.Box) {
	for i := range w.p.Moves {
		w.carry(&w.p.Moves[i])
	}
	for i := range w.a.Nodes {
		if w.a.Nodes[i].IsPart() {
			boxes = append(boxes, w.boxes[i].Moved(&w.rest[i]).Shifted(w.moved[i]))
		}
	}
	return boxes
}
