package compose

import (
	"errors"
	"fmt"
	"slices"

	"slowreveal/core/assembly"
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
	// Nodes are what new twins act on.
	Nodes []assembly.NodeID `json:"nodes,omitempty"`
	// Fresh begins the ids of whatever is new; it must be unused.
	Fresh string `json:"fresh,omitempty"`
	// Cues are what is pasted, with their offsets from the first.
	Cues []reveal.Cue `json:"cues,omitempty"`
	// Starts are times of the film.
	Starts []reveal.Micros `json:"starts,omitempty"`
	// Edge is the end of a bar that is moved.
	Edge edit.Edge `json:"edge,omitempty"`
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
	MakeRoom      Do = "makeRoom"      // CueIDs, one: what begins with it or later in its step begins when it has ended
	// CueIDs, By: a cue that leaves its step's time goes into the step that runs then
	Shift        Do = "shift"
	Begin        Do = "begin"        // CueIDs, Starts: each begins at its time, as Shift
	Stretch      Do = "stretch"      // CueIDs, By, Edge: one end of each, as Shift
	Distribute   Do = "distribute"   // CueIDs: even gaps between their starts
	SameLength   Do = "sameLength"   // CueIDs: that of the first
	ScaleTime    Do = "scaleTime"    // CueIDs, Factor: about the earliest start
	Paste        Do = "paste"        // StepID, At, Cues, Fresh
	MakeTwins    Do = "makeTwins"    // CueIDs, Nodes, StepID, At, Fresh: the first of the new ones starts at At
	PartTwins    Do = "partTwins"    // CueIDs: each gets settings of its own
	RemoveCues   Do = "removeCues"   // CueIDs: where one of several twins goes, the others stay as they are
	RemoveStep   Do = "removeStep"   // StepID, as RemoveCues; steps that run it backwards do so no longer
	PasteBack    Do = "pasteBack"    // StepID, At, CueIDs, Fresh: copies that take back what the cues did
	TurnRound    Do = "turnRound"    // CueIDs: movements run the other way, of twins those of all
	BackTogether Do = "backTogether" // Fresh, By, Factor: a pause, then everything backwards, so many times as fast
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
	case MakeRoom:
		err = c.makeRoom()
	case Shift:
		err = c.shift(w.By)
	case Begin:
		err = c.begin()
	case Stretch:
		err = c.stretch()
	case MakeTwins:
		err = c.makeTwins()
	case PasteBack:
		err = c.pasteBack()
	case PartTwins:
		err = c.partTwins()
	case RemoveCues:
		err = c.removeCues(w.CueIDs)
	case RemoveStep:
		err = c.removeStep()
	case TurnRound:
		err = c.turnRound()
	case BackTogether:
		err = c.backTogether()
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
		return edit.ErrNoStep
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
		return c.insertTime(s, "")
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
	second.ID = reveal.StepID(c.w.Fresh)
	second.Length = s.Length - c.w.At
	second.Notice = nil
	second.Tools = nil
	second.Instruction = ""
	first := bare(s)
	first.Length = c.w.At
	first.Markers, second.Markers = nil, nil
	for _, m := range s.Markers {
		if m.Offset < c.w.At {
			first.Markers = append(first.Markers, m)
		} else {
			second.Markers = append(second.Markers, reveal.Marker{Offset: m.Offset - c.w.At, Text: m.Text})
		}
	}
	c.add(edit.Command{Op: edit.SetStep, Step: first})
	c.add(edit.Command{Op: edit.InsertStep, Step: second, Index: i + 1})
	c.moveCues(s, func(cue *reveal.Cue) bool { return cue.Offset >= c.w.At }, second.ID, 0, -c.w.At)
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
			b.Length = 0 // it stays
			b.Retrace = &reveal.Retrace{Steps: ids, Speed: s.Retrace.Speed, KeepCamera: s.Retrace.KeepCamera}
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
		whole.Markers = append(whole.Markers, reveal.Marker{Offset: m.Offset + s.Length, Text: m.Text})
	}
	whole.Length += next.Length
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
// closes up, but no cue begins before At. One cue may stay where it is.
func (c *composer) insertTime(s *reveal.Step, stays reveal.CueID) error {
	if c.w.By == 0 || s.Length+c.w.By < reveal.MinStep {
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
	longer.Length += c.w.By
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
	c.w.At, c.w.By = cue.Offset, c.r.Original(&cue).Length
	return c.insertTime(&c.r.Steps[i], cue.ID)
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
