package compose

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"slowreveal/core/edit"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
)

// step finds the step that is meant by its id.
func (c *composer) step() (int, *reveal.Step, error) {
	i := c.r.FindStep(c.w.StepID)
	if i < 0 {
		return -1, nil, edit.ErrNoStep
	}
	return i, &c.r.Steps[i], nil
}

// here finds the step that is meant and the time in it: by its id, or else by the time of the film.
func (c *composer) here() (i int, at reveal.Micros, err error) {
	if c.w.StepID != "" {
		i, _, err = c.step()
		return i, c.w.At, err
	}
	return c.atTime()
}

// atTime finds the step that runs at the time of the film, and the time in it.
func (c *composer) atTime() (i int, at reveal.Micros, err error) {
	if c.Film == nil || len(c.r.Steps) == 0 {
		return -1, 0, errors.New("there is no step yet: add one first")
	}
	if i, at = c.Film.Schedule.Place(c.w.Time); i < 0 { // all are switched off, or it is before the first
		return 0, c.w.Time - c.Film.Schedule.Steps[0].Start, nil
	}
	return i, at, nil
}

// bare is a step without its cues, as setStep and insertStep take it.
func bare(s *reveal.Step) *reveal.Step {
	b := *s
	b.Cues = nil
	return &b
}

// split cuts a step in two. A step that runs it backwards runs both halves.
func (c *composer) split() error {
	i, at, err := c.here()
	if err != nil {
		return err
	}
	s := &c.r.Steps[i]
	if s.Retrace != nil {
		return errors.New("a retrace cannot be split: it follows the steps that it runs backwards")
	}
	if at < reveal.MinStepDuration || s.Duration-at < reveal.MinStepDuration {
		return errors.New("put the playhead inside the step: both halves need a tenth of a second")
	}
	second := bare(s)
	second.ID = reveal.StepID(c.w.Fresh)
	second.Duration = s.Duration - at
	second.Notice = nil
	second.Tools = nil
	second.Instruction = ""
	first := bare(s)
	first.Duration = at
	first.Markers, second.Markers = nil, nil
	for _, m := range s.Markers {
		if m.Offset < at {
			first.Markers = append(first.Markers, m)
		} else {
			second.Markers = append(second.Markers, reveal.Marker{Offset: m.Offset - at, Text: m.Text})
		}
	}
	c.add(edit.Command{Op: edit.SetStep, Step: first})
	c.add(edit.Command{Op: edit.InsertStep, Step: second, Index: i + 1})
	c.moveCues(s, func(cue *reveal.Cue) bool { return cue.Offset >= at }, second.ID, 0, -at)
	c.done.Step = second.ID
	c.retraces(func(_ reveal.StepID, ids []reveal.StepID) []reveal.StepID {
		if at := slices.Index(ids, s.ID); at >= 0 {
			return slices.Insert(slices.Clone(ids), at+1, second.ID)
		}
		return ids
	})
	return nil
}

// moveCues moves the cues that are wanted into another step, from a place on.
func (c *composer) moveCues(
	s *reveal.Step,
	wanted func(*reveal.Cue) bool,
	to reveal.StepID,
	place int,
	by reveal.Micros,
) {
	for k := range s.Cues {
		if !wanted(&s.Cues[k]) {
			continue
		}
		moved := s.Cues[k]
		moved.Offset += by
		c.add(edit.Command{Op: edit.MoveCue, CueID: moved.ID, StepID: to, Index: place})
		c.add(edit.Command{Op: edit.SetCue, Cue: &moved})
		place++
	}
}

// retraces changes the lists of the steps that run others backwards.
func (c *composer) retraces(change func(by reveal.StepID, ids []reveal.StepID) []reveal.StepID) {
	for i := range c.r.Steps {
		s := &c.r.Steps[i]
		if s.Retrace == nil {
			continue
		}
		if ids := change(s.ID, s.Retrace.Steps); !slices.Equal(ids, s.Retrace.Steps) {
			b := bare(s)
			b.Duration = 0 // it stays
			b.Retrace = &reveal.Retrace{Steps: ids, Speed: s.Retrace.Speed, KeepCamera: s.Retrace.KeepCamera}
			c.add(edit.Command{Op: edit.SetStep, Step: b})
		}
	}
}

