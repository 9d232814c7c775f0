package obj

import (
	"bufio"
	"bytes"
	"context"
	"errors"
	"fmt"
	"io/fs"
	"math"
	"strconv"
	"strings"

	"slowreveal/core/assembly"
	"slowreveal/core/product"
	"slowreveal/core/solid"
	"slowreveal/core/space"
	"slowreveal/formats"
)

// Read reads an OBJ file; its material libraries lie beside it in files. Errors
// name the line at fault.
func Read(ctx context.Context, data []byte, files fs.FS, o formats.Options) (*product.Model, error) {
	b := formats.NewBuilder(ctx, o, "OBJ")
	r := &reader{
		build:    b,
		files:    files,
		finishes: map[string]int{},
		mm:       b.Unit(formats.Unit{}, ""),
		odd:      map[string]int{},
	}
	b.Up("y", "usual for OBJ")
	lines := bufio.NewScanner(bytes.NewReader(data))
	lines.Buffer(nil, 1<<20)
	for r.line = 1; lines.Scan(); r.line++ {
		if r.line%formats.Often == 0 && ctx.Err() != nil {
			return nil, ctx.Err()
		}
		text := lines.Text()
		for strings.HasSuffix(text, "\\") && len(text) < 1<<20 && lines.Scan() { // a line that goes on
			text = strings.TrimSuffix(text, "\\") + " " + lines.Text()
			r.line++
		}
		if err := r.read(strings.Fields(text)); err != nil {
			return nil, fmt.Errorf("line %d: %w", r.line, err)
		}
	}
	if err := lines.Err(); err != nil {
		return nil, fmt.Errorf("line %d: %w", r.line, err)
	}
	return r.finish(o.Name)
}

type reader struct {
	build    *formats.Builder
	files    fs.FS
	line     int
	mm       float64
	points   [][3]float32
	normals  [][3]float32
	parts    []*part
	byName   map[string]*part
	now      *part
	material string
	finishes map[string]int
	odd      map[string]int // words that are not understood
}

// part collects the triangles of one object or group, by material.
type part struct {
	name  string
	faces map[string][]vertex // three a triangle
	order []string
}

// vertex names a point and, from 1 on, a normal.
type vertex struct{ point, normal int32 }

func (r *reader) read(w []string) error {
	if len(w) == 0 || strings.HasPrefix(w[0], "#") {
		return nil
	}
	switch w[0] {
	case "v":
		return triple(&r.points, w, r.mm)
	case "vn":
		return triple(&r.normals, w, 1)
	case "f":
		return r.face(w[1:])
	case "o", "g":
		return r.open(strings.Join(w[1:], " "))
	case "usemtl":
		r.material = strings.Join(w[1:], " ")
	case "mtllib":
		return r.library(strings.Join(w[1:], " "))
	case "vt", "s", "l", "p":
		// texture places, smoothing groups, lines and points: nothing of a body
	default:
		r.odd[formats.Clipped(w[0])]++
	}
	return nil
}

func triple(to *[][3]float32, w []string, scale float64) error {
	if len(w) < 4 {
		return errors.New("three numbers are needed")
	}
	if len(*to) >= solid.MaxVertices {
		return fmt.Errorf("the file has more than %d points", solid.MaxVertices)
	}
	var v [3]float32
	for k := range v {
		x, err := strconv.ParseFloat(w[k+1], 64)
		if err != nil && !errors.Is(err, strconv.ErrRange) {
			return fmt.Errorf("%q is not a number", formats.Clipped(w[k+1]))
		}
		v[k] = float32(x * scale)
	}
	*to = append(*to, v)
	return nil
}

func (r *reader) open(name string) error {
	if r.byName == nil {
		r.byName = map[string]*part{}
	}
	name = formats.Clipped(strings.ToValidUTF8(name, "�"))
	if r.now = r.byName[name]; r.now != nil {
		return nil
	}
	if len(r.parts) >= assembly.MaxNodes-1 {
		return fmt.Errorf("the file has more than %d objects and groups", assembly.MaxNodes-1)
	}
	r.now = &part{name: name, faces: map[string][]vertex{}}
	r.byName[name] = r.now
	r.parts = append(r.parts, r.now)
	return nil
}

func (r *reader) face(w []string) error {
	if len(w) < 3 {
		return errors.New("a face needs three corners")
	}
	if r.now == nil {
		if err := r.open(""); err != nil {
			return err
		}
	}
	corners := make([]vertex, len(w))
	for i, text := range w {
		fields := strings.Split(text, "/")
		at, err := index(fields[0], len(r.points), "point")
		if err != nil {
			return err
		}
		corners[i].point = int32(at)
		if len(fields) == 3 && fields[2] != "" {
			n, err := index(fields[2], len(r.normals), "normal")
			if err != nil {
				return err
			}
			corners[i].normal = int32(n + 1)
		}
	}
	list, known := r.now.faces[r.material]
	if !known {
		r.now.order = append(r.now.order, r.material)
	}
	for i := 2; i < len(corners); i++ { // a fan: faces are convex as a rule
		list = append(list, corners[0], corners[i-1], corners[i])
	}
	if len(list) > 3*solid.MaxTriangles {
		return fmt.Errorf("a part has more than %d triangles", solid.MaxTriangles)
	}
	r.now.faces[r.material] = list
	return nil
}

