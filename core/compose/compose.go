package compose

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"slowreveal/core/edit"
	"slowreveal/core/reveal"
)

// Wish is what is to be done; which fields count depends on Do.
type Wish struct {
	Do     Do             `json:"do"`
	StepID reveal.StepID  `json:"stepId,omitempty"`
	CueIDs []reveal.CueID `json:"cueIds,omitempty"`
	// At is a time in the step.
	At reveal.Micros `json:"at,omitempty"`
	// By is a length of time.
	By reveal.Micros `json:"by,omitempty"`
	// Factor stretches time, 1 leaves it.
	Factor float64 `json:"factor,omitempty"`
	// Fresh begins the ids of whatever is new; it must be unused.
	Fresh string `json:"fresh,omitempty"`
	// Cues are what is pasted, with their offsets from the first.
	Cues []reveal.Cue `json:"cues,omitempty"`
}

// Do names a wish.
type Do string

// The wishes.
const (
	SplitStep     Do = "splitStep"     // StepID, At, Fresh: cues that begin at or behind At go into the new step
	JoinStep      Do = "joinStep"      // StepID: with the one that follows
	DuplicateStep Do = "duplicateStep" // StepID, Fresh
	InsertTime    Do = "insertTime"    // StepID, At, By: everything later in the step moves along
	AlignStarts   Do = "alignStarts"   // CueIDs: to the earliest
	AlignEnds     Do = "alignEnds"     // CueIDs: to the latest
	Distribute    Do = "distribute"    // CueIDs: even gaps between their starts
	SameLength    Do = "sameLength"    // CueIDs: that of the first
	ScaleTime     Do = "scaleTime"     // CueIDs, Factor: about the earliest start
	Paste         Do = "paste"         // StepID, At, Cues, Fresh
)

// Command returns the command that fulfils a wish.
func Command(r *reveal.Reveal, w Wish) (edit.Command, error) {
	c := &composer{r: r, w: w}
	var err error
	switch w.Do {
	case SplitStep, JoinStep, DuplicateStep, InsertTime, Paste:
		err = c.step()
	case AlignStarts, AlignEnds, Distribute, SameLength, ScaleTime:
		err = c.cues()
	default:
		err = fmt.Errorf("%q is no wish", w.Do)
	}
	if err != nil {
		return edit.Command{}, err
	}
	if len(c.out) == 0 {
		return edit.Command{}, errors.New("there is nothing to change")
	}
	return edit.Command{Op: edit.Batch, Commands: c.out}, nil
}

type composer struct {
	r   *reveal.Reveal
	w   Wish
	out []edit.Command
}

func (c *composer) add(command edit.Command) { c.out = append(c.out, command) }

func (c *composer) step() error {
	i := c.r.FindStep(c.w.StepID)
	if i < 0 {
		return fmt.Errorf("there is no step %q", c.w.StepID)
	}
	s := &c.r.Steps[i]
	switch c.w.Do {
	case SplitStep:
		return c.split(i, s)
	case JoinStep:
		return c.join(i, s)
	case DuplicateStep:
		return c.duplicate(i, s)
	case InsertTime:
		return c.insertTime(s)
	}
	return c.paste(s)
}

// bare is a step without its cues, as setStep and insertStep take it.
func bare(s *reveal.Step) *reveal.Step {
	b := *s
	b.Cues = nil
	return &b
}

// split cuts a step in two. A step that runs it backwards runs both halves.
func (c *composer) split(i int, s *reveal.Step) error {
	if s.Retrace != nil {
		return errors.New("a retrace cannot be split: it follows the steps that it runs backwards")
	}
	if c.w.At < reveal.MinStep || s.Length-c.w.At < reveal.MinStep {
		return errors.New("put the playhead inside the step: both halves need a tenth of a second")
	}
	second := bare(s)
	second.ID, second.Length, second.Notice, second.Tools, second.Instruction = reveal.StepID(c.w.Fresh), s.Length-c.w.At, nil, nil, ""
	first := bare(s)
	first.Length = c.w.At
	c.add(edit.Command{Op: edit.SetStep, Step: first})
	c.add(edit.Command{Op: edit.InsertStep, Step: second, Index: i + 1})
	c.moveCues(s, func(cue *reveal.Cue) bool { return cue.Offset >= c.w.At }, second.ID, 0, -c.w.At)
	c.retraces(func(ids []reveal.StepID) []reveal.StepID {
		if at := slices.Index(ids, s.ID); at >= 0 {
			return slices.Insert(slices.Clone(ids), at+1, second.ID)
		}
		return ids
	})
	return nil
}

