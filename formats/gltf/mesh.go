package gltf

import (
	"errors"
	"fmt"

	"github.com/qmuntal/gltf"
	"github.com/qmuntal/gltf/modeler"

	"slowreveal/core/assembly"
	"slowreveal/core/solid"
	"slowreveal/core/space"
	"slowreveal/formats"
)

// errNothing says that a mesh holds no triangles at all.
var errNothing = errors.New("no triangles")

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
	var mesh solid.Mesh
	var finishes []int
	for k, p := range src.Primitives {
		if p.Mode != gltf.PrimitiveTriangles {
			r.build.Ignored("mesh %d %q holds points, lines or strips", i, src.Name)
			continue
		}
		if err := r.primitive(&mesh, p, &stretch); err != nil {
			return -1, nil, fmt.Errorf("mesh %d %q, primitive %d: %w", i, src.Name, k, err)
		}
		finishes = append(finishes, r.finish(p.Material))
	}
	if len(mesh.Triangles) == 0 {
		return -1, nil, errNothing
	}
	shape, repairs, err := solid.New(mesh)
	if err != nil {
		return -1, nil, fmt.Errorf("mesh %d %q: %w", i, src.Name, err)
	}
	if repairs.Degenerate > 0 {
		r.build.Repaired("mesh %d %q: %d triangles without an area were left out", i, src.Name, repairs.Degenerate)
	}
	if repairs.MadeNormals || repairs.Flat > 0 {
		r.build.Repaired("mesh %d %q: missing normals were made", i, src.Name)
	}
	return r.build.Shape(shape), finishes, nil
}

// primitive appends one primitive to mesh as a patch of its own.
func (r *reader) primitive(mesh *solid.Mesh, p *gltf.Primitive, stretch *space.Mat3) error {
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
	turn := inverseTransposed(stretch)
	mirrored := determinant(stretch) < 0
	complete := len(mesh.Normals) == len(mesh.Positions) && normals != nil
	for _, v := range points {
		w := stretch.Apply(space.Vec{X: float64(v[0]) * millimetres, Y: float64(v[1]) * millimetres, Z: float64(v[2]) * millimetres})
		mesh.Positions = append(mesh.Positions, float32(w.X), float32(w.Y), float32(w.Z))
	}
	if complete {
		for _, v := range normals {
			w := turn.Apply(space.Vec{X: float64(v[0]), Y: float64(v[1]), Z: float64(v[2])})
			mesh.Normals = append(mesh.Normals, float32(w.X), float32(w.Y), float32(w.Z))
		}
	} else {
		mesh.Normals = nil // one primitive without normals: all are made anew
	}
	for t := 0; t+2 < len(triangles); t += 3 {
		a, b, c := triangles[t], triangles[t+1], triangles[t+2]
		if mirrored {
			b, c = c, b
		}
		mesh.Triangles = append(mesh.Triangles, base+a, base+b, base+c)
	}
	mesh.Patches = append(mesh.Patches, solid.Patch{First: first, Count: uint32(len(mesh.Triangles)/3) - first})
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

func (r *reader) triangles(p *gltf.Primitive, points int) ([]uint32, error) {
	if p.Indices == nil {
		all := make([]uint32, points)
		for i := range all {
			all[i] = uint32(i)
		}
		return all[:points-points%3], nil
	}
	acc, err := r.accessor(*p.Indices, 1)
	if err != nil {
		return nil, err
	}
	indices, err := modeler.ReadIndices(r.doc, acc, nil)
	if err != nil {
		return nil, fmt.Errorf("reading its triangles: %w", err)
	}
	if len(indices)%3 != 0 {
		return nil, fmt.Errorf("it has %d corners, which is no multiple of 3", len(indices))
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
	key := -1
	if material != nil && *material >= 0 && *material < len(r.doc.Materials) {
		key = *material
	}
	if f, ok := r.finishes[key]; ok {
		return f
	}
	f := formats.Unfinished
	if key >= 0 {
		f = finishOf(r.doc.Materials[key])
	}
	r.finishes[key] = r.build.Finish(f)
	return r.finishes[key]
}

func finishOf(m *gltf.Material) assembly.Finish {
	f := assembly.Finish{Name: clipped(m.Name), Colour: [3]float64{1, 1, 1}, Opacity: 1, Metalness: 1, Roughness: 1}
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
