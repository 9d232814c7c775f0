package step

import (
	"bufio"
	"context"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"path/filepath"
	"strings"

	"slowreveal/core/assembly"
	"slowreveal/core/product"
	"slowreveal/core/solid"
	"slowreveal/core/space"
	"slowreveal/formats"
)

// head is what stepread says before the arrays.
type head struct {
	Unit        string       `json:"unit"`
	Millimetres float64      `json:"millimetres"`
	Messages    []string     `json:"messages"`
	Colours     [][4]float64 `json:"colours"` // linear RGB and opacity
	Nodes       []node       `json:"nodes"`
	Shapes      []body       `json:"shapes"`
}

type node struct {
	Parent  int         `json:"parent"`
	Name    string      `json:"name"`
	Product string      `json:"product"`
	Place   [12]float64 `json:"place"` // three rows of four: M and T, mm
	Shape   int         `json:"shape"`
	Colour  int         `json:"colour"` // −1 for none
}

type body struct {
	Vertices  int     `json:"vertices"`
	Triangles int     `json:"triangles"`
	Patches   []patch `json:"patches"`
	Volume    float64 `json:"volume"` // mm³, exact
	Area      float64 `json:"area"`
	Solids    int     `json:"solids"`
	Unmeshed  int     `json:"unmeshed"`
}

// patch is a run of triangles; slot 0 takes the part's colour, another one the
// colour with the number before it.
type patch struct {
	Slot  int    `json:"slot"`
	First uint32 `json:"first"`
	Count uint32 `json:"count"`
}

// Read reads the STEP or IGES file at path; the files that it refers to lie in
// the same folder. kind is "step" or "iges".
func Read(ctx context.Context, kind, path string, o formats.Options) (*product.Model, error) {
	var h head
	var meshes []solid.Mesh
	missing, err := checkReferences(kind, path)
	if err != nil {
		return nil, err
	}
	detail := formats.Details[o.Detail]
	err = run(ctx, kind, path, detail, o.Tell, func(out io.Reader) error {
		in := bufio.NewReaderSize(out, 1<<20)
		line, err := headLine(in)
		if err != nil {
			return err
		}
		if err := json.Unmarshal(line, &h); err != nil {
			return fmt.Errorf("the description of the file is not understood: %w", err)
		}
		meshes, err = readMeshes(in, h.Shapes)
		return err
	})
	if err != nil {
		return nil, err
	}
	r := &reader{
		build:    formats.NewBuilder(ctx, o, strings.ToUpper(kind)),
		head:     &h,
		meshes:   meshes,
		shapes:   map[shapeKey]int{},
		finishes: map[int]int{},
	}
	r.build.Detail(detail.Words)
	declared := formats.UnitOf(h.Millimetres, h.Unit)
	r.scale = r.build.Unit(declared, "from the file")
	if declared.Millimetres > 0 { // what arrives is in mm already
		r.scale /= declared.Millimetres
	}
	r.build.Up("z", "usual for "+strings.ToUpper(kind))
	for _, name := range missing {
		r.build.Ignored("the file %s is missing: give it together with %s", name, filepath.Base(path))
	}
	for _, m := range h.Messages {
		r.build.Ignored("%s", m)
	}
	if err := r.tree(o.Name); err != nil {
		return nil, err
	}
	return r.build.Model()
}

// readMeshes reads the arrays that the bodies announce.
func readMeshes(in io.Reader, bodies []body) ([]solid.Mesh, error) {
	meshes := make([]solid.Mesh, len(bodies))
	for i, b := range bodies {
		if b.Vertices < 0 || b.Triangles < 0 || b.Vertices > solid.MaxVertices || b.Triangles > solid.MaxTriangles {
			return nil, fmt.Errorf("a shape has %d triangles; the limit is %d", b.Triangles, solid.MaxTriangles)
		}
		m := solid.Mesh{
			Positions: make([]float32, 3*b.Vertices),
			Normals:   make([]float32, 3*b.Vertices),
			Triangles: make([]uint32, 3*b.Triangles),
		}
		for _, array := range []any{m.Positions, m.Normals, m.Triangles} {
			if err := binary.Read(in, binary.LittleEndian, array); err != nil {
				return nil, errors.New("stepread ended in the middle of its arrays")
			}
		}
		meshes[i] = m
	}
	return meshes, nil
}

type shapeKey struct {
	body    int
	stretch space.Mat3
}

type reader struct {
	build    *formats.Builder
	head     *head
	meshes   []solid.Mesh
	scale    float64
	shapes   map[shapeKey]int
	finishes map[int]int // colour → finish
	children [][]int
}

// tree adds all nodes. Several roots come below one of our own.
func (r *reader) tree(name string) error {
	r.children = make([][]int, len(r.head.Nodes))
	var roots []int
	for i, n := range r.head.Nodes {
		switch {
		case n.Parent >= i || n.Parent < -1 || n.Shape >= len(r.meshes) || n.Colour >= len(r.head.Colours):
			return errors.New("the description of the file contradicts itself")
		case n.Parent < 0:
			roots = append(roots, i)
		default:
			r.children[n.Parent] = append(r.children[n.Parent], i)
		}
	}
	top, parent := formats.Origin, -1
	if len(roots) != 1 {
		parent = r.build.Node(-1, assembly.Node{Name: name, Shape: -1, Pose: assembly.PoseOf(space.Identity)})
	}
	for _, i := range roots {
		if err := r.node(i, parent, &top, name); err != nil {
			return err
		}
	}
	return nil
}

