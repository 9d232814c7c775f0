package main

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"slowreveal/core/product"
	"slowreveal/core/proof"
	"slowreveal/core/reveal"
	"slowreveal/prove"
	"slowreveal/release"
	"slowreveal/render"
)

type proofCommand struct {
	source
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
	m, doc, err := c.open(ctx)
	if err != nil {
		return err
	}
	faults := 0
	var all []proven
	for _, v := range c.chosen(m) {
		p, err := c.prove(ctx, m, doc, v)
		if err != nil {
			return err
		}
		faults += p.Open(proof.Fault)
		all = append(all, p)
	}
	switch {
	case !c.JSON:
		for i := range all {
			if all[i].Variant != "" {
				fmt.Printf("%s:\n", all[i].Variant)
			}
			print(all[i].doc, &all[i].Outcome)
		}
	case len(all) == 1:
		err = printJSON(all[0])
	default:
		err = printJSON(all)
	}
	if err == nil && faults > 0 {
		err = errFaults
	}
	return err
}

// proven is what is wrong with a film in a variant of the product.
type proven struct {
	Variant string `json:"variant,omitempty"`
	proof.Outcome
	doc *reveal.Reveal
}

// prove looks at a film in a variant, and writes its page where one is asked for.
func (c *proofCommand) prove(
	ctx context.Context,
	m *product.Model,
	doc *reveal.Reveal,
	variant string,
) (p proven, err error) {
	m, shown, v, err := m.In(doc, variant)
	if err != nil {
		return p, err
	}
	p.doc = shown
	file := c.HTML
	if v != nil {
		p.Variant = v.Name
		if file != "" && c.several() {
			file = strings.TrimSuffix(file, filepath.Ext(file)) + ", " + release.FileName(v.Name) + filepath.Ext(file)
		}
	}
	scene, err := render.NewScene(m.Assembly, m.Shapes)
	if err != nil {
		return p, err
	}
	settings := proof.Settings{Tolerance: c.Tolerance, SolidOnly: c.SolidOnly}
	if p.Outcome, err = found(ctx, m, scene, shown, settings, !c.NoMends); err != nil || file == "" {
		return p, err
	}
	return p, writePage(file, m, scene, shown, &p.Outcome)
}

// found looks at a film, and for mends.
func found(
	ctx context.Context,
	m *product.Model,
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

func writePage(file string, m *product.Model, scene *render.Scene, doc *reveal.Reveal, r *proof.Outcome) error {
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