func (c *composer) join() error {
	i, s, err := c.step()
	if err != nil {
		return err
	}
	if i+1 >= len(c.r.Steps) {
		return errors.New("there is no step behind this one")
	}
	next := &c.r.Steps[i+1]
	if s.Retrace != nil || next.Retrace != nil {
		return errors.New("a retrace cannot be joined: it follows the steps that it runs backwards")
	}
	if s.Muted != next.Muted {
		return errors.New("one of the two steps is switched off: switch both on first")
	}
	c.moveCues(next, func(*reveal.Cue) bool { return true }, s.ID, len(s.Cues), s.Duration)
	c.retraces(func(_ reveal.StepID, ids []reveal.StepID) []reveal.StepID {
		has := slices.Contains(ids, s.ID)
		out := slices.DeleteFunc(slices.Clone(ids), func(id reveal.StepID) bool { return id == next.ID && has })
		if at := slices.Index(out, next.ID); at >= 0 { // only the second was run backwards: now the whole is
			out[at] = s.ID
		}
		return out
	})
	c.add(edit.Command{Op: edit.RemoveStep, StepID: next.ID})
	whole := bare(s)
	whole.Markers = slices.Clone(s.Markers)
	for _, m := range next.Markers {
		whole.Markers = append(whole.Markers, reveal.Marker{Offset: m.Offset + s.Duration, Text: m.Text})
	}
	whole.Duration += next.Duration
	if next.Instruction != "" {
		if whole.Instruction != "" {
			whole.Instruction += "\n"
		}
		whole.Instruction += next.Instruction
	}
	whole.Tools = append(
		slices.Clone(s.Tools),
		slices.DeleteFunc(slices.Clone(next.Tools), func(t string) bool { return slices.Contains(s.Tools, t) })...)
	if whole.Notice == nil {
		whole.Notice = next.Notice
	}
	c.add(edit.Command{Op: edit.SetStep, Step: whole})
	return nil
}

func (c *composer) duplicate() error {
	i, s, err := c.step()
	if err != nil {
		return err
	}
	if s.Retrace != nil {
		return errors.New("a retrace cannot be duplicated: each step is run backwards once")
	}
	copied := bare(s)
	copied.ID = reveal.StepID(c.w.Fresh)
	c.done.Step = copied.ID
	c.add(edit.Command{Op: edit.InsertStep, Step: copied, Index: i + 1})
	c.insert(copied.ID, 0, s.Cues, 0)
	return nil
}

// insert adds copies of cues under fresh ids.
func (c *composer) insert(to reveal.StepID, place int, cues []reveal.Cue, by reveal.Micros) {
	for k := range cues {
		cue := cues[k]
		cue.Offset += by
		c.insertCue(to, place+k, cue)
	}
}

// insertCue adds a cue under a fresh id.
func (c *composer) insertCue(to reveal.StepID, place int, cue reveal.Cue) {
	c.made++
	cue.ID = reveal.CueID(fmt.Sprintf("%s-%d", c.w.Fresh, c.made))
	c.done.Made = append(c.done.Made, cue.ID)
	c.add(edit.Command{Op: edit.InsertCue, StepID: to, Cue: &cue, Index: place})
}

// fitStep makes a step as long as its cues.
func (c *composer) fitStep() error {
	i, s, err := c.step()
	if err != nil {
		return err
	}
	if s.Retrace != nil {
		return errors.New("a retrace is as long as the way back takes: change its speed or its length")
	}
	fitted := bare(s)
	if fitted.Duration = film.Fitting(reveal.Resolved(c.r).Steps[i].Done()); fitted.Duration != s.Duration {
		c.add(edit.Command{Op: edit.SetStep, Step: fitted})
	}
	return nil
}

// bySpeed lets a retrace go so many times as fast as what it runs backwards, or take a length of its own; as fast, to a
// hundredth, and as long as it does already.
func (c *composer) bySpeed() error {
	i, s, err := c.step()
	if err != nil {
		return err
	}
	if s.Retrace == nil {
		return errors.New("only a step that runs others backwards has a speed")
	}
	full := *reveal.Resolved(c.r)
	full.Steps = slices.Clone(full.Steps)
	full.Steps[i].Muted = false // as long as it lasts when it is on
	changed, back := bare(s), *s.Retrace
	changed.Duration, changed.Retrace, back.Speed = full.Lasts(i), &back, 0
	if c.w.On {
		speed := float64(full.Way(&back)) / float64(changed.Duration)
		back.Speed = max(slowest, math.Round(100*speed)/100)
	}
	c.add(edit.Command{Op: edit.SetStep, Step: changed})
	return nil
}

