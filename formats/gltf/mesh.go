package gltf

import (
	"errors"
	"fmt"
	"math"

	"github.com/qmuntal/gltf"
	"github.com/qmuntal/gltf/modeler"

	"slowreveal/core/assembly"
	"slowreveal/core/solid"
	"slowreveal/core/space"
	"slowreveal/formats"
)

type meshKey struct {
	mesh    int
	stretch space.Mat3
}

type meshed struct {
	shape    int
	finishes []int
	err      error
}

// mesh returns the shape of mesh i after a stretch, and a finish for each of
// its patches.
func (r *reader) mesh(i int, stretch space.Mat3) (int, []int, error) {
	if i < 0 || i >= len(r.doc.Meshes) {
		return -1, nil, fmt.Errorf("it names mesh %d, but there are %d", i, len(r.doc.Meshes))
	}
	key := meshKey{i, stretch}
	if m, ok := r.meshes[key]; ok {
		return m.shape, m.finishes, m.err
	}
	m := meshed{shape: -1}
	m.shape, m.finishes, m.err = r.readMesh(i, stretch)
	r.meshes[key] = m
	return m.shape, m.finishes, m.err
}

func (r *reader) readMesh(i int, stretch space.Mat3) (int, []int, error) {
	src := r.doc.Meshes[i]
	label := labelOf("mesh", i, src.Name)
	var mesh solid.Mesh
	var finishes []int
	for k, p := range src.Primitives {
		switch p.Mode {
		case gltf.PrimitiveTriangles, gltf.PrimitiveTriangleStrip, gltf.PrimitiveTriangleFan:
		default:
			r.build.Ignored("%s holds points or lines", label)
			continue
		}
		if err := r.primitive(&mesh, p); err != nil {
			return -1, nil, fmt.Errorf("%s, primitive %d: %w", label, k, err)
		}
		if _, ok := p.Attributes[gltf.COLOR_0]; ok {
			r.build.Ignored("%s has colours for single points: parts have one colour", label)
		}
		finishes = append(finishes, r.finish(p.Material))
	}
	for k, v := range mesh.Positions { // glTF 2.0 forbids them
		if f := float64(v); math.IsNaN(f) || math.IsInf(f, 0) {
			return -1, nil, fmt.Errorf("%s: vertex %d is not a finite point", label, k/3)
		}
	}
	formats.ScaleShear(&mesh, &stretch)
	shape, err := r.build.Mesh(label, mesh)
	return shape, finishes, err
}

// primitive appends one primitive to mesh as a patch of its own.
func (r *reader) primitive(mesh *solid.Mesh, p *gltf.Primitive) error {
	pos, ok := p.Attributes[gltf.POSITION]
	if !ok {
		return errors.New("it has no positions")
	}
	acc, err := r.accessor(pos, 12)
	if err != nil {
		return err
	}
	points, err := modeler.ReadPosition(r.doc, acc, nil)
	if err != nil {
		return fmt.Errorf("reading its positions: %w", err)
	}
	normals, err := r.normals(p, len(points))
	if err != nil {
		return err
	}
	triangles, err := r.triangles(p, len(points))
	if err != nil {
		return err
	}
	base, first := uint32(len(mesh.Positions)/3), uint32(len(mesh.Triangles)/3)
	if len(mesh.Normals) == len(mesh.Positions) && normals != nil {
		for _, v := range normals {
			mesh.Normals = append(mesh.Normals, v[:]...)
		}
	} else {
		mesh.Normals = nil // one primitive without normals: all are made anew
	}
	for _, v := range points {
		for _, x := range v {
			mesh.Positions = append(mesh.Positions, float32(float64(x)*r.mm))
		}
	}
	for _, v := range triangles {
		mesh.Triangles = append(mesh.Triangles, base+v)
	}
	mesh.Submeshes = append(mesh.Submeshes, solid.Submesh{First: first, Count: uint32(len(mesh.Triangles)/3) - first})
	return nil
}

func (r *reader) normals(p *gltf.Primitive, want int) ([][3]float32, error) {
	i, ok := p.Attributes[gltf.NORMAL]
	if !ok {
		return nil, nil
	}
	acc, err := r.accessor(i, 3)
	if err != nil {
		return nil, err
	}
	normals, err := modeler.ReadNormal(r.doc, acc, nil)
	if err != nil {
		return nil, fmt.Errorf("reading its normals: %w", err)
	}
	if len(normals) != want {
		return nil, fmt.Errorf("it has %d normals for %d points", len(normals), want)
	}
	return normals, nil
}