func (r *reader) node(i, parent int, above *formats.NodeTransform, outer string) error {
	n := &r.head.Nodes[i]
	name := nameOf(n, outer)
	label := fmt.Sprintf("%q", name)
	p := &n.Place
	local := formats.Affine{M: space.Mat3{p[0], p[1], p[2], p[4], p[5], p[6], p[8], p[9], p[10]},
		T: space.Vec{X: p[3] * r.scale, Y: p[7] * r.scale, Z: p[11] * r.scale}}
	here, pose, stretch, err := above.Child(&local)
	if err != nil {
		return fmt.Errorf("%s: %w", label, err)
	}
	added := assembly.Node{Name: name, Shape: -1, Pose: pose}
	children := r.children[i]
	holder := n
	if only := r.onlyBody(i); only >= 0 {
		// The file wraps a body into a product of its own: they are one part.
		holder, children = &r.head.Nodes[only], nil
	}
	if holder.Shape >= 0 {
		added.Shape, err = r.shape(holder.Shape, label, stretch)
		switch {
		case errors.Is(err, formats.ErrNothing):
			added.Shape = -1
			r.build.Ignored("%s holds no surface, only points or lines", label)
		case err != nil:
			return err
		default:
			added.Finishes = r.finishesOf(holder)
		}
	}
	at := r.build.Node(parent, added)
	for _, c := range children {
		if err := r.node(c, at, &here, name); err != nil {
			return err
		}
	}
	return nil
}

// onlyBody returns the child that is node i's one body: unnamed, unmoved, and
// beside it nothing with a surface. −1 when there is no such child.
func (r *reader) onlyBody(i int) int {
	only := -1
	for _, c := range r.children[i] {
		n := &r.head.Nodes[c]
		if len(r.children[c]) > 0 || n.Shape < 0 {
			return -1
		}
		if len(r.meshes[n.Shape].Triangles) == 0 {
			continue
		}
		if only >= 0 || !unnamed(n) || n.Place != [12]float64{1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0} {
			return -1
		}
		only = c
	}
	return only
}

// unnamed reports whether a node's names were made up by the kernel.
func unnamed(n *node) bool {
	return strings.HasPrefix(n.Name, "=>[") &&
		(n.Product == "SOLID" || n.Product == "COMPOUND" || n.Product == "SHELL" || n.Product == "")
}

// nameOf prefers the instance's name over the product's; a bare number is no
// name.
func nameOf(n *node, outer string) string {
	switch {
	case unnamed(n):
		return outer
	case n.Name == "" || strings.HasPrefix(n.Name, "=>[") || strings.Trim(n.Name, "0123456789") == "":
		if n.Product != "" {
			return formats.Clipped(n.Product)
		}
		if n.Name == "" {
			return outer
		}
	}
	return formats.Clipped(n.Name)
}

func (r *reader) shape(i int, label string, stretch space.Mat3) (int, error) {
	key := shapeKey{i, stretch}
	if s, ok := r.shapes[key]; ok {
		return s, nil
	}
	m, b := r.meshes[i], &r.head.Shapes[i]
	for _, p := range b.Patches {
		m.Submeshes = append(m.Submeshes, solid.Submesh{First: p.First, Count: p.Count})
	}
	scaled := stretch
	for k := range scaled {
		scaled[k] *= r.scale
	}
	m.Positions, m.Normals, m.Triangles = clone(m.Positions), clone(m.Normals), clone(m.Triangles)
	formats.ScaleShear(&m, &scaled)
	s, err := r.build.Mesh(label, m)
	if err != nil {
		return s, err
	}
	if b.Unmeshed > 0 {
		r.build.Ignored("%s: %d faces could not be turned into triangles", label, b.Unmeshed)
	}
	if b.Solids > 1 {
		r.build.Ignored("%s holds %d solids in one part; Split makes parts of them", label, b.Solids)
	}
	r.shapes[key] = s
	return s, nil
}

func clone[T any](s []T) []T { return append([]T(nil), s...) }

func (r *reader) finishesOf(n *node) []int {
	var f []int
	for _, p := range r.head.Shapes[n.Shape].Patches {
		colour := n.Colour
		if p.Slot > 0 && p.Slot <= len(r.head.Colours) {
			colour = p.Slot - 1
		}
		f = append(f, r.finish(colour))
	}
	return f
}

func (r *reader) finish(colour int) int {
	if f, ok := r.finishes[colour]; ok {
		return f
	}
	f := formats.DefaultFinish
	if colour >= 0 {
		c := r.head.Colours[colour]
		f.Colour, f.Opacity = space.Vec3{c[0], c[1], c[2]}, c[3]
		f.Name = fmt.Sprintf("Colour %d", colour+1)
		for _, v := range c {
			if math.IsNaN(v) || v < 0 || v > 1 {
				f = formats.DefaultFinish
			}
		}
	}
	r.finishes[colour] = r.build.Finish(f)
	return r.finishes[colour]
}
