package edit

import (
	"fmt"
	"slices"

	"slowreveal/core/reveal"
)

// apply changes r by c and returns the inverse. Where c puts something into a list, it notes its
// neighbours there in c. It checks only what it needs to find its way; whether the outcome makes
// sense is for reveal.Validate. On an error r is unchanged.
func apply(r *reveal.Reveal, c *Command, count *int) (Command, error) {
	if *count++; *count > maxBatch {
		return Command{}, fmt.Errorf("one command holds more than %d others", maxBatch)
	}
	switch c.Op {
	case SetTitle, SetFrame, SetOpening, SetCaptions, SetVariants:
		return applyWhole(r, c)
	case Accept:
		return accept(r, c)
	case SetLimit:
		return setLimit(r, c)
	case Replace:
		return applyReplace(r, c)
	case InsertStep, RemoveStep, MoveStep, SetStep:
		return applyStep(r, c)
	case ChangeDuration:
		return changeDuration(r, c)
	case InsertCue, RemoveCue, SetCue, MoveCue:
		return applyCue(r, c)
	case ShiftCues, StretchCue:
		return applyTiming(r, *c)
	case Batch:
		return applyBatch(r, c, count)
	}
	return Command{}, fmt.Errorf("the command %q is not known", c.Op)
}

func applyWhole(r *reveal.Reveal, c *Command) (Command, error) {
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
	case c.Op == SetVariants:
		inverse.Variants, r.Variants = r.Variants, cloned(c.Variants)
	default:
		return Command{}, fmt.Errorf("%s lacks what to set", c.Op)
	}
	return inverse, nil
}

// applyReplace puts another document in the place of r.
func applyReplace(r *reveal.Reveal, c *Command) (Command, error) {
	if c.Reveal == nil {
		return Command{}, fmt.Errorf("replace lacks the reveal")
	}
	old := *r
	*r = *reveal.Clone(c.Reveal)
	return Command{Op: Replace, Reveal: &old}, nil
}

func applyStep(r *reveal.Reveal, c *Command) (Command, error) {
	if c.Op == InsertStep {
		if c.Step == nil {
			return Command{}, fmt.Errorf("insertStep lacks the step")
		}
		at, err := place(c, stepNames(r.Steps))
		if err != nil {
			return Command{}, err
		}
		r.Steps = slices.Insert(r.Steps, at, cloneStep(*c.Step))
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
		return noted(Command{Op: InsertStep, Step: &old, Index: i}, stepNames(r.Steps)), nil
	case MoveStep:
		others := stepNames(slices.Delete(slices.Clone(r.Steps), i, i+1))
		at, err := place(c, others)
		if err != nil {
			return Command{}, err
		}
		r.Steps = slices.Insert(slices.Delete(r.Steps, i, i+1), at, old)
		return noted(Command{Op: MoveStep, StepID: id, Index: i}, others), nil
	}
	changed := cloneStep(*c.Step)
	changed.Cues = old.Cues
	keeps := changed.Duration == 0
	if keeps {
		changed.Duration = old.Duration
	}
	r.Steps[i] = changed
	old.Cues = nil
	if keeps {
		old.Duration = 0
	}
	return Command{Op: SetStep, Step: &old}, nil
}

func changeDuration(r *reveal.Reveal, c *Command) (Command, error) {
	i := r.FindStep(c.StepID)
	if i < 0 {
		return Command{}, ErrNoStep
	}
	if c.By < -reveal.MaxDuration || c.By > reveal.MaxDuration {
		return Command{}, fmt.Errorf("a step cannot become %d µs longer", c.By)
	}
	r.Steps[i].Duration += c.By
	return Command{Op: ChangeDuration, StepID: c.StepID, By: -c.By}, nil
}

func applyCue(r *reveal.Reveal, c *Command) (Command, error) {
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
		return noted(Command{Op: InsertCue, StepID: from.ID, Cue: &old, Index: k}, cueNames(from.Cues)), nil
	case SetCue:
		from.Cues[k] = c.Cue.Clone()
		return Command{Op: SetCue, Cue: &old}, nil
	}
	t := r.FindStep(c.StepID)
	if t < 0 {
		return Command{}, ErrNoStep
	}
	to, left := &r.Steps[t], withoutCue(from.Cues, k)
	room := to.Cues
	if t == s {
		room = left
	}
	at, err := place(c, cueNames(room))
	if err != nil {
		return Command{}, err
	}
	inverse := noted(Command{Op: MoveCue, CueID: id, StepID: from.ID, Index: k}, cueNames(left))
	from.Cues = left
	to.Cues = slices.Insert(to.Cues, at, old)
	return inverse, nil
}

func insertCue(r *reveal.Reveal, c *Command) (Command, error) {
	s := r.FindStep(c.StepID)
	if s < 0 {
		return Command{}, ErrNoStep
	}
	step := &r.Steps[s]
	if c.Cue == nil {
		return Command{}, fmt.Errorf("insertCue lacks the cue")
	}
	at, err := place(c, cueNames(step.Cues))
	if err != nil {
		return Command{}, err
	}
	step.Cues = slices.Insert(step.Cues, at, c.Cue.Clone())
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

func applyBatch(r *reveal.Reveal, c *Command, count *int) (Command, error) {
	inverse := Command{Op: Batch, Commands: make([]Command, 0, len(c.Commands))}
	for i := range c.Commands {
		undo, err := apply(r, &c.Commands[i], count)
		if err != nil {
			for k := len(inverse.Commands) - 1; k >= 0; k-- {
				if _, back := apply(r, &inverse.Commands[k], new(int)); back != nil {
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
