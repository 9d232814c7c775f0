package editor

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"slowreveal/core/edit"
	"slowreveal/core/reveal"
)

// tail is what is left behind the last cue where the last step grows: the film does not end
// with the movement.
const tail = reveal.Second / 2

// Perform is Apply for what a hand does: steps grow with what has been put into them, unless their
// length is held, and steps that are still called by their number keep to it. State.Command is
// what has been done altogether, and Inverse undoes all of it.
func (d *Editor) Perform(command []byte) (State, error) {
	c, err := d.take(command)
	if err != nil {
		return State{}, err
	}
	before := make(map[reveal.StepID]reveal.Micros, len(d.reveal.Steps))
	for _, s := range d.film.Schedule.Steps {
		before[s.Step] = s.Done
	}
	s, err := d.apply(c)
	if err != nil {
		return s, err
	}
	growth, grown := d.growth(before, whole(c))
	growth = append(d.renumbered(c), growth...)
	if len(growth) == 0 {
		return s, nil
	}
	inverse := *s.Inverse
	if s.Command != nil {
		c = *s.Command
	}
	back, err := edit.Do(d.reveal, d.product, edit.Command{Op: edit.Batch, Commands: growth})
	if err != nil { // it would become longer than a step may be: then it stays as it is
		return s, nil
	}
	d.compile()
	s = d.state()
	s.Grown = grown
	s.Command = &edit.Command{Op: edit.Batch, Commands: slices.Concat(flat(c), growth)}
	s.Inverse = &edit.Command{Op: edit.Batch, Commands: slices.Concat(flat(back), flat(inverse))}
	return s, nil
}

// growth lengthens the steps whose cues end later than before, and later than the step does.
func (d *Editor) growth(
	before map[reveal.StepID]reveal.Micros,
	exempt map[reveal.StepID]bool,
) (commands []edit.Command, grown []int) {
	for i, span := range d.film.Schedule.Steps {
		step := &d.reveal.Steps[i]
		late := span.Done - step.Duration
		if step.Held || exempt[step.ID] || step.Retrace != nil || late <= 0 || span.Done <= before[step.ID] {
			continue
		}
		if i == len(d.reveal.Steps)-1 {
			late += tail
		}
		commands = append(commands, edit.Command{Op: edit.ChangeDuration, StepID: step.ID, By: late})
		grown = append(grown, i)
	}
	return commands, grown
}

// renumbered gives steps that nobody has named the numbers that they have now, where steps come, go or move.
func (d *Editor) renumbered(c edit.Command) (commands []edit.Command) {
	orders := slices.ContainsFunc(flat(c), func(c edit.Command) bool {
		return c.Op == edit.InsertStep || c.Op == edit.RemoveStep || c.Op == edit.MoveStep
	})
	if !orders {
		return nil
	}
	for i := range d.reveal.Steps {
		named := d.reveal.Steps[i]
		number, ok := strings.CutPrefix(named.Title, "Step ")
		if n, err := strconv.Atoi(number); !ok || err != nil || n == i+1 {
			continue
		}
		named.Title, named.Cues, named.Duration = fmt.Sprintf("Step %d", i+1), nil, 0 // the length stays
		commands = append(commands, edit.Command{Op: edit.SetStep, Step: &named})
	}
	return commands
}

// whole names the steps that a command brings together with their cues: they are as they were elsewhere.
func whole(c edit.Command) map[reveal.StepID]bool {
	steps := map[reveal.StepID]bool{}
	var look func(c *edit.Command)
	look = func(c *edit.Command) {
		if c.Op == edit.InsertStep && c.Step != nil && len(c.Step.Cues) > 0 {
			steps[c.Step.ID] = true
		}
		for i := range c.Commands {
			look(&c.Commands[i])
		}
	}
	look(&c)
	return steps
}

// flat is a batch as its commands.
func flat(c edit.Command) []edit.Command {
	if c.Op == edit.Batch {
		return c.Commands
	}
	return []edit.Command{c}
}
