package main

import (
	"context"
	"fmt"

	"slowreveal/core/match"
)

type compareCommand struct {
	reading
	Old  string `arg:"" type:"path" help:"Assembly file of the revision before."`
	New  string `arg:"" type:"path" help:"Assembly file of the new revision."`
	JSON bool   `help:"Print the matching as JSON."`
}

// Run prints which node of a new revision is which of the one before, and what has changed.
func (c *compareCommand) Run(ctx context.Context) error {
	old, err := c.model(ctx, "", c.Old)
	if err != nil {
		return err
	}
	fresh, err := c.model(ctx, "", c.New)
	if err != nil {
		return err
	}
	out := match.Of(
		match.Side{Assembly: old.Assembly, Shapes: old.Shapes},
		match.Side{Assembly: fresh.Assembly, Shapes: fresh.Shapes},
	)
	if c.JSON {
		return printJSON(out)
	}
	if out.Placed != "" {
		fmt.Println(out.Placed)
	}
	same := 0
	for i := range out.Pairs {
		p := &out.Pairs[i]
		doubt := ""
		if !p.Sure {
			doubt = fmt.Sprintf(" (not sure that it is: %.0f %%, %s)", 100*p.Confidence, p.Why)
		}
		if len(p.Changes) == 0 && p.Sure {
			same++
			continue
		}
		if len(p.Changes) == 0 {
			fmt.Printf("%s is as it was%s\n", p.Old, doubt)
		}
		for _, change := range p.Changes {
			fmt.Printf("%s %s%s\n", p.Old, change.Says, doubt)
		}
	}
	for _, id := range out.Gone {
		fmt.Printf("%s is gone\n", id)
	}
	for _, id := range out.Added {
		fmt.Printf("%s is new\n", id)
	}
	fmt.Printf(
		"%d are the same, %d changed or in doubt, %d gone, %d new.\n",
		same,
		len(out.Pairs)-same,
		len(out.Gone),
		len(out.Added),
	)
	return nil
}
