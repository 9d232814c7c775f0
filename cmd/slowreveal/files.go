package main

import (
	"context"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"

	"slowreveal/core/reveal"
	"slowreveal/formats"
	"slowreveal/formats/importer"
)

// reading says what a person can tell about assembly files.
type reading struct {
	Unit   string `help:"The file's unit of length: mm, cm, m, in, ft, µm. The file's own when left out."`
	Up     string `help:"The file's axis that points up: y or z. The format's usual one when left out."`
	Detail string `help:"How finely curved surfaces of exact models become triangles: coarse, normal, fine."`
}

// model reads an assembly. What a file refers to (buffers, materials, other STEP
// files) lies beside it.
func (r reading) model(ctx context.Context, name string, paths ...string) (*formats.Model, error) {
	var names []string
	for _, p := range paths {
		if _, err := os.Stat(p); err != nil {
			return nil, fmt.Errorf("the assembly %s cannot be opened: %w", p, err)
		}
		if filepath.Dir(p) != filepath.Dir(paths[0]) {
			return nil, fmt.Errorf(
				"%s and %s lie in different folders; files that belong together lie in one",
				paths[0],
				p,
			)
		}
		names = append(names, filepath.Base(p))
	}
	return importer.Read(ctx, filepath.Dir(paths[0]), names, r.options(name))
}

func (r reading) options(name string) formats.Options {
	return formats.Options{Name: name, Unit: r.Unit, Up: r.Up, Detail: r.Detail}
}

// readReveal reads a reveal and checks it against the model.
func readReveal(path string, m *formats.Model) (*reveal.Reveal, error) {
	data, err := os.ReadFile(path)
	if err != nil {
		return nil, fmt.Errorf("the reveal %s cannot be read: %w", path, err)
	}
	r, err := reveal.Parse(data)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", path, err)
	}
	if err := reveal.Validate(r, m.Assembly); err != nil {
		return nil, fmt.Errorf("%s: %w", path, err)
	}
	return r, nil
}

// source names the two files that most commands need.
type source struct {
	reading
	Assembly string `required:"" type:"path" help:"Assembly file (GLB, glTF, STEP, IGES, 3MF, STL, OBJ)."`
	Reveal   string `type:"path" help:"Reveal document (JSON). When left out a teardown is planned, and shown with shots, words, the way back and a turn around."`
}

// open reads both files, or plans what is shown.
func (s source) open(ctx context.Context) (*formats.Model, *reveal.Reveal, error) {
	m, err := s.model(ctx, "", s.Assembly)
	if err != nil {
		return nil, nil, err
	}
	if s.Reveal == "" {
		r, err := planned(ctx, m)
		return m, r, err
	}
	r, err := readReveal(s.Reveal, m)
	return m, r, err
}

func printJSON(v any) error {
	e := json.NewEncoder(os.Stdout)
	e.SetIndent("", "  ")
	return e.Encode(v)
}

// writeFile writes data under a temporary name first, so that no half-written
// file is left behind.
func writeFile(path string, data []byte) error {
	if err := replaceable(path); err != nil {
		return err
	}
	part := path + ".part"
	if err := os.WriteFile(part, data, 0o644); err != nil {
		os.Remove(part)
		return fmt.Errorf("writing %s: %w", path, err)
	}
	return os.Rename(part, path)
}
