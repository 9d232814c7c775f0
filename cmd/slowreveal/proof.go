package main

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os"

	"slowreveal/core/proof"
	"slowreveal/core/reveal"
	"slowreveal/formats"
	"slowreveal/prove"
	"slowreveal/render"
)

type proofCommand struct {
	reading
	Assembly  string  `required:"" type:"path" help:"Assembly file."`
	Reveal    string  `required:"" type:"path" help:"Reveal document (JSON)."`
	Tolerance float64 `default:"0" help:"How much deeper than at rest parts may lie in one another, mm; 0 for what the reveal says, or 0.1 mm."`
	SolidOnly bool    `help:"Leave parts out while they are see-through."`
	NoMends   bool    `help:"Do not look for changes that mend what is wrong."`
	HTML      string  `name:"html" type:"path" help:"Also write the findings, with pictures, as a page to hand on."`
	JSON      bool    `name:"json" help:"Print the findings as JSON."`
}

// errFaults says that a film is not right; what is wrong has been said.
var errFaults = errors.New("the film has faults")

// Run says what is wrong with a film. It ends with errFaults where there are faults that are not accepted.
func (c *proofCommand) Run(ctx context.Context) error {
	if !(c.Tolerance >= 0 && c.Tolerance <= 10) {
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
	scene, err := render.NewScene(m.Assembly, m.Shapes)
	if err != nil {
		return err
	}
	r, err := found(ctx, m, scene, doc, proof.Settings{Tolerance: c.Tolerance, SolidOnly: c.SolidOnly}, !c.NoMends)
	if err != nil {
		return err
	}
	if c.HTML != "" {
		if err := writePage(c.HTML, m, scene, doc, &r); err != nil {
			return err
		}
	}
	if c.JSON {
		err = printJSON(r)
	} else {
		print(doc, &r)
	}
	if err == nil && r.Open(proof.Fault) > 0 {
		err = errFaults
	}
	return err
}

// found looks at a film, and for mends.
func found(
	ctx context.Context,
	m *formats.Model,
	scene *render.Scene,
	doc *reveal.Reveal,
	settings proof.Settings,
	mends bool,
) (proof.Outcome, error) {
	r, err := prove.Film(ctx, m, scene, doc, settings, nil)
	if err == nil && mends {
		r.Together, err = prove.Mend(
			ctx,
			m,
			scene,
			doc,
			settings,
			&r,
			func(i int, mends []proof.Mend) { r.Findings[i].Mends = mends },
		)
	}
	return r, err
}

func writePage(file string, m *formats.Model, scene *render.Scene, doc *reveal.Reveal, r *proof.Outcome) error {
	if err := replaceable(file); err != nil {
		return err
	}
	var b bytes.Buffer
	if err := prove.Page(&b, m, scene, doc, r, ""); err != nil {
		return err
	}
	if err := os.WriteFile(file, b.Bytes(), 0o644); err != nil {
		return fmt.Errorf("writing the proof: %w", err)
	}
	return nil
}

// print says what was found, and what was looked at.
func print(doc *reveal.Reveal, r *proof.Outcome) {
	for i := range r.Findings {
		f := &r.Findings[i]
		fmt.Printf("%s, step %d: %s\n", f.Level, doc.FindStep(f.Step)+1, f.Says)
		for _, mend := range f.Mends {
			fmt.Printf("  mend: %s\n", mend.Says)
		}
		if f.Accepted != "" {
			fmt.Printf("  accepted: %s\n", f.Accepted)
		}
	}
	for _, p := range r.Passed {
		fmt.Printf("Not looked at: %s and %s, because %s.\n", p.Still, p.Moving, p.Why)
	}
	if r.Beyond > 0 {
		fmt.Printf("Not looked at: %d more pairs of parts that lie close together.\n", r.Beyond)
	}
	fmt.Printf(
		"%d of %d pairs of parts move against each other and come near; looked at for %.2f s with %d checks.\n",
		r.Pairs,
		r.All,
		float64(r.Duration)/1e6,
		len(proof.Checks)-len(r.Left),
	)
	fmt.Println(prove.Counts(r))
}

type checksCommand struct{}

// Run prints what a proof looks for, as docs/proof.md has it.
func (checksCommand) Run() error {
	_, err := fmt.Print(proof.Table())
	return err
}
