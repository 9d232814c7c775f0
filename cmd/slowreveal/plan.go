package main

import (
	"context"
	"fmt"
	"strings"

	"slowreveal/core/assembly"
	"slowreveal/core/plan"
	"slowreveal/core/product"
	"slowreveal/core/proof"
	"slowreveal/core/reveal"
	"slowreveal/firstfilm"
	"slowreveal/prove"
)

type planCommand struct {
	reading
	Assembly string   `required:"" type:"path" help:"Assembly file."`
	Reach    string   `help:"Part or subassembly that is to be got at, by its id or name, with as few removals as can be found. Everything when left out."`
	Stays    []string `help:"Parts that stay where they are, by id or name."`
	Whole    []string `help:"Subassemblies that are not taken apart, by id or name."`
	Steps    string   `default:"usual" enum:"each,usual,few" help:"How many moves go into a step: ${enum}."`
	Spacing  float64  `default:"0" help:"Gap that is left between parts, mm; 0 for a share of the assembly's size."`
	Fade     bool     `help:"Let parts fade away when they have left: they need not go as far."`
	Reveal   string   `type:"path" help:"Also write the planned film as a reveal document."`
	JSON     bool     `name:"json" help:"Print the plan as JSON."`
}

// Run plans a teardown.
func (c *planCommand) Run(ctx context.Context) error {
	m, err := c.model(ctx, "", c.Assembly)
	if err != nil {
		return err
	}
	choices := plan.Choices{Spacing: c.Spacing, Fade: c.Fade}
	if choices.Stays, err = named(m.Assembly, c.Stays); err != nil {
		return err
	}
	if choices.Whole, err = named(m.Assembly, c.Whole); err != nil {
		return err
	}
	if c.Reach != "" {
		reach, err := named(m.Assembly, []string{c.Reach})
		if err != nil {
			return err
		}
		choices.Reach = reach[0]
	}
	p, err := firstfilm.Plan(ctx, m, choices, nil)
	if err != nil {
		return err
	}
	if c.Reveal != "" {
		looker, err := firstfilm.NewLooker(m)
		if err != nil {
			return err
		}
		doc, outcome, err := looker.Make(ctx, &p, plan.Writing{Fineness: plan.Fineness(c.Steps), Fresh: "plan"})
		if err != nil {
			return err
		}
		if err := writeFile(c.Reveal, reveal.Write(doc)); err != nil {
			return err
		}
		if !c.JSON {
			fmt.Printf("%d steps in %s. %s\n", len(doc.Steps), c.Reveal, prove.Counts(&outcome))
		}
		if outcome.Open(proof.Fault) > 0 {
			return errFaults
		}
	}
	if c.JSON {
		return printJSON(p)
	}
	printPlan(&p)
	return nil
}

func printPlan(p *plan.Plan) {
	for i, m := range p.Moves {
		with := ""
		if len(m.Tools) > 0 {
			with = " [" + strings.Join(m.Tools, ", ") + "]"
		}
		if m.Collides != "" {
			with += " Goes into " + string(m.Collides) + "."
		}
		fmt.Printf("%3d  %s%s\n", i+1, m.Instruction, with)
	}
	for _, s := range p.Stuck {
		fmt.Printf("Stays: %s. %s\n", s.Node, s.Says)
	}
	fmt.Printf(
		"%d moves of %d parts; it was asked %d times how far a part goes. It stays: %s.\n",
		len(p.Moves),
		p.Parts,
		p.Asked,
		list(p.Stays),
	)
}

func list(nodes []assembly.NodeID) string {
	var names []string
	for _, n := range nodes[:min(len(nodes), 5)] {
		names = append(names, string(n))
	}
	if more := len(nodes) - len(names); more > 0 {
		names = append(names, fmt.Sprintf("and %d more", more))
	}
	return strings.Join(names, ", ")
}

// named finds nodes by id, or by a name that only one has.
func named(a *assembly.Assembly, names []string) (ids []assembly.NodeID, err error) {
	index := a.Index()
	for _, name := range names {
		if _, ok := index[assembly.NodeID(name)]; ok {
			ids = append(ids, assembly.NodeID(name))
			continue
		}
		var found []assembly.NodeID
		for i := range a.Nodes {
			if strings.EqualFold(a.Nodes[i].Name, name) {
				found = append(found, a.Nodes[i].ID)
			}
		}
		switch len(found) {
		case 0:
			return nil, fmt.Errorf("nothing in the assembly is called %q; inspect lists its parts", name)
		case 1:
			ids = append(ids, found[0])
		default:
			return nil, fmt.Errorf(
				"%d things in the assembly are called %q: say which by its id, such as %s",
				len(found),
				name,
				found[0],
			)
		}
	}
	return ids, nil
}

// planned is the film of an assembly for which there is no reveal.
func planned(ctx context.Context, m *product.Model) (*reveal.Reveal, error) {
	p, err := firstfilm.Plan(ctx, m, plan.Choices{}, nil)
	if err != nil {
		return nil, err
	}
	looker, err := firstfilm.NewLooker(m)
	if err != nil {
		return nil, err
	}
	doc, _, err := looker.Make(ctx, &p, plan.Writing{Fresh: "plan"})
	return doc, err
}
