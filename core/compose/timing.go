package compose

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"slowreveal/core/edit"
	"slowreveal/core/reveal"
)

// placed is a cue with the time at which its step begins, counted over all
// steps: cues of several steps are aligned as they lie on the timeline.
type placed struct {
	cue   reveal.Cue // with the settings that it shares
	begin reveal.Micros
}

func (p *placed) start() reveal.Micros { return p.begin + p.cue.Offset }
func (p *placed) end() reveal.Micros   { return p.begin + p.cue.End() }

func (c *composer) selected() ([]placed, error) {
	full := reveal.Resolved(c.r)
	var list []placed
	for _, id := range c.w.CueIDs {
		s, k := full.FindCue(id)
		if s < 0 {
			return nil, edit.ErrNoCue
		}
		begin := reveal.Micros(0)
		for i := range s {
			begin += full.Lasts(i)
		}
		list = append(list, placed{full.Steps[s].Cues[k], begin})
	}
	if len(list) < 2 {
		return nil, errors.New("select at least two cues")
	}
	slices.SortStableFunc(list, func(a, b placed) int { return int(a.start() - b.start()) })
	return list, nil
}

// cues arranges cues in time. A length that twins share changes once.
func (c *composer) cues() error {
	list, err := c.selected()
	if err != nil {
		return err
	}
	first, last, end := list[0].start(), list[0].start(), list[0].end()
	for i := range list {
		first, last, end = min(first, list[i].start()), max(last, list[i].start()), max(end, list[i].end())
	}
	if c.w.Do == ScaleTime && (!(c.w.Factor > 0) || c.w.Factor > 1000) {
		return fmt.Errorf("time cannot be stretched %g times", c.w.Factor)
	}
	scale := func(t reveal.Micros) reveal.Micros { return reveal.Micros(math.Round(float64(t) * c.w.Factor)) }
	w := works{c: c, changed: map[reveal.CueID]*reveal.Cue{}}
	scaled := map[reveal.CueID]bool{}
	for i := range list {
		p := &list[i]
		start := p.start()
		own := w.own(p.cue.ID)
		switch c.w.Do {
		case AlignStarts:
			start = first
		case AlignEnds:
			start = end - (p.end() - p.start())
		case Distribute:
			start = first + reveal.Micros(math.Round(float64(last-first)*float64(i)/float64(len(list)-1)))
		case SameLength:
			own.Duration = c.length(c.w.CueIDs[0])
		case ScaleTime:
			start = first + scale(start-first)
			if !scaled[own.ID] {
				own.Duration, own.Stagger = max(1, scale(own.Duration)), scale(own.Stagger)
				scaled[own.ID] = true
			}
		}
		if start < p.begin {
			return errors.New("a cue cannot begin before its step does: move it into an earlier step first")
		}
		w.cue(p.cue.ID).Offset = start - p.begin
	}
	w.finish()
	return nil
}

func (c *composer) length(id reveal.CueID) reveal.Micros {
	s, k := c.r.FindCue(id)
	return c.r.Original(&c.r.Steps[s].Cues[k]).Duration
}

// works collects changes of cues, so that each is set once.
type works struct {
	c       *composer
	changed map[reveal.CueID]*reveal.Cue
	order   []reveal.CueID
}

// cue returns a copy to change.
func (w *works) cue(id reveal.CueID) *reveal.Cue {
	if w.changed[id] == nil {
		s, k := w.c.r.FindCue(id)
		copied := w.c.r.Steps[s].Cues[k]
		w.changed[id] = &copied
		w.order = append(w.order, id)
	}
	return w.changed[id]
}

// own returns a copy of the cue that holds the settings.
func (w *works) own(id reveal.CueID) *reveal.Cue {
	s, k := w.c.r.FindCue(id)
	return w.cue(w.c.r.Original(&w.c.r.Steps[s].Cues[k]).ID)
}

func (w *works) finish() {
	for _, id := range w.order {
		now := w.changed[id]
		s, k := w.c.r.FindCue(id)
		if was := &w.c.r.Steps[s].Cues[k]; was.Offset != now.Offset || was.Duration != now.Duration ||
			was.Stagger != now.Stagger {
			w.c.add(edit.Command{Op: edit.SetCue, Cue: now})
		}
	}
}
