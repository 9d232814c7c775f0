package edit

import (
	"fmt"
	"slices"

	"slowreveal/core/reveal"
)

// apply changes r by c and returns the inverse. It checks only what it needs
// to find its way; whether the outcome makes sense is for reveal.Validate. On
// an error r is unchanged.
func apply(r *reveal.Reveal, c Command, count *int) (Command, error) {
	if *count++; *count > maxBatch {
		return Command{}, fmt.Errorf("one command holds more than %d others", maxBatch)
	}
	switch c.Op {
	case SetTitle, SetFrame, SetOpening, SetCaptions:
		return applyWhole(r, c)
	case Replace:
		return applyReplace(r, c)
	case InsertStep, RemoveStep, MoveStep, SetStep:
		return applyStep(r, c)
	case Lengthen:
		return lengthen(r, c)
	case InsertCue, RemoveCue, SetCue, MoveCue:
		return applyCue(r, c)
	case ShiftCues, StretchCue:
		return applyTiming(r, c)
	case Batch:
		return applyBatch(r, c, count)
	}
	return Command{}, fmt.Errorf("the command %q is not known", c.Op)
}

func applyWhole(r *reveal.Reveal, c Command) (Command, error) {
	inverse := Command{Op: c.Op}
	switch {
	case c.Op == SetTitle && c.Title != nil:
		old := r.Title
		inverse.Title, r.Title = &old, *c.Title
	case c.Op == SetFrame && c.Frame != nil:
		old := r.Frame
		inverse.Frame, r.Frame = &old, *c.Frame
	case c.Op == SetOpening && c.Opening != nil:
		old := r.Opening
		inverse.Opening, r.Opening = &old, cloneOpening(*c.Opening)
	case c.Op == SetCaptions:
		inverse.Captions, r.Captions = r.Captions, cloned(c.Captions)
	default:
		return Command{}, fmt.Errorf("%s lacks what to set", c.Op)
	}
	return inverse, nil
}

// applyReplace puts another document in the place of r.
func applyReplace(r *reveal.Reveal, c Command) (Command, error) {
	if c.Reveal == nil {
		return Command{}, fmt.Errorf("replace lacks the reveal")
	}
	old := *r
	*r = *reveal.Clone(c.Reveal)
	return Command{Op: Replace, Reveal: &old}, nil
}

func applyStep(r *reveal.Reveal, c Command) (Command, error) {
	if c.Op == InsertStep {
		if c.Step == nil || c.Index < 0 || c.Index > len(r.Steps) {
			return Command{}, fmt.Errorf("insertStep lacks the step, or its place %d is not between 0 and %d", c.Index, len(r.Steps))
		}
		r.Steps = slices.Insert(r.Steps, c.Index, cloneStep(*c.Step))
		return Command{Op: RemoveStep, StepID: c.Step.ID}, nil
	}
	id := c.StepID
	if c.Op == SetStep {
		if c.Step == nil {
			return Command{}, fmt.Errorf("setStep lacks the step")
		}
		id = c.Step.ID
	}
	i := r.FindStep(id)
	if i < 0 {
		return Command{}, ErrNoStep
	}
	old := r.Steps[i]
	switch c.Op {
	case RemoveStep:
		r.Steps = slices.Delete(r.Steps, i, i+1)
		return Command{Op: InsertStep, Step: &old, Index: i}, nil
	case MoveStep:
		if c.Index < 0 || c.Index >= len(r.Steps) {
			return Command{}, fmt.Errorf("moveStep's place %d is not between 0 and %d", c.Index, len(r.Steps)-1)
		}
		r.Steps = slices.Insert(slices.Delete(r.Steps, i, i+1), c.Index, old)
		return Command{Op: MoveStep, StepID: id, Index: i}, nil
	}
	changed := cloneStep(*c.Step)
	changed.Cues = old.Cues
	keeps := changed.Length == 0
	if keeps {
		changed.Length = old.Length
	}
	r.Steps[i] = changed
	old.Cues = nil
	if keeps {
		old.Length = 0
	}
	return Command{Op: SetStep, Step: &old}, nil
}

