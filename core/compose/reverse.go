package compose

import (
	"errors"
	"fmt"
	"slices"

	"slowreveal/core/assembly"
	"slowreveal/core/edit"
	"slowreveal/core/reveal"
)

// history knows what looks and cameras were before a cue of a reveal changed them.
type history struct {
	r     *reveal.Reveal // with the settings of twins filled in
	order []placed       // all cues that are on, by their start
}

func newHistory(r *reveal.Reveal) *history {
	h := &history{r: reveal.Resolved(r)}
	begin := reveal.Micros(0)
	for i := range h.r.Steps {
		for _, cue := range h.r.Steps[i].Cues {
			if !cue.Muted && !h.r.Steps[i].Muted {
				h.order = append(h.order, placed{cue, begin})
			}
		}
		begin += h.r.Lasts(i)
	}
	slices.SortStableFunc(h.order, func(a, b placed) int { return int(a.start() - b.start()) })
	return h
}

// before calls found with the cues of a kind on a target (any, for "") that come
// before one, the last first, until it says that it has seen enough.
func (h *history) before(cue *reveal.Cue, target assembly.NodeID, found func(*reveal.Cue) bool) {
	at := slices.IndexFunc(h.order, func(p placed) bool { return p.cue.ID == cue.ID })
	for i := at - 1; i >= 0; i-- {
		c := &h.order[i].cue
		if c.Kind == cue.Kind && (target == "" || slices.Contains(c.Targets, target)) && found(c) {
			return
		}
	}
}

// taken returns the cue that takes back what a cue did: the same way backwards, and
// looks and cameras to what they were.
func (h *history) taken(cue reveal.Cue) reveal.Cue {
	c := cue
	c.Twin, c.Flow = "", nil
	c.Targets = slices.Clone(cue.Targets)
	slices.Reverse(c.Targets) // staggered ones come back the last first
	c.Easing = mirrored(cue.Easing)
	switch settings := cue.Settings().(type) {
	case reveal.Movement:
		c.SetSettings(settings.TurnedRound())
	case reveal.Look:
		h.takeLook(&c, settings, &cue)
	default: // words are shown again
		if c.Kind.Camera() {
			h.takeCamera(&c, &cue)
		}
	}
	return c
}

// mirrored is the easing seen backwards: what gathered speed comes to rest.
func mirrored(e reveal.Easing) reveal.Easing {
	switch e {
	case reveal.In:
		return reveal.Out
	case reveal.Out:
		return reveal.In
	case reveal.Linear, reveal.Smooth:
		return e
	}
	p := e.Points()
	return reveal.Easing{Bezier: [4]float64{1 - p[2], 1 - p[3], 1 - p[0], 1 - p[1]}}
}

// turnRound lets movements run the other way, in their own time: a pull with what goes aside, a route leg
// by leg from its other end.
func (c *composer) turnRound() error {
	turned := map[reveal.CueID]bool{}
	for _, id := range c.w.CueIDs {
		s, k := c.r.FindCue(id)
		if s < 0 {
			return edit.ErrNoCue
		}
		own := c.r.Original(&c.r.Steps[s].Cues[k])
		if own == nil || !own.Kind.Moves() || turned[own.ID] {
			continue
		}
		turned[own.ID] = true
		cue := *own
		cue.SetSettings(cue.Settings().(reveal.Movement).TurnedRound())
		c.add(edit.Command{Op: edit.SetCue, Cue: &cue})
	}
	if len(turned) == 0 {
		return errors.New("only pulls, routes, turns and unscrewing can be turned round: select one of them")
	}
	return nil
}

// takeLook gives a change of looks the settings that were there before it.
func (h *history) takeLook(c *reveal.Cue, look reveal.Look, of *reveal.Cue) {
	target := of.Targets[0]
	c.SetSettings(look.AtOpening(&h.r.Opening, target))
	h.before(of, target, func(b *reveal.Cue) bool {
		before := b.Clone()
		c.SetSettings(before.Settings())
		return true
	})
}

