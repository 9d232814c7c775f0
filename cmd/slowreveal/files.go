package main

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"slowreveal/core/product"
	"slowreveal/core/reveal"
	"slowreveal/core/variant"
	"slowreveal/formats"
	"slowreveal/formats/importer"
	"slowreveal/release"
)

// reading says what a person can tell about assembly files.
type reading struct {
	Unit   string `help:"The file's unit of length: mm, cm, m, in, ft, µm. The file's own when left out."`
	Up     string `help:"The file's axis that points up: y or z. The format's usual one when left out."`
	Detail string `help:"How finely curved surfaces of exact models become triangles: coarse, normal, fine."`
}

// model reads an assembly. What a file refers to (buffers, materials, other STEP
// files) lies beside it.
func (r reading) model(ctx context.Context, name string, paths ...string) (*product.Model, error) {
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
func readReveal(path string, m *product.Model) (*reveal.Reveal, error) {
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
	Variant  string `help:"The product's variant that is shown, by its name; - for the whole assembly. proof and pack take several, with commas between, or all. The one that the reveal is for when left out."`
	Variants string `type:"path" help:"JSON file with the product's variants, as the API has them. Those in the assembly file when left out."`
	Reveal   string `type:"path" help:"Reveal document (JSON). When left out a teardown is planned, and shown with shots, words, the way back and a turn around."`
}

// open reads both files, or plans what is shown.
func (s source) open(ctx context.Context) (*product.Model, *reveal.Reveal, error) {
	m, err := s.product(ctx)
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

// several reports whether more than one variant is asked for.
func (s source) several() bool { return s.Variant == "all" || strings.Contains(s.Variant, ",") }

// chosen are the variants that a command goes through: those that are named, all of them for "all", or the one that is
// shown anyway.
func (s source) chosen(m *product.Model) []string {
	switch {
	case s.Variant == "all":
		return variant.All(m.Assembly)
	case s.several() && m.Assembly.CalledVariant(s.Variant) == nil:
		return strings.Split(s.Variant, ",")
	}
	return []string{s.Variant}
}

// product reads the assembly, and its variants where they lie beside it.
func (s source) product(ctx context.Context) (*product.Model, error) {
	m, err := s.model(ctx, "", s.Assembly)
	if err != nil || s.Variants == "" {
		return m, err
	}
	own := *m.Assembly
	own.Variants = nil
	if err := readSettings(s.Variants, &own.Variants); err != nil {
		return nil, err
	}
	if err := own.Check(); err != nil {
		return nil, fmt.Errorf("%s: %w", s.Variants, err)
	}
	m.Assembly = &own
	return m, nil
}

func printJSON(v any) error {
	text, err := asJSON(v)
	if err != nil {
		return err
	}
	_, err = os.Stdout.Write(text)
	return err
}

func asJSON(v any) ([]byte, error) {
	text, err := json.MarshalIndent(v, "", "  ")
	if err != nil {
		return nil, fmt.Errorf("writing JSON: %w", err)
	}
	return append(text, '\n'), nil
}

// freeName is a name for a file of what has a title, which none of the others has.
func freeName(taken map[string]bool, title, extension string) string {
	base := release.FileName(title)
	name := base + extension
	for n := 2; taken[name]; n++ {
		name = fmt.Sprintf("%s %d%s", base, n, extension)
	}
	taken[name] = true
	return name
}

// writeFile writes data under a temporary name first, so that no half-written
// file is left behind.
func writeFile(path string, data []byte) error { return copyTo(path, bytes.NewReader(data)) }

// copyFile writes a file as another one, which may be a film of any length.
func copyFile(path, from string) error {
	f, err := os.Open(from)
	if err != nil {
		return fmt.Errorf("reading what was made: %w", err)
	}
	defer f.Close()
	return copyTo(path, f)
}

func copyTo(path string, from io.Reader) error {
	if err := replaceable(path); err != nil {
		return err
	}
	part := path + ".part"
	f, err := os.OpenFile(part, os.O_CREATE|os.O_WRONLY|os.O_TRUNC, 0o644)
	if err == nil {
		_, err = io.Copy(f, from)
		err = errors.Join(err, f.Close())
	}
	if err != nil {
		os.Remove(part)
		return fmt.Errorf("writing %s: %w", path, err)
	}
	return os.Rename(part, path)
}
