package main

import (
	"encoding/json"
	"fmt"
	"image"
	"image/png"
	"os"
	"path/filepath"
	"strings"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/formats"
	"slowreveal/formats/gltf"
	"slowreveal/render"
)

// readModel reads an assembly file.
func readModel(path string) (*formats.Model, error) {
	info, err := os.Stat(path)
	if err != nil {
		return nil, fmt.Errorf("the assembly %s cannot be opened: %w", path, err)
	}
	if info.Size() > gltf.MaxFile {
		return nil, fmt.Errorf("%s has %d bytes; the limit is %d", path, info.Size(), gltf.MaxFile)
	}
	data, err := os.ReadFile(path)
	if err != nil {
		return nil, fmt.Errorf("the assembly %s cannot be read: %w", path, err)
	}
	m, err := gltf.Read(data, strings.TrimSuffix(filepath.Base(path), filepath.Ext(path)))
	if err != nil {
		return nil, fmt.Errorf("%s: %w", path, err)
	}
	return m, nil
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
	Assembly string `required:"" type:"path" help:"Assembly file (GLB)."`
	Reveal   string `required:"" type:"path" help:"Reveal document (JSON)."`
}

// open reads both files.
func (s source) open() (*film.Film, *render.Scene, error) {
	m, err := readModel(s.Assembly)
	if err != nil {
		return nil, nil, err
	}
	r, err := readReveal(s.Reveal, m)
	if err != nil {
		return nil, nil, err
	}
	scene, err := render.NewScene(m.Assembly, m.Shapes)
	return film.Compile(m.Assembly, r), scene, err
}

func printJSON(v any) error {
	e := json.NewEncoder(os.Stdout)
	e.SetIndent("", "  ")
	return e.Encode(v)
}

// writeFile writes data under a temporary name first, so that no half-written
// file is left behind.
func writeFile(path string, data []byte) error {
	part := path + ".part"
	if err := os.WriteFile(part, data, 0o644); err != nil {
		os.Remove(part)
		return fmt.Errorf("writing %s: %w", path, err)
	}
	return os.Rename(part, path)
}

func writePNG(path string, p *render.Picture) error {
	img := image.NewNRGBA(image.Rect(0, 0, p.Width, p.Height))
	for i := range p.Width * p.Height {
		copy(img.Pix[4*i:], p.RGB[3*i:3*i+3])
		img.Pix[4*i+3] = 255
	}
	f, err := os.Create(path)
	if err != nil {
		return fmt.Errorf("writing %s: %w", path, err)
	}
	defer f.Close()
	if err := png.Encode(f, img); err != nil {
		return fmt.Errorf("writing %s: %w", path, err)
	}
	return f.Close()
}
