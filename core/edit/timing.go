package edit

import (
	"fmt"
	"slices"

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
		own := r.Original(cue)
		if own == nil {
			return Command{}, fmt.Errorf("the cue %q shares one that is not there", cue.ID)
		}
		switch {
		case c.Op == StretchCue && c.Edge == Start:
			by = min(by, max(0, own.Length-ShortestDrag))
		case c.Op == StretchCue:
			by = max(by, min(0, ShortestDrag-own.Length))
		}
	}
	return moveEnds(r, c, cues, by), nil
}

// moveEnds moves both ends of cues, or one of them. Twins share their length: it
// changes once for all of them.
func moveEnds(r *reveal.Reveal, c Command, cues []*reveal.Cue, by reveal.Micros) Command {
	inverse := Command{Op: Batch, Commands: make([]Command, 0, len(cues))}
	keep := func(cue *reveal.Cue) {
		old := *cue
		inverse.Commands = append(inverse.Commands, Command{Op: SetCue, Cue: &old})
	}
	stretched := map[reveal.CueID]bool{}
	for _, cue := range cues {
		keep(cue)
		if c.Op == ShiftCues || c.Edge == Start {
			cue.Offset += by
		}
		own := r.Original(cue)
		if c.Op == ShiftCues || stretched[own.ID] {
			continue
		}
		stretched[own.ID] = true
		if own != cue {
			keep(own)
		}
		if c.Edge == Start {
			own.Length -= by
		} else {
			own.Length += by
		}
	}
	slices.Reverse(inverse.Commands) // the same cue may be kept twice
	return inverse
}