func (h *history) takeCamera(c, of *reveal.Cue) {
	if of.Orbit != nil {
		c.Orbit = &reveal.Orbit{About: of.Orbit.About, Degrees: -of.Orbit.Degrees}
		return
	}
	shot := reveal.Shot{Camera: h.r.Opening.Camera, Straight: of.Shot.Straight, ConstantSpeed: of.Shot.ConstantSpeed}
	shot.Via = slices.Clone(of.Shot.Via)
	slices.Reverse(shot.Via)
	h.before(of, "", func(b *reveal.Cue) bool {
		shot.Name, shot.Camera, shot.Follow, shot.Shapes = b.Shot.Name, b.Shot.Camera, b.Shot.Follow, slices.Clone(
			b.Shot.Shapes,
		)
		return true
	})
	c.Shot = &shot
}

// pasteBack adds copies that take back what cues did, in a time that mirrors
// theirs.
func (c *composer) pasteBack() error {
	i, at, err := c.here()
	if err != nil {
		return err
	}
	if len(c.w.CueIDs) == 0 {
		return errors.New("copy the cues first that are to be run backwards")
	}
	h := newHistory(c.r)
	var cues []placed
	last := reveal.Micros(0)
	for _, id := range c.w.CueIDs {
		k := slices.IndexFunc(h.order, func(p placed) bool { return p.cue.ID == id })
		if k < 0 {
			return fmt.Errorf("the cue %q is gone or switched off", id)
		}
		if h.order[k].cue.Kind == reveal.KindNote {
			continue // it says something of the way out
		}
		cues = append(cues, h.order[k])
		last = max(last, h.order[k].end())
	}
	if len(cues) == 0 {
		return errors.New("notes are not run backwards")
	}
	// The last comes back first, so that movements are undone in their order.
	slices.SortStableFunc(cues, func(a, b placed) int { return int(b.end() - a.end()) })
	for n := range cues {
		back := h.taken(cues[n].cue)
		back.Offset = at + last - cues[n].end()
		c.insertCue(c.r.Steps[i].ID, len(c.r.Steps[i].Cues)+n, back)
	}
	return nil
}

// Forwards returns the reveal without the steps that run others backwards.
func Forwards(r *reveal.Reveal) *reveal.Reveal {
	out := reveal.Clone(r)
	out.Steps = slices.DeleteFunc(out.Steps, func(s reveal.Step) bool { return s.Retrace != nil })
	return out
}

// Reversed returns a reveal that shows another one backwards: a teardown as
// assembly. opening is how the other one ends. Steps that run others backwards,
// those that are switched off, and notes are left out.
func Reversed(r *reveal.Reveal, opening reveal.Opening) *reveal.Reveal {
	h := newHistory(r)
	out := reveal.Clone(r)
	out.Opening, out.Steps = opening, []reveal.Step{}
	forward, total := h.forwards()
	extra := reveal.Micros(0) // what the last cues take beyond the end
	for i := range forward {
		extra = max(extra, forward[i].end()-total)
	}
	begins, at := []reveal.Micros{}, reveal.Micros(0)
	for i := len(h.r.Steps) - 1; i >= 0; i-- {
		if s := h.r.Steps[i]; !s.Muted && s.Retrace == nil {
			s.Cues, s.Markers = nil, nil
			if len(out.Steps) == 0 {
				s.Duration += extra
			}
			out.Steps = append(out.Steps, s)
			begins = append(begins, at)
			at += s.Duration
		}
	}
	for i := len(forward) - 1; i >= 0; i-- {
		p := &forward[i]
		if p.cue.Kind == reveal.KindNote {
			continue
		}
		start := total + extra - p.end()
		k := len(begins) - 1
		for k > 0 && begins[k] > start {
			k--
		}
		back := h.taken(p.cue)
		back.Offset = start - begins[k]
		out.Steps[k].Cues = append(out.Steps[k].Cues, back)
	}
	return out
}

// forwards lists the cues of the steps that run forwards by their end, on a time
// that counts these steps alone, and how long that is.
func (h *history) forwards() (list []placed, total reveal.Micros) {
	for i := range h.r.Steps {
		s := &h.r.Steps[i]
		if s.Muted || s.Retrace != nil {
			continue
		}
		for _, cue := range s.Cues {
			if !cue.Muted {
				list = append(list, placed{cue, total})
			}
		}
		total += s.Duration
	}
	slices.SortStableFunc(list, func(a, b placed) int { return int(a.end() - b.end()) })
	return list, total
}
