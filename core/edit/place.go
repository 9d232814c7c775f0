package edit

import (
	"fmt"
	"slices"

	"slowreveal/core/reveal"
)

func stepNames(steps []reveal.Step) []string {
	names := make([]string, len(steps))
	for i := range steps {
		names[i] = string(steps[i].ID)
	}
	return names
}

func cueNames(cues []reveal.Cue) []string {
	names := make([]string, len(cues))
	for i := range cues {
		names[i] = string(cues[i].ID)
	}
	return names
}

// place finds where c puts something into a list of others: behind or before a neighbour that is
// still there, whatever others have put into the list or taken out of it; else by its index. A command
// without neighbours is given those that it finds.
func place(c *Command, others []string) (int, error) {
	if c.After == "" && c.Before == "" {
		if c.Index < 0 || c.Index > len(others) {
			return 0, fmt.Errorf("the place %d of %s is not between 0 and %d", c.Index, c.Op, len(others))
		}
		*c = noted(*c, others)
		return c.Index, nil
	}
	if i := slices.Index(others, c.After); i >= 0 && c.After != "" {
		return i + 1, nil
	}
	if i := slices.Index(others, c.Before); i >= 0 && c.Before != "" {
		return i, nil
	}
	return min(max(c.Index, 0), len(others)), nil
}

// noted is a command with the neighbours that its index has among others.
func noted(c Command, others []string) Command {
	if c.Index > 0 {
		c.After = others[c.Index-1]
	}
	if c.Index < len(others) {
		c.Before = others[c.Index]
	}
	return c
}
