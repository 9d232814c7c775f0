package main

import (
	"cmp"
	"context"
	"fmt"

	"slowreveal/core/assembly"
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
	into, of := pieces(&out)
	for _, id := range out.Gone {
		fmt.Printf("%s is %s\n", id, cmp.Or(into[id], "gone"))
	}
	for _, id := range out.Added {
		fmt.Printf("%s is %s\n", id, cmp.Or(of[id], "new"))
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

// pieces says of what is gone that it is one with another part, and of what is new that it was split off one.
func pieces(out *match.Outcome) (into, of map[assembly.NodeID]string) {
	into, of = map[assembly.NodeID]string{}, map[assembly.NodeID]string{}
	for _, j := range out.Joins {
		for _, id := range j.Old[1:] {
			into[id] = fmt.Sprintf("one part with %s now", j.Old[0])
		}
	}
	for _, s := range out.Splits {
		for _, id := range s.New[1:] {
			of[id] = fmt.Sprintf("a piece of what %s was", s.Old)
		}
	}
	return into, of
}
