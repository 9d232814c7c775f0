package edit

import (
	"fmt"

	"slowreveal/core/reveal"
)

// Touch is what a command has to do with: names of things in a document that it needs as they
// are, and of things that it changes. It decides whether a command that was made on an earlier
// version of a document means the same on a later one.
type Touch struct {
	reads, writes map[string]bool
	// all says that it changes everything.
	all bool
}

// Names of things. A step's being there is another thing than its words and its place: who adds a
// cue to a step does not mind that it gets another title.
func stepThere(id reveal.StepID) string  { return "step " + string(id) }
func stepWords(id reveal.StepID) string  { return "words of " + string(id) }
func stepLength(id reveal.StepID) string { return "length of " + string(id) }
func stepPlace(id reveal.StepID) string  { return "place of " + string(id) }
func cueItself(id reveal.CueID) string   { return "cue " + string(id) }

// Touches says what a command that has been applied touches. The inverse that applying it gave
// belongs to it: it holds what was removed or overwritten, such as the cues of a step.
func Touches(c, inverse Command) Touch {
	t := Touch{reads: map[string]bool{}, writes: map[string]bool{}}
	t.add(c)
	t.add(inverse)
	return t
}

func (t *Touch) add(c Command) {
	switch c.Op {
	case SetTitle, SetFrame, SetCaptions, SetOpening, SetVariants:
		t.writes[string(c.Op)] = true
	case Accept:
		if c.Accepted != nil {
			t.writes[fmt.Sprint("accepted ", c.Accepted.Check, c.Accepted.Parts, c.Accepted.Cues)] = true
		}
	case SetLimit:
		t.writes["limit of "+c.Check] = true
	case Replace:
		t.all = true
	case InsertStep, RemoveStep, MoveStep, SetStep:
		t.addStep(c)
	case InsertCue, SetCue:
		if c.Cue != nil {
			t.writes[cueItself(c.Cue.ID)] = true
		}
	case RemoveCue, MoveCue:
		t.writes[cueItself(c.CueID)] = true
	case ShiftCues, StretchCue:
		for _, id := range c.CueIDs {
			t.writes[cueItself(id)] = true
		}
	case Batch:
		for i := range c.Commands {
			t.add(c.Commands[i])
		}
	}
	if c.StepID != "" && (c.Op == InsertCue || c.Op == MoveCue || c.Op == ChangeDuration) {
		t.reads[stepThere(c.StepID)] = true
	}
	if c.Op == ChangeDuration { // two of them come to the same in either order
		t.reads[stepLength(c.StepID)] = true
	}
}

func (t *Touch) addStep(c Command) {
	id := c.StepID
	if c.Step != nil {
		id = c.Step.ID
	}
	switch c.Op {
	case SetStep:
		t.reads[stepThere(id)] = true
		t.writes[stepWords(id)] = true
		if c.Step != nil && c.Step.Duration != 0 {
			t.writes[stepLength(id)] = true
		}
	case MoveStep:
		t.reads[stepThere(id)] = true
		t.writes[stepPlace(id)] = true
	default:
		t.writes[stepThere(id)] = true
		if c.Step != nil {
			for i := range c.Step.Cues {
				t.writes[cueItself(c.Step.Cues[i].ID)] = true
			}
		}
	}
}

// Clashes reports whether what one of two commands changes is something that the other one changes
// or needs as it was. Commands that do not clash come to the same in either order, but for the
// order of steps or cues that both have added at one place.
func (t Touch) Clashes(o Touch) bool {
	if t.all || o.all {
		return true
	}
	return meet(t.writes, o.writes) || meet(t.writes, o.reads) || meet(t.reads, o.writes)
}

func meet(a, b map[string]bool) bool {
	if len(a) > len(b) {
		a, b = b, a
	}
	for name := range a {
		if b[name] {
			return true
		}
	}
	return false
}