// addStep adds an empty step.
func (c *composer) addStep() error {
	at := len(c.r.Steps)
	if c.w.StepID != "" {
		i, _, err := c.step()
		if err != nil {
			return err
		}
		at = i + 1
	}
	c.done.Step = reveal.StepID(c.w.Fresh)
	step := reveal.Step{ID: c.done.Step, Title: fmt.Sprintf("Step %d", len(c.r.Steps)+1), Duration: newStep}
	c.add(edit.Command{Op: edit.InsertStep, Step: &step, Index: at})
	return nil
}

// addMarker sets a marker, called by its number in the reveal until it gets a name.
func (c *composer) addMarker() error {
	i, at, err := c.here()
	if err != nil {
		return err
	}
	n := 1
	for k := range c.r.Steps {
		n += len(c.r.Steps[k].Markers)
	}
	marked := bare(&c.r.Steps[i])
	marked.Duration = 0 // it stays
	c.done.Marked, c.done.Marker = marked.ID, len(marked.Markers)
	marked.Markers = append(slices.Clone(marked.Markers), reveal.Marker{Offset: at, Text: fmt.Sprintf("Marker %d", n)})
	c.add(edit.Command{Op: edit.SetStep, Step: marked})
	return nil
}

func (c *composer) insertTimeAt() error {
	_, s, err := c.step()
	if err != nil {
		return err
	}
	return c.insertTime(s, "")
}

// insertHere makes room where the film is, or at the end of another step.
func (c *composer) insertHere() error {
	i, at, err := c.atTime()
	if err != nil {
		return err
	}
	s := &c.r.Steps[i]
	if c.w.StepID != "" && c.w.StepID != s.ID {
		if _, s, err = c.step(); err != nil {
			return err
		}
		at = s.Duration
	}
	c.w.At = at
	return c.insertTime(s, "")
}

// insertTime makes room in a step, or takes time out of it: what is there then
// closes up, but no cue begins before At. One cue may stay where it is.
func (c *composer) insertTime(s *reveal.Step, stays reveal.CueID) error {
	if c.w.By == 0 || s.Duration+c.w.By < reveal.MinStepDuration {
		return errors.New("the step would have no time left")
	}
	for k := range s.Cues {
		if s.Cues[k].Offset < c.w.At || s.Cues[k].ID == stays {
			continue
		}
		moved := s.Cues[k]
		moved.Offset = max(c.w.At, moved.Offset+c.w.By)
		c.add(edit.Command{Op: edit.SetCue, Cue: &moved})
	}
	longer := bare(s)
	longer.Duration += c.w.By
	longer.Markers = slices.Clone(s.Markers)
	for k := range longer.Markers {
		if m := &longer.Markers[k]; m.Offset >= c.w.At {
			m.Offset = max(c.w.At, m.Offset+c.w.By)
		}
	}
	c.add(edit.Command{Op: edit.SetStep, Step: longer})
	return nil
}

// makeRoom lets what would run beside a cue begin behind it.
func (c *composer) makeRoom() error {
	if len(c.w.CueIDs) != 1 {
		return errors.New("room is made for one cue")
	}
	i, k := c.r.FindCue(c.w.CueIDs[0])
	if i < 0 {
		return edit.ErrNoCue
	}
	cue := c.r.Steps[i].Cues[k]
	c.w.At, c.w.By = cue.Offset, c.r.Original(&cue).Duration
	return c.insertTime(&c.r.Steps[i], cue.ID)
}

// paste puts copies of cues where the film is, onto the picked nodes where there are some.
func (c *composer) paste() error {
	if len(c.w.Cues) == 0 {
		return errors.New("nothing was copied")
	}
	i, at, err := c.here()
	if err != nil {
		return err
	}
	cues := slices.Clone(c.w.Cues)
	first := cues[0].Offset
	for k := range cues {
		first = min(first, cues[k].Offset)
		if len(c.w.Nodes) > 0 && len(cues[k].Targets) > 0 {
			cues[k].Targets = targetsOf(cues[k].Kind, c.w.Nodes)
		}
	}
	c.insert(c.r.Steps[i].ID, len(c.r.Steps[i].Cues), cues, at-first)
	return nil
}