// moveCues moves the cues that are wanted into another step, from a place on.
func (c *composer) moveCues(s *reveal.Step, wanted func(*reveal.Cue) bool, to reveal.StepID, place int, by reveal.Micros) {
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
func (c *composer) retraces(change func([]reveal.StepID) []reveal.StepID) {
	for i := range c.r.Steps {
		s := &c.r.Steps[i]
		if s.Retrace == nil {
			continue
		}
		if ids := change(s.Retrace.Steps); !slices.Equal(ids, s.Retrace.Steps) {
			b := bare(s)
			b.Retrace = &reveal.Retrace{Steps: ids, KeepCamera: s.Retrace.KeepCamera}
			c.add(edit.Command{Op: edit.SetStep, Step: b})
		}
	}
}

func (c *composer) join(i int, s *reveal.Step) error {
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
	c.moveCues(next, func(*reveal.Cue) bool { return true }, s.ID, len(s.Cues), s.Length)
	c.retraces(func(ids []reveal.StepID) []reveal.StepID {
		has := slices.Contains(ids, s.ID)
		out := slices.DeleteFunc(slices.Clone(ids), func(id reveal.StepID) bool { return id == next.ID && has })
		if at := slices.Index(out, next.ID); at >= 0 { // only the second was run backwards: now the whole is
			out[at] = s.ID
		}
		return out
	})
	c.add(edit.Command{Op: edit.RemoveStep, StepID: next.ID})
	whole := bare(s)
	whole.Length += next.Length
	if next.Instruction != "" {
		if whole.Instruction != "" {
			whole.Instruction += "\n"
		}
		whole.Instruction += next.Instruction
	}
	whole.Tools = append(slices.Clone(s.Tools), slices.DeleteFunc(slices.Clone(next.Tools), func(t string) bool { return slices.Contains(s.Tools, t) })...)
	if whole.Notice == nil {
		whole.Notice = next.Notice
	}
	c.add(edit.Command{Op: edit.SetStep, Step: whole})
	return nil
}

func (c *composer) duplicate(i int, s *reveal.Step) error {
	if s.Retrace != nil {
		return errors.New("a retrace cannot be duplicated: each step is run backwards once")
	}
	copied := bare(s)
	copied.ID = reveal.StepID(c.w.Fresh)
	c.add(edit.Command{Op: edit.InsertStep, Step: copied, Index: i + 1})
	c.insert(copied.ID, 0, s.Cues, 0)
	return nil
}

// insert adds copies of cues under fresh ids.
func (c *composer) insert(to reveal.StepID, place int, cues []reveal.Cue, by reveal.Micros) {
	for k := range cues {
		cue := cues[k]
		cue.ID = reveal.CueID(fmt.Sprintf("%s-%d", c.w.Fresh, k+1))
		cue.Offset += by
		c.add(edit.Command{Op: edit.InsertCue, StepID: to, Cue: &cue, Index: place + k})
	}
}

// insertTime makes room in a step, or takes time out of it: what is there then
// closes up, but no cue begins before At.
func (c *composer) insertTime(s *reveal.Step) error {
	if c.w.By == 0 || s.Length+c.w.By < reveal.MinStep {
		return errors.New("the step would have no time left")
	}
	for k := range s.Cues {
		if s.Cues[k].Offset < c.w.At {
			continue
		}
		moved := s.Cues[k]
		moved.Offset = max(c.w.At, moved.Offset+c.w.By)
		c.add(edit.Command{Op: edit.SetCue, Cue: &moved})
	}
	longer := bare(s)
	longer.Length += c.w.By
	c.add(edit.Command{Op: edit.SetStep, Step: longer})
	return nil
}

func (c *composer) paste(s *reveal.Step) error {
	if len(c.w.Cues) == 0 {
		return errors.New("nothing was copied")
	}
	first := c.w.Cues[0].Offset
	for i := range c.w.Cues {
		first = min(first, c.w.Cues[i].Offset)
	}
	c.insert(s.ID, len(s.Cues), c.w.Cues, c.w.At-first)
	return nil
}

// placed is a cue with the time at which its step begins, counted over all
// steps: cues of several steps are aligned as they lie on the timeline.
type placed struct {
	cue   reveal.Cue
	begin reveal.Micros
}

func (p *placed) start() reveal.Micros { return p.begin + p.cue.Offset }
func (p *placed) end() reveal.Micros   { return p.begin + p.cue.End() }

func (c *composer) selected() ([]placed, error) {
	var list []placed
	for _, id := range c.w.CueIDs {
		s, k := c.r.FindCue(id)
		if s < 0 {
			return nil, fmt.Errorf("there is no cue %q", id)
		}
		begin := reveal.Micros(0)
		for i := range s {
			if !c.r.Steps[i].Muted {
				begin += c.r.Steps[i].Length
			}
		}
		list = append(list, placed{c.r.Steps[s].Cues[k], begin})
	}
	if len(list) < 2 {
		return nil, errors.New("select at least two cues")
	}
	return list, nil
}

func (c *composer) cues() error {
	list, err := c.selected()
	if err != nil {
		return err
	}
	first, last, end := list[0].start(), list[0].start(), list[0].end()
	for i := range list {
		first, last, end = min(first, list[i].start()), max(last, list[i].start()), max(end, list[i].end())
	}
	order := slices.Clone(list)
	slices.SortStableFunc(order, func(a, b placed) int { return int(a.start() - b.start()) })
	for i := range order {
		p := &order[i]
		cue := p.cue
		start := p.start()
		switch c.w.Do {
		case AlignStarts:
			start = first
		case AlignEnds:
			start = end - (p.end() - p.start())
		case Distribute:
			start = first + reveal.Micros(math.Round(float64(last-first)*float64(i)/float64(len(order)-1)))
		case SameLength:
			cue.Length = list[0].cue.Length
		case ScaleTime:
			if !(c.w.Factor > 0) || c.w.Factor > 1000 {
				return fmt.Errorf("time cannot be stretched %g times", c.w.Factor)
			}
			scale := func(t reveal.Micros) reveal.Micros { return reveal.Micros(math.Round(float64(t) * c.w.Factor)) }
			start = first + scale(start-first)
			cue.Length, cue.Stagger = max(1, scale(cue.Length)), scale(cue.Stagger)
		}
		if cue.Offset = start - p.begin; cue.Offset < 0 {
			return errors.New("a cue cannot begin before its step does: move it into an earlier step first")
		}
		if cue.Offset != p.cue.Offset || cue.Length != p.cue.Length || cue.Stagger != p.cue.Stagger {
			c.add(edit.Command{Op: edit.SetCue, Cue: &cue})
		}
	}
	return nil
}
