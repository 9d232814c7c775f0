package compose

import (
	"fmt"
	"maps"
	"slices"

	"slowreveal/core/edit"
	"slowreveal/core/reveal"
)

// laid is a cue as it lies on the film's time.
type laid struct {
	cue  *reveal.Cue
	step int
}

func (c *composer) shiftBy() error { return c.shift(c.w.By) }

// shift moves cues in time, all of them equally far, but none before the film begins. What leaves the
// time of its step goes into the step that runs then; behind the end that is the last one.
func (c *composer) shift(by reveal.Micros) error {
	full := reveal.Resolved(c.r)
	cues, starts, err := c.named(full)
	if err != nil {
		return err
	}
	for _, l := range cues {
		by = max(by, -starts[l.step]-l.cue.Offset)
	}
	c.land(full, starts, cues, slices.Repeat([]reveal.Micros{by}, len(cues)))
	return nil
}

// begin lets each cue begin at a time of the film of its own, none before the film.
func (c *composer) begin() error {
	if len(c.w.Starts) != len(c.w.CueIDs) {
		return fmt.Errorf("%d cues are to begin at %d times: give each of them one", len(c.w.CueIDs), len(c.w.Starts))
	}
	full := reveal.Resolved(c.r)
	cues, starts, err := c.named(full)
	if err != nil {
		return err
	}
	by := make([]reveal.Micros, len(cues))
	for i, l := range cues {
		by[i] = max(0, c.w.Starts[i]) - starts[l.step] - l.cue.Offset
	}
	c.land(full, starts, cues, by)
	return nil
}

// land moves each cue so far in time, into the step where it belongs then.
func (c *composer) land(full *reveal.Reveal, starts []reveal.Micros, cues []laid, by []reveal.Micros) {
	stay := map[reveal.Micros][]reveal.CueID{}
	places := map[int]int{} // in steps that cues go into
	for i, l := range cues {
		to := home(full, starts, l, by[i])
		if to == l.step {
			stay[by[i]] = append(stay[by[i]], l.cue.ID)
			continue
		}
		moved := *l.cue
		moved.Offset += starts[l.step] + by[i] - starts[to]
		c.add(
			edit.Command{
				Op:     edit.MoveCue,
				CueID:  moved.ID,
				StepID: c.r.Steps[to].ID,
				Index:  len(c.r.Steps[to].Cues) + places[to],
			},
		)
		c.add(edit.Command{Op: edit.SetCue, Cue: &moved})
		places[to]++
		places[l.step]--
	}
	for _, far := range slices.Sorted(maps.Keys(stay)) {
		if far != 0 {
			c.add(edit.Command{Op: edit.ShiftCues, CueIDs: stay[far], By: far})
		}
	}
}

// named finds the cues of the operation, and where each step begins on the film's time.
func (c *composer) named(full *reveal.Reveal) (cues []laid, starts []reveal.Micros, err error) {
	at := reveal.Micros(0)
	for i := range full.Steps {
		starts = append(starts, at)
		at += full.Lasts(i)
	}
	for _, id := range c.w.CueIDs {
		s, k := c.r.FindCue(id)
		if s < 0 {
			return nil, nil, edit.ErrNoCue
		}
		cues = append(cues, laid{&c.r.Steps[s].Cues[k], s})
	}
	return cues, starts, nil
}

// home is the step that a cue belongs into when it is moved. One of a step that is switched off stays
// there: it lies on no film.
func home(full *reveal.Reveal, starts []reveal.Micros, l laid, by reveal.Micros) int {
	to := l.cue.Offset + by
	if full.Steps[l.step].Muted || by == 0 || to >= 0 && to < full.Lasts(l.step) {
		return l.step
	}
	found := l.step
	for i := range full.Steps {
		if full.Steps[i].Muted {
			continue
		}
		if starts[i] > starts[l.step]+to {
			break
		}
		found = i
	}
	return found
}

// stretch moves one end of each cue. A start that leaves the time of its step takes the cue with it.
func (c *composer) stretch() error {
	plain := edit.Command{Op: edit.StretchCue, CueIDs: c.w.CueIDs, By: c.w.By, Edge: c.w.Edge}
	if c.w.Edge != edit.Start {
		if plain.CueIDs = c.endRuns(); len(plain.CueIDs) > 0 {
			c.add(plain)
		}
		return nil
	}
	cues, starts, err := c.named(reveal.Resolved(c.r))
	if err != nil {
		return err
	}
	by, leaves := c.w.By, false
	for _, l := range cues {
		by = max(by, -starts[l.step]-l.cue.Offset)
		by = min(by, max(0, c.r.Original(l.cue).Duration-edit.ShortestDrag))
	}
	for _, l := range cues {
		leaves = leaves || l.cue.Offset+by < 0
	}
	if !leaves {
		c.add(plain)
		return nil
	}
	c.add(edit.Command{Op: edit.StretchCue, CueIDs: c.w.CueIDs, By: -by, Edge: edit.End})
	stretched := reveal.Clone(c.r) // a twin's original may be set in between: it has its new length then
	if _, err := edit.Do(stretched, nil, c.out[0]); err != nil {
		return err
	}
	c.r = stretched
	return c.shift(by)
}
