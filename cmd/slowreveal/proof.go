package main

import (
	"context"
	"errors"
	"fmt"

	"slowreveal/core/film"
	"slowreveal/core/proof"
)

type proofCommand struct {
	reading
	Assembly  string  `required:"" type:"path" help:"Assembly file."`
	Reveal    string  `required:"" type:"path" help:"Reveal document (JSON)."`
	Tolerance float64 `default:"0.1" help:"How much deeper than at rest parts may lie in one another, mm."`
	SolidOnly bool    `help:"Leave parts out while they are see-through."`
	JSON      bool    `name:"json" help:"Print the findings as JSON."`
}

// errFaults says that a film is not right; what is wrong has been said.
var errFaults = errors.New("the film has faults")

// Run says where parts go into one another. It ends with errFaults where they do.
func (c *proofCommand) Run(ctx context.Context) error {
	if !(c.Tolerance > 0 && c.Tolerance <= 10) {
		return fmt.Errorf("--tolerance: %g mm is not between 0 and 10 mm", c.Tolerance)
	}
	m, err := c.model(ctx, "", c.Assembly)
	if err != nil {
		return err
	}
	doc, err := readReveal(c.Reveal, m)
	if err != nil {
		return err
	}
	r, err := proof.Interference(ctx, film.Compile(m.Assembly, doc), m.Shapes, proof.Settings{Tolerance: c.Tolerance, SolidOnly: c.SolidOnly})
	if err != nil {
		return err
	}
	if c.JSON {
		if err := printJSON(r); err != nil {
			return err
		}
	} else {
		for i := range r.Findings {
			fmt.Println(r.Findings[i].Words(m.Assembly, doc))
		}
		for _, p := range r.Passed {
			fmt.Printf("Not looked at: %s and %s, because %s.\n", p.Still, p.Moving, p.Why)
		}
		if r.Beyond > 0 {
			fmt.Printf("Not looked at: %d more pairs of parts that lie close together.\n", r.Beyond)
		}
		fmt.Printf("%d of %d pairs of parts move against each other and come near; looked at for %.2f s, tolerance %g mm: %d findings.\n", r.Pairs, r.All, float64(r.Duration)/1e6, r.Tolerance, len(r.Findings))
	}
	if len(r.Findings) > 0 {
		return errFaults
	}
	return nil
}
