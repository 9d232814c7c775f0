package gltf

import (
	"bytes"
	"fmt"
	"slices"

	"github.com/qmuntal/gltf"
	"github.com/qmuntal/gltf/modeler"

	"slowreveal/core/assembly"
	"slowreveal/core/product"
	"slowreveal/core/solid"
)

const metre = 1000 // mm

// Write returns the model as a GLB. A shape is written once for each set of
// finishes that it wears.
func Write(m *product.Model) ([]byte, error) { return newWriter(m).bytes() }

func newWriter(m *product.Model) *writer {
	w := &writer{
		doc: gltf.NewDocument(), model: m, meshes: map[string]int{}, arrays: map[int]arrays{},
		further: map[assembly.Finish]int{},
	}
	w.doc.Asset.Generator = "Slow Reveal"
	w.materials()
	w.dress()
	w.nodes()
	return w
}

func (w *writer) bytes() ([]byte, error) {
	var out bytes.Buffer
	e := gltf.NewEncoder(&out)
	e.AsBinary = true
	if err := e.Encode(w.doc); err != nil {
		return nil, fmt.Errorf("writing the GLB: %w", err)
	}
	return out.Bytes(), nil
}

// uses declares an extension.
func (w *writer) uses(extension string) {
	if !slices.Contains(w.doc.ExtensionsUsed, extension) {
		w.doc.ExtensionsUsed = append(w.doc.ExtensionsUsed, extension)
	}
}

type writer struct {
	doc    *gltf.Document
	model  *product.Model
	meshes map[string]int
	arrays map[int]arrays
	// further are the materials of finishes that only variants have, mappings what nodes look like in those.
	further  map[assembly.Finish]int
	mappings [][]variantMapping
}

// arrays are the accessors of a shape's vertices and of each patch.
type arrays struct {
	positions, normals int
	patches            []int
}

func (w *writer) materials() {
	for i := range w.model.Assembly.Finishes {
		w.doc.Materials = append(w.doc.Materials, w.material(&w.model.Assembly.Finishes[i]))
	}
}

func (w *writer) material(f *assembly.Finish) *gltf.Material {
	colour := [4]float64{f.Colour[0], f.Colour[1], f.Colour[2], f.Opacity}
	metal, rough := f.Metalness, f.Roughness
	m := &gltf.Material{Name: f.Name, PBRMetallicRoughness: &gltf.PBRMetallicRoughness{
		BaseColorFactor: &colour, MetallicFactor: &metal, RoughnessFactor: &rough}}
	if f.Opacity < 1 {
		m.AlphaMode = gltf.AlphaBlend
	}
	return m
}

func (w *writer) nodes() {
	a := w.model.Assembly
	w.doc.Nodes = make([]*gltf.Node, len(a.Nodes))
	for i := range a.Nodes {
		n := &a.Nodes[i]
		out := &gltf.Node{
			Name:     n.Name,
			Rotation: n.Pose.Turn.Normalized(),
			Scale:    gltf.DefaultScale,
			Matrix:   gltf.DefaultMatrix,
		}
		for k := range out.Translation {
			out.Translation[k] = n.Pose.Move[k] / metre
		}
		if n.IsPart() {
			out.Mesh = gltf.Index(w.mesh(n, w.mappings[i]))
		}
		w.doc.Nodes[i] = out
		if n.Parent >= 0 {
			w.doc.Nodes[n.Parent].Children = append(w.doc.Nodes[n.Parent].Children, i)
		}
	}
	w.doc.Scenes[0].Nodes = []int{0}
	extras := map[string]any{}
	if len(a.Joints) > 0 {
		extras[mechanismKey] = mechanism{a.Joints, a.Couplings}
	}
	if len(a.Variants) > 0 {
		extras[variantsKey] = a.Variants
	}
	if len(a.Hazards) > 0 {
		extras[hazardsKey] = a.Hazards
	}
	if len(extras) > 0 {
		w.doc.Scenes[0].Extras = extras
	}
}

func (w *writer) mesh(n *assembly.Node, in []variantMapping) int {
	key := fmt.Sprint(n.Shape, n.Finishes, in)
	if i, ok := w.meshes[key]; ok {
		return i
	}
	shape := w.model.Shapes[n.Shape]
	at, ok := w.arrays[n.Shape]
	if !ok {
		at = w.write(shape)
		w.arrays[n.Shape] = at
	}
	mesh := &gltf.Mesh{Name: n.Name}
	for k, indices := range at.patches {
		mesh.Primitives = append(mesh.Primitives, &gltf.Primitive{
			Attributes: gltf.PrimitiveAttributes{gltf.POSITION: at.positions, gltf.NORMAL: at.normals},
			Indices:    gltf.Index(indices), Material: gltf.Index(n.Finishes[k])})
		if len(in) > 0 {
			mesh.Primitives[k].Extensions = gltf.Extensions{variantsExtension: variantMappings{in}}
		}
	}
	w.doc.Meshes = append(w.doc.Meshes, mesh)
	w.meshes[key] = len(w.doc.Meshes) - 1
	return w.meshes[key]
}

func (w *writer) write(s *solid.Shape) arrays {
	points := make([][3]float32, len(s.Positions)/3)
	normals := make([][3]float32, len(points))
	for i := range points {
		for k := range 3 {
			points[i][k] = s.Positions[3*i+k] / metre
		}
		normals[i] = [3]float32(s.Normals[3*i : 3*i+3])
	}
	at := arrays{positions: modeler.WritePosition(w.doc, points), normals: modeler.WriteNormal(w.doc, normals)}
	for _, p := range s.Submeshes {
		at.patches = append(
			at.patches,
			modeler.WriteIndices(w.doc, shortest(s.Triangles[3*p.First:3*(p.First+p.Count)], len(s.Positions)/3)),
		)
	}
	return at
}

// shortest is corners with as many bytes as the number of points takes: 65535 is not a point (glTF 2.0, 3.7.2.1).
func shortest(corners []uint32, points int) any {
	if points > 65535 {
		return corners
	}
	short := make([]uint16, len(corners))
	for i, c := range corners {
		short[i] = uint16(c)
	}
	return short
}
