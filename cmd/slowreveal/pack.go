package main

import (
	"context"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"slowreveal/core/product"
	"slowreveal/core/proof"
	"slowreveal/core/reveal"
	"slowreveal/release"
	"slowreveal/render"
)

type packCommand struct {
	making
	Set string `required:"" type:"path" help:"JSON file with a list of outputs: settings as the API takes them, each with a name."`
	Out string `required:"" type:"path" help:"Folder to write into."`
	// Proof and Refuse say what is done about faults of the film.
	Proof  bool `help:"Also write what was looked for and found: proof.html and proof.json."`
	Refuse bool `name:"refuse-faults" help:"Make nothing of a film with faults that are not accepted."`
}

// proven looks at the film where that is asked for.
func (c *packCommand) proven(ctx context.Context, m *product.Model, doc *reveal.Reveal) error {
	if !c.Proof && !c.Refuse {
		return nil
	}
	scene, err := render.NewScene(m.Assembly, m.Shapes)
	if err != nil {
		return err
	}
	r, err := found(ctx, m, scene, doc, proof.Settings{}, false)
	if err != nil {
		return err
	}
	if c.Proof {
		if err := os.MkdirAll(c.Out, 0o755); err != nil {
			return fmt.Errorf("making the folder: %w", err)
		}
		if err := writePage(filepath.Join(c.Out, "proof.html"), m, scene, doc, &r); err != nil {
			return err
		}
		text, err := json.MarshalIndent(r, "", "  ")
		if err != nil {
			return err
		}
		if err := os.WriteFile(filepath.Join(c.Out, "proof.json"), append(text, '\n'), 0o644); err != nil {
			return fmt.Errorf("writing the proof: %w", err)
		}
	}
	if n := r.Open(proof.Fault); c.Refuse && n > 0 {
		return fmt.Errorf("nothing was made: the film has %d faults, the first: %s", n, firstFault(&r))
	}
	return nil
}

func firstFault(r *proof.Outcome) string {
	for i := range r.Findings {
		if f := &r.Findings[i]; f.Level == proof.Fault && f.Accepted == "" {
			return f.Says
		}
	}
	return ""
}

// Run makes a set of outputs. All of them are checked before the first is begun.
func (c *packCommand) Run(ctx context.Context) error {
	data, err := os.ReadFile(c.Set)
	if err != nil {
		return fmt.Errorf("the set of outputs cannot be read: %w", err)
	}
	var list []release.Settings
	decoder := json.NewDecoder(strings.NewReader(string(data)))
	decoder.DisallowUnknownFields()
	if err := decoder.Decode(&list); err != nil {
		return fmt.Errorf("the set of outputs %s is not a list of settings: %w", c.Set, err)
	}
	model, doc, err := c.open(ctx)
	if err != nil {
		return err
	}
	if c.several() {
		list = release.InVariants(list, c.chosen(model))
	}
	works, paths, err := c.check(ctx, list, model, doc)
	if err != nil {
		return err
	}
	for _, v := range c.chosen(model) {
		m, shown, _, err := model.In(doc, v)
		if err != nil {
			return err
		}
		if err := c.proven(ctx, m, shown); err != nil {
			return err
		}
	}
	if err := os.MkdirAll(c.Out, 0o755); err != nil {
		return fmt.Errorf("making the folder: %w", err)
	}
	all := []made{}
	for i, w := range works {
		done, err := c.output(ctx, w, paths[i])
		if err != nil {
			return fmt.Errorf("output %d (%s): %w", i+1, w.Settings.Name, err)
		}
		all = append(all, done)
	}
	if c.JSON {
		return printJSON(all)
	}
	return nil
}

// check works all outputs of a set out, and what their files are called.
func (c *packCommand) check(
	ctx context.Context,
	list []release.Settings,
	model *product.Model,
	doc *reveal.Reveal,
) (works []*release.Work, paths []string, err error) {
	names := map[string]bool{}
	for i, s := range list {
		w, err := c.plan(ctx, s, model, doc)
		if err != nil {
			return nil, nil, fmt.Errorf("output %d (%s): %w", i+1, s.Name, err)
		}
		name := release.FileName(w.Settings.Name)
		if s.Name == "" {
			name = fmt.Sprintf("output-%d", i+1)
		}
		path := filepath.Join(c.Out, name+"."+w.Extension())
		if names[path] {
			return nil, nil, fmt.Errorf("two outputs would be called %s: give one another name", path)
		}
		if err := replaceable(path); err != nil {
			return nil, nil, err
		}
		names[path] = true
		works, paths = append(works, w), append(paths, path)
	}
	return works, paths, nil
}