func lengthen(r *reveal.Reveal, c Command) (Command, error) {
	i := r.FindStep(c.StepID)
	if i < 0 {
		return Command{}, ErrNoStep
	}
	if c.By < -reveal.MaxLength || c.By > reveal.MaxLength {
		return Command{}, fmt.Errorf("a step cannot become %d µs longer", c.By)
	}
	r.Steps[i].Length += c.By
	return Command{Op: Lengthen, StepID: c.StepID, By: -c.By}, nil
}

func applyCue(r *reveal.Reveal, c Command) (Command, error) {
	if c.Op == InsertCue {
		return insertCue(r, c)
	}
	id := c.CueID
	if c.Op == SetCue {
		if c.Cue == nil {
			return Command{}, fmt.Errorf("setCue lacks the cue")
		}
		id = c.Cue.ID
	}
	s, k := r.FindCue(id)
	if s < 0 {
		return Command{}, ErrNoCue
	}
	from := &r.Steps[s]
	old := from.Cues[k]
	switch c.Op {
	case RemoveCue:
		from.Cues = withoutCue(from.Cues, k)
		return Command{Op: InsertCue, StepID: from.ID, Cue: &old, Index: k}, nil
	case SetCue:
		from.Cues[k] = cloneCue(*c.Cue)
		return Command{Op: SetCue, Cue: &old}, nil
	}
	t := r.FindStep(c.StepID)
	if t < 0 {
		return Command{}, ErrNoStep
	}
	to, room := &r.Steps[t], len(r.Steps[t].Cues)
	if t == s {
		room--
	}
	if c.Index < 0 || c.Index > room {
		return Command{}, fmt.Errorf("moveCue's place %d is not between 0 and %d", c.Index, room)
	}
	from.Cues = withoutCue(from.Cues, k)
	to.Cues = slices.Insert(to.Cues, c.Index, old)
	return Command{Op: MoveCue, CueID: id, StepID: from.ID, Index: k}, nil
}

func insertCue(r *reveal.Reveal, c Command) (Command, error) {
	s := r.FindStep(c.StepID)
	if s < 0 {
		return Command{}, ErrNoStep
	}
	step := &r.Steps[s]
	if c.Cue == nil || c.Index < 0 || c.Index > len(step.Cues) {
		return Command{}, fmt.Errorf("insertCue lacks the cue, or its place %d is not between 0 and %d", c.Index, len(step.Cues))
	}
	step.Cues = slices.Insert(step.Cues, c.Index, cloneCue(*c.Cue))
	return Command{Op: RemoveCue, CueID: c.Cue.ID}, nil
}

// withoutCue removes cue k; an empty list becomes nil again, as in a document
// that never had one.
func withoutCue(cues []reveal.Cue, k int) []reveal.Cue {
	if len(cues) == 1 {
		return nil
	}
	return slices.Delete(slices.Clone(cues), k, k+1)
}

func applyBatch(r *reveal.Reveal, c Command, count *int) (Command, error) {
	inverse := Command{Op: Batch, Commands: make([]Command, 0, len(c.Commands))}
	for i := range c.Commands {
		undo, err := apply(r, c.Commands[i], count)
		if err != nil {
			for k := len(inverse.Commands) - 1; k >= 0; k-- {
				if _, back := apply(r, inverse.Commands[k], new(int)); back != nil {
					panic("edit: an inverse does not apply: " + back.Error())
				}
			}
			return Command{}, fmt.Errorf("command %d of %d: %w", i+1, len(c.Commands), err)
		}
		inverse.Commands = append(inverse.Commands, undo)
	}
	slices.Reverse(inverse.Commands)
	return inverse, nil
}
