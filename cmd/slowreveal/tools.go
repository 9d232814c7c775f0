package main

import (
	"context"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/product"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/demo"
	"slowreveal/formats/gltf"
	"slowreveal/release"
)

type sampleCommand struct {
	source
	Time moment `required:"" help:"The moment, seconds."`
}

// nodeAt is one node at a moment. The matrix is column-major, mm, as in glTF.
type nodeAt struct {
	ID      assembly.NodeID `json:"id"`
	Matrix  [16]float64     `json:"matrix"`
	Opacity float64         `json:"opacity"`
}

// Run prints one moment.
func (c *sampleCommand) Run(ctx context.Context) error {
	m, r, err := c.open(ctx)
	if err != nil {
		return err
	}
	f := film.Compile(m.Assembly, r)
	fr := f.NewFrame()
	f.At(c.Time.micros(), fr)
	out := struct {
		Time   reveal.Micros `json:"time"`
		Step   reveal.StepID `json:"step,omitempty"`
		Title  string        `json:"title,omitempty"`
		Camera reveal.Camera `json:"camera"`
		Nodes  []nodeAt      `json:"nodes"`
	}{Time: fr.Time, Camera: fr.Camera}
	if fr.Step >= 0 {
		out.Step, out.Title = f.Reveal.Steps[fr.Step].ID, f.Reveal.Steps[fr.Step].Title
	}
	for i := range f.Assembly.Nodes {
		out.Nodes = append(out.Nodes, nodeAt{f.Assembly.Nodes[i].ID, columns(&fr.World[i]), fr.Opacity[i]})
	}
	return printJSON(out)
}

func columns(m *space.Rigid) [16]float64 {
	r := &m.R
	return [16]float64{r[0], r[3], r[6], 0, r[1], r[4], r[7], 0, r[2], r[5], r[8], 0, m.T.X, m.T.Y, m.T.Z, 1}
}

type validateCommand struct {
	reading
	Assembly string `required:"" type:"path" help:"Assembly file."`
	Reveal   string `type:"path" help:"Reveal document (JSON)."`
}

// Run checks files and says what is wrong, one problem a line.
func (c *validateCommand) Run(ctx context.Context) error {
	m, err := c.model(ctx, "", c.Assembly)
	if err != nil {
		return err
	}
	if c.Reveal != "" {
		doc, err := readReveal(c.Reveal, m)
		if err != nil {
			return err
		}
		if len(doc.Steps) > 0 { // a reveal that is not begun has no words
			w, err := release.Plan(release.Settings{Kind: release.Stills, Captions: true}, m, doc, nil)
			if err != nil {
				return err
			}
			if err := w.Readable(); err != nil {
				fmt.Printf("valid; but %v\n", err)
				return nil
			}
		}
	}
	fmt.Println("valid")
	return nil
}

type demoCommand struct {
	Out    string `required:"" type:"path" help:"Folder to write into."`
	Stress bool   `help:"Write the stress assembly (1,000 parts, 1 M triangles) too."`
}

// Run writes the example's files. The reveals are directed over the assemblies
// as they read back, like any user's.
func (c *demoCommand) Run() error {
	if err := os.MkdirAll(c.Out, 0o755); err != nil {
		return fmt.Errorf("making the folder: %w", err)
	}
	if err := c.write(demo.Pump(), "dp-40", "service-teardown", demo.Teardown); err != nil {
		return err
	}
	if err := c.write(demo.Pump(), "dp-40", "at-work", demo.Running); err != nil {
		return err
	}
	if err := c.write(demo.PumpB(), "dp-40-b", "service-teardown-b", demo.Teardown); err != nil {
		return err
	}
	if err := c.write(demo.Applicator(), "la-3", "labelling", demo.Labelling); err != nil {
		return err
	}
	if !c.Stress {
		return nil
	}
	return c.write(
		demo.Stress(1000, 1000),
		"stress",
		"stress",
		func(a *assembly.Assembly) *reveal.Reveal { return demo.StressReveal(a, 300) },
	)
}

func (c *demoCommand) write(
	m *product.Model,
	assemblyName, revealName string,
	direct func(*assembly.Assembly) *reveal.Reveal,
) error {
	glb, err := gltf.Write(m)
	if err != nil {
		return err
	}
	if err := writeFile(filepath.Join(c.Out, assemblyName+".glb"), glb); err != nil {
		return err
	}
	back, err := gltf.Read(glb, m.Assembly.Name)
	if err != nil {
		return err
	}
	r := direct(back.Assembly)
	if err := reveal.Validate(r, back.Assembly); err != nil {
		return fmt.Errorf("the example's own reveal: %w", err)
	}
	text, err := json.MarshalIndent(r, "", "  ")
	if err != nil {
		return err
	}
	return writeFile(filepath.Join(c.Out, revealName+".reveal.json"), append(text, '\n'))
}
