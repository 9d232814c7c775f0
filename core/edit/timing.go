package edit

import (
	"fmt"
	"slices"

	"slowreveal/core/reveal"
)

// ShortestDrag is the length below which stretching does not go.
const ShortestDrag = reveal.Second / 10

// Timed is a cue with the offset and the length that a change of timing gives it.
type Timed struct {
	Cue              reveal.CueID
	Offset, Duration reveal.Micros
}

// Timing says what a ShiftCues or StretchCue would do to r, without doing it: the
// cues that it names, those whose length they share, and the twins of these. ok is
// false for another command, or one that cannot be carried out. Before says how far before the start
// of a step its cues may go, nil for not at all.
func Timing(r *reveal.Reveal, c Command, before func(step int) reveal.Micros) (timed []Timed, ok bool) {
	if c.Op != ShiftCues && c.Op != StretchCue {
		return nil, false
	}
	cues, steps, err := timedCues(r, c)
	if err != nil {
		return nil, false
	}
	by := reach(r, c, cues, func(k int) reveal.Micros {
		if before == nil {
			return 0
		}
		return before(steps[k])
	})
	moves, stretches := c.Op == ShiftCues || c.Edge == Start, by
	switch {
	case c.Op == ShiftCues:
		stretches = 0
	case c.Edge == Start:
		stretches = -by
	}
	lengths := map[reveal.CueID]reveal.Micros{} // of cues whose length others may share
	seen := map[reveal.CueID]bool{}
	for _, cue := range cues {
		own := r.Original(cue)
		t := Timed{cue.ID, cue.Offset, own.Duration + stretches}
		if moves {
			t.Offset += by
		}
		if stretches != 0 {
			lengths[own.ID] = t.Duration
		}
		seen[cue.ID] = true
		timed = append(timed, t)
	}
	for i := range r.Steps {
		for k := range r.Steps[i].Cues {
			cue := &r.Steps[i].Cues[k]
			if len(lengths) == 0 || seen[cue.ID] || cue.Twin == "" && lengths[cue.ID] == 0 {
				continue
			}
			if length, shares := lengths[r.Original(cue).ID]; shares {
				timed = append(timed, Timed{cue.ID, cue.Offset, length})
			}
		}
	}
	return timed, true
}

// applyTiming shifts or stretches cues together.
func applyTiming(r *reveal.Reveal, c Command) (Command, error) {
	cues, _, err := timedCues(r, c)
	if err != nil {
		return Command{}, err
	}
	return moveEnds(r, c, cues, reach(r, c, cues, func(int) reveal.Micros { return 0 })), nil
}

// timedCues finds the cues that a command of timing names, and the steps that they are in.
func timedCues(r *reveal.Reveal, c Command) ([]*reveal.Cue, []int, error) {
	if len(c.CueIDs) == 0 {
		return nil, nil, fmt.Errorf("%s names no cue", c.Op)
	}
	at := make(map[reveal.CueID]int, len(c.CueIDs))
	for i, id := range c.CueIDs {
		if _, twice := at[id]; twice {
			return nil, nil, fmt.Errorf("the cue %q is named twice", id)
		}
		at[id] = i
	}
	cues, steps, left := make([]*reveal.Cue, len(c.CueIDs)), make([]int, len(c.CueIDs)), len(c.CueIDs)
	for i := 0; i < len(r.Steps) && left > 0; i++ {
		for k := range r.Steps[i].Cues {
			cue := &r.Steps[i].Cues[k]
			n, ok := 0, len(at) == 1 && cue.ID == c.CueIDs[0] // one alone is found without a map
			if len(at) > 1 {
				n, ok = at[cue.ID]
			}
			if ok {
				cues[n], steps[n] = cue, i
				left--
			}
		}
	}
	for _, cue := range cues {
		if cue == nil {
			return nil, nil, ErrNoCue
		}
		if r.Original(cue) == nil {
			return nil, nil, fmt.Errorf("the cue %q shares one that is not there", cue.ID)
		}
	}
	return cues, steps, nil
}

// reach cuts the way so that no cue starts earlier before its step than it may, or becomes shorter than
// ShortestDrag: all of them go equally far, which keeps their spacing.
func reach(r *reveal.Reveal, c Command, cues []*reveal.Cue, before func(k int) reveal.Micros) reveal.Micros {
	by := c.By
	for k, cue := range cues {
		if c.Op == ShiftCues || c.Edge == Start {
			by = max(by, -cue.Offset-before(k))
		}
		own := r.Original(cue)
		switch {
		case c.Op == StretchCue && c.Edge == Start:
			by = min(by, max(0, own.Duration-ShortestDrag))
		case c.Op == StretchCue:
			by = max(by, min(0, ShortestDrag-own.Duration))
		}
	}
	return by
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
			own.Duration -= by
		} else {
			own.Duration += by
		}
	}
	slices.Reverse(inverse.Commands) // the same cue may be kept twice
	return inverse
}
