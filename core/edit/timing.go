package edit

import (
	"fmt"

	"slowreveal/core/reveal"
)

// ShortestDrag is the length below which stretching does not go.
const ShortestDrag = reveal.Second / 10

// applyTiming shifts or stretches cues together. The way is cut so that none
// starts before its step or becomes shorter than ShortestDrag: all of them go
// equally far, which keeps their spacing.
func applyTiming(r *reveal.Reveal, c Command) (Command, error) {
	if len(c.CueIDs) == 0 {
		return Command{}, fmt.Errorf("%s names no cue", c.Op)
	}
	cues := make([]*reveal.Cue, len(c.CueIDs))
	seen := make(map[reveal.CueID]bool, len(cues))
	for i, id := range c.CueIDs {
		s, k := r.FindCue(id)
		if s < 0 || seen[id] {
			return Command{}, fmt.Errorf("there is no cue %q, or it is named twice", id)
		}
		seen[id] = true
		cues[i] = &r.Steps[s].Cues[k]
	}
	by := c.By
	for _, cue := range cues {
		if c.Op == ShiftCues || c.Edge == Start {
			by = max(by, -cue.Offset)
		}
		switch {
		case c.Op == StretchCue && c.Edge == Start:
			by = min(by, max(0, cue.Length-ShortestDrag))
		case c.Op == StretchCue:
			by = max(by, min(0, ShortestDrag-cue.Length))
		}
	}
	inverse := Command{Op: Batch, Commands: make([]Command, 0, len(cues))}
	for _, cue := range cues {
		old := *cue
		inverse.Commands = append(inverse.Commands, Command{Op: SetCue, Cue: &old})
		if c.Op == ShiftCues || c.Edge == Start {
			cue.Offset += by
		}
		switch {
		case c.Op == StretchCue && c.Edge == Start:
			cue.Length -= by
		case c.Op == StretchCue:
			cue.Length += by
		}
	}
	return inverse, nil
}
