package film

import "slowreveal/core/reveal"

// wordsSoft is how long the words of a step take to make room for those of the next: first the old ones
// go, then the new ones come.
const wordsSoft = 400_000

// Caption says whose step's words are seen at t, −1 for none, and how strongly, 0 to 1. The words of the first step
// are there from the beginning, those of every step stand in full at its end.
func (f *Film) Caption(t reveal.Micros) (step int, opacity float64) {
	step = f.Schedule.StepAt(t)
	if step < 0 {
		return -1, 0
	}
	span := &f.Schedule.Steps[step]
	before := step - 1
	for before >= 0 && f.Schedule.Steps[before].Muted {
		before--
	}
	if before < 0 {
		return step, 1
	}
	soft := min(wordsSoft, float64(span.Duration)/2)
	switch since := float64(t - span.Start); {
	case since >= soft:
		return step, 1
	case since < soft/2:
		return before, 1 - 2*since/soft
	default:
		return step, 2*since/soft - 1
	}
}
