package plan

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// unscrewed turns what goes along its first leg out of its thread, which takes some of that leg.
func (w *writer) unscrewed(t *Thread, of *reveal.Cue, first *reveal.Leg) reveal.Cue {
	advance := min(t.Turns*t.Lead, 0.9*first.Distance)
	first.Distance -= advance
	return w.cue(
		reveal.Cue{
			Kind:     reveal.KindUnscrew,
			Targets:  of.Targets,
			Offset:   of.Offset,
			Duration: w.time(1.6),
			Stagger:  of.Stagger,
			Easing:   reveal.In,
			Unscrew: &reveal.Unscrew{
				Axes:  reveal.OwnAxes,
				Along: t.Along.Rounded(1e4),
				Pivot: t.Pivot,
				Turns: advance / t.Lead,
				Lead:  t.Lead,
			},
		},
	)
}

// swung turns what a cue is of, after legs that it has gone before.
func (w *writer) swung(s *Swing, of reveal.Cue, before []reveal.Leg) reveal.Cue {
	pivot := r3.Add(s.Pivot.Vec(), w.rest[0].R.ApplyInverse(w.moved[w.index[of.Targets[0]]]))
	for _, l := range before {
		pivot = r3.Add(pivot, r3.Scale(l.Distance, l.Along.Vec()))
	}
	of.Kind, of.Duration = reveal.KindTurn, w.time(1.2)
	of.Turn = &reveal.Turn{
		Axes:    reveal.AssemblyAxes,
		About:   s.About.Rounded(1e4),
		Pivot:   space.Vec3Of(pivot),
		Degrees: s.Degrees,
	}
	return w.cue(of)
}

// calm is how long something takes at least to cross the height of the frame, s, so that even where it is fastest it
// takes more than a second for as far.
const calm = 2.0

// led leads what a cue is of along legs.
func (w *writer) led(c reveal.Cue, axes reveal.Axes, legs []reveal.Leg) reveal.Cue {
	far := 0.0
	for _, l := range legs {
		far += math.Abs(l.Distance)
	}
	heights := far / w.frameHeight(c.Targets[0], axes, legs)
	c.Duration = w.time(max(0.9, min(2.2, 0.8+1.2*far/w.size), min(6, calm*heights)))
	if !w.w.NoFlow && len(c.Targets) <= 12 {
		c.Flow = &reveal.FlowLine{Of: reveal.FlowEach}
	}
	if len(legs) > 1 {
		c.Duration += w.time(0.6)
	}
	goes(&c, axes, legs)
	return w.cue(c)
}

// frameHeight is how high the frame is, mm, where a node that is led along legs comes nearest to the camera.
func (w *writer) frameHeight(id assembly.NodeID, axes reveal.Axes, legs []reveal.Leg) float64 {
	n := w.index[id]
	turn := &w.rest[0].R
	if axes == reveal.OwnAxes {
		turn = &w.rest[n].R
	}
	eye := film.Eye(w.camera)
	box := w.boxes[n].Moved(&w.rest[n])
	at := r3.Add(box.Centre(), w.moved[n])
	near := math.Inf(1)
	for i := -1; i < len(legs); i++ {
		if i >= 0 {
			at = r3.Add(at, r3.Scale(legs[i].Distance, turn.Apply(legs[i].Along.Vec())))
		}
		near = min(near, -r3.Dot(r3.Sub(at, eye.T), eye.R.Column(2)))
	}
	if w.camera.Orthographic {
		near = w.camera.Distance
	}
	_, up := film.Field(w.camera.FocalLength, w.aspect)
	return max(2*up*near, w.size/50)
}

// goes makes a cue a pull along a leg, or a route along several.
func goes(c *reveal.Cue, axes reveal.Axes, legs []reveal.Leg) {
	if len(legs) > 1 {
		c.Kind, c.Route = reveal.KindRoute, &reveal.Route{Axes: axes, Legs: legs}
		return
	}
	c.Kind = reveal.KindPull
	c.Pull = &reveal.Pull{Axes: axes, Along: legs[0].Along, Distance: round(legs[0].Distance)}
}

func round(mm float64) float64 { return math.Round(mm*10) / 10 }