// index reads a number from 1 on, or counted back from the last by a negative
// one.
func index(text string, count int, what string) (int, error) {
	n, err := strconv.Atoi(text)
	if err != nil {
		return 0, fmt.Errorf("%q is not the number of a %s", formats.Clipped(text), what)
	}
	if n < 0 {
		n += count + 1
	}
	if n < 1 || n > count {
		return 0, fmt.Errorf("it names %s %s, but there are %d", what, text, count)
	}
	return n - 1, nil
}

func (r *reader) finish(name string) (*product.Model, error) {
	for word, n := range r.odd {
		r.build.Ignored("%d lines with %q", n, word)
	}
	var full []*part
	for _, p := range r.parts {
		if len(p.faces) > 0 {
			full = append(full, p)
		} else if p.name != "" {
			r.build.Ignored("%q has no faces", p.name)
		}
	}
	root := -1
	if len(full) != 1 {
		root = r.build.Node(-1, assembly.Node{Name: name, Shape: -1, Pose: assembly.PoseOf(space.Identity)})
	}
	for i, p := range full {
		label := p.name
		if label == "" {
			label = fmt.Sprintf("Part %d", i+1)
			if len(full) == 1 {
				label = name
			}
		}
		mesh, finishes := r.mesh(p)
		shape, err := r.build.Mesh(fmt.Sprintf("%q", label), mesh)
		if err != nil {
			return nil, err
		}
		r.build.Node(
			root,
			assembly.Node{Name: label, Shape: shape, Finishes: finishes, Pose: assembly.PoseOf(space.Identity)},
		)
	}
	return r.build.Model()
}

func (r *reader) mesh(p *part) (solid.Mesh, []int) {
	var m solid.Mesh
	var finishes []int
	at := map[vertex]uint32{}
	bare := false
	for _, material := range p.order {
		first := uint32(len(m.Triangles) / 3)
		for _, v := range p.faces[material] {
			n, ok := at[v]
			if !ok {
				n = uint32(len(m.Positions) / 3)
				at[v] = n
				m.Positions = append(m.Positions, r.points[v.point][:]...)
				if v.normal > 0 {
					m.Normals = append(m.Normals, r.normals[v.normal-1][:]...)
				} else {
					bare = true
				}
			}
			m.Triangles = append(m.Triangles, n)
		}
		m.Submeshes = append(m.Submeshes, solid.Submesh{First: first, Count: uint32(len(m.Triangles)/3) - first})
		finishes = append(finishes, r.finishOf(material))
	}
	if bare {
		m.Normals = nil
	}
	return m, finishes
}

func (r *reader) finishOf(material string) int {
	if f, ok := r.finishes[material]; ok {
		return f
	}
	f := formats.DefaultFinish
	if material != "" {
		r.build.Ignored("the material %q is in none of the libraries", material)
		f.Name = formats.Clipped(material)
	}
	r.finishes[material] = r.build.Finish(f)
	return r.finishes[material]
}

// library reads the materials of an MTL file. One that is missing costs its
// colours only.
func (r *reader) library(name string) error {
	if strings.ContainsAny(name, "/\\:") || !fs.ValidPath(name) || name == "." {
		return fmt.Errorf(
			"the material library %q is not beside this file; only plain names are opened",
			formats.Clipped(name),
		)
	}
	if r.files == nil {
		r.build.Ignored("the material library %q was not given", name)
		return nil
	}
	data, err := fs.ReadFile(r.files, name)
	if err != nil {
		r.build.Ignored("the material library %q was not given", name)
		return nil
	}
	f, known := formats.DefaultFinish, false
	keep := func() {
		if known {
			r.finishes[f.Name] = r.build.Finish(f)
		}
	}
	for n, text := range strings.Split(string(data), "\n") {
		w := strings.Fields(text)
		if len(w) < 2 {
			continue
		}
		if w[0] == "newmtl" {
			keep()
			f, known = formats.DefaultFinish, true
			f.Name = strings.Join(w[1:], " ")
			continue
		}
		if err := property(&f, w); err != nil {
			return fmt.Errorf("%s, line %d: %w", name, n+1, err)
		}
	}
	keep()
	return nil
}

// property takes over what a line says of a material. Ns is turned into a
// roughness by √(2/(Ns+2)) (common practice, no source).
func property(f *assembly.Finish, w []string) error {
	values := make([]float64, 0, 3)
	for _, text := range w[1:] {
		v, err := strconv.ParseFloat(text, 64)
		if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
			break
		}
		values = append(values, v)
	}
	share := func(v float64) float64 { return max(0, min(v, 1)) }
	switch w[0] {
	case "Kd":
		if len(values) < 3 {
			return errors.New("Kd needs three numbers")
		}
		f.Colour = space.Vec3{
			assembly.Linear(share(values[0])),
			assembly.Linear(share(values[1])),
			assembly.Linear(share(values[2])),
		}
	case "d", "Tr", "Ns":
		if len(values) < 1 {
			return fmt.Errorf("%s needs a number", w[0])
		}
		switch w[0] {
		case "d":
			f.Opacity = share(values[0])
		case "Tr":
			f.Opacity = share(1 - values[0])
		default:
			f.Roughness = share(math.Sqrt(2 / (max(values[0], 0) + 2)))
		}
	}
	return nil
}