// triangles returns the corners of a primitive's triangles, three for each.
func (r *reader) triangles(p *gltf.Primitive, points int) ([]uint32, error) {
	corners, err := r.corners(p, points)
	switch {
	case err != nil:
		return nil, err
	case p.Mode == gltf.PrimitiveTriangleStrip:
		return fromStrip(corners), nil
	case p.Mode == gltf.PrimitiveTriangleFan:
		return fromFan(corners), nil
	case len(corners)%3 != 0 && p.Indices == nil:
		return corners[:len(corners)-len(corners)%3], nil
	case len(corners)%3 != 0:
		return nil, fmt.Errorf("it has %d corners, which is no multiple of 3", len(corners))
	}
	return corners, nil
}

// fromStrip returns the triangles of a strip (glTF 2.0, section 3.7.2.1: every second one is turned
// round), fromFan those of a fan.
func fromStrip(v []uint32) []uint32 {
	var out []uint32
	for i := 0; i+2 < len(v); i++ {
		out = append(out, v[i], v[i+1+i%2], v[i+2-i%2])
	}
	return out
}

func fromFan(v []uint32) []uint32 {
	var out []uint32
	for i := 0; i+2 < len(v); i++ {
		out = append(out, v[i+1], v[i+2], v[0])
	}
	return out
}

func (r *reader) corners(p *gltf.Primitive, points int) ([]uint32, error) {
	if p.Indices == nil {
		all := make([]uint32, points)
		for i := range all {
			all[i] = uint32(i)
		}
		return all, nil
	}
	acc, err := r.accessor(*p.Indices, 1)
	if err != nil {
		return nil, err
	}
	indices, err := modeler.ReadIndices(r.doc, acc, nil)
	if err != nil {
		return nil, fmt.Errorf("reading its triangles: %w", err)
	}
	for _, v := range indices {
		if int(v) >= points {
			return nil, fmt.Errorf("a triangle names point %d, but there are %d", v, points)
		}
	}
	return indices, nil
}

// accessor returns accessor i after holding what it declares against the size
// of the file; each element takes at least `least` bytes.
func (r *reader) accessor(i, least int) (*gltf.Accessor, error) {
	if i < 0 || i >= len(r.doc.Accessors) {
		return nil, fmt.Errorf("it names accessor %d, but there are %d", i, len(r.doc.Accessors))
	}
	a := r.doc.Accessors[i]
	if a.Count < 0 || a.ByteOffset < 0 || a.Count > r.size/least && a.Sparse == nil {
		return nil, fmt.Errorf("accessor %d declares %d elements, more than the file can hold", i, a.Count)
	}
	if a.Sparse != nil && (a.Count > solid.MaxVertices || a.Sparse.Count > a.Count) {
		return nil, fmt.Errorf("accessor %d declares %d elements; the limit is %d", i, a.Count, solid.MaxVertices)
	}
	return a, nil
}

// finish returns the finish for a material.
func (r *reader) finish(material *int) int {
	key := r.materialKey(material)
	if f, ok := r.finishes[key]; ok {
		return f
	}
	f := formats.DefaultFinish
	if key >= 0 {
		f = finishOf(r.doc.Materials[key])
		r.untaken(r.doc.Materials[key], f.Name)
	}
	r.finishes[key] = r.build.Finish(f)
	return r.finishes[key]
}

// materialKey is a material of the file, −1 where there is none.
func (r *reader) materialKey(material *int) int {
	if material != nil && *material >= 0 && *material < len(r.doc.Materials) {
		return *material
	}
	return -1
}

// untaken says what of a material is not taken.
func (r *reader) untaken(m *gltf.Material, name string) {
	if m.EmissiveFactor != [3]float64{} || m.EmissiveTexture != nil {
		r.build.Ignored("the finish %q shines by itself: nothing is lit by parts", name)
	}
	if m.AlphaMode == gltf.AlphaMask {
		r.build.Ignored("the finish %q is cut out by a mask: it is drawn whole", name)
	}
	if m.DoubleSided {
		r.build.Ignored("the finish %q says that it has two sides: all surfaces are drawn from both", name)
	}
}

func finishOf(m *gltf.Material) assembly.Finish {
	f := assembly.Finish{
		Name:      formats.Clipped(m.Name),
		Colour:    [3]float64{1, 1, 1},
		Opacity:   1,
		Metalness: 1,
		Roughness: 1,
	}
	if f.Name == "" {
		f.Name = "Finish"
	}
	if p := m.PBRMetallicRoughness; p != nil {
		if c := p.BaseColorFactor; c != nil {
			f.Colour = [3]float64{share(c[0]), share(c[1]), share(c[2])}
			if m.AlphaMode == gltf.AlphaBlend {
				f.Opacity = share(c[3])
			}
		}
		f.Metalness, f.Roughness = share(p.MetallicFactorOrDefault()), share(p.RoughnessFactorOrDefault())
	}
	return f
}

func share(v float64) float64 { return max(0, min(v, 1)) }
