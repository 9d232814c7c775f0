package main

import (
	"context"
	"fmt"

	"slowreveal/formats/gltf"
)

type gatherCommand struct {
	reading
	Files []string `arg:"" type:"path" help:"Assembly files in one folder, each a configuration of the product; the variants are called as they are."`
	Name  string   `help:"The product's name. That of the first file when left out."`
	Out   string   `required:"" type:"path" help:"GLB to write."`
}

// Run makes one assembly with variants of several files.
func (c *gatherCommand) Run(ctx context.Context) error {
	if len(c.Files) < 2 {
		return fmt.Errorf("there is only %s; give the files of at least two configurations", c.Files[0])
	}
	m, err := c.model(ctx, c.Name, c.Files...)
	if err != nil {
		return err
	}
	data, err := gltf.Write(m)
	if err != nil {
		return err
	}
	for _, line := range m.Report.Variants {
		fmt.Println(line)
	}
	fmt.Printf("%s: %d parts, %d variants\n", c.Out, m.Report.Parts, len(m.Assembly.Variants))
	return writeFile(c.Out, data)
}
