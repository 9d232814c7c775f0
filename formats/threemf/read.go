package threemf

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"fmt"
	"image/color"
	"math"

	"github.com/hpinc/go3mf"
	"github.com/hpinc/go3mf/materials"

	"slowreveal/core/assembly"
	"slowreveal/core/product"
	"slowreveal/core/solid"
	"slowreveal/core/space"
	"slowreveal/formats"
)

// Limits on what a package unpacks to.
const (
	maxUnpacked = 1 << 30
	maxRatio    = 200 // unpacked to packed; XML of meshes packs 5 to 20 times
	roomForAll  = 16 << 20
)

// Read reads a 3MF package. Errors name the object at fault.
func Read(ctx context.Context, data []byte, o formats.Options) (m *product.Model, err error) {
	defer func() { // the library trusts what it reads in places
		if p := recover(); p != nil {
			m, err = nil, fmt.Errorf("the package contradicts itself: %v", p)
		}
	}()
	if err := checkPackage(data); err != nil {
		return nil, err
	}
	var model go3mf.Model
	d := go3mf.NewDecoder(bytes.NewReader(data), int64(len(data)))
	d.Strict = false
	if err := d.DecodeContext(ctx, &model); err != nil {
		return nil, fmt.Errorf("the file is not readable as 3MF: %w", err)
	}
	r := &reader{
		ctx:      ctx,
		model:    &model,
		build:    formats.NewBuilder(ctx, o, "3MF"),
		shapes:   map[shapeKey]shaped{},
		finishes: map[assembly.Finish]int{},
		onPath:   map[*go3mf.Object]bool{},
	}
	r.mm = r.build.Unit(unit(model.Units), "from the file")
	r.build.Up("z", "usual for 3MF")
	if err := r.items(o.Name); err != nil {
		return nil, err
	}
	for _, a := range model.Attachments {
		r.build.Ignored("the attachment %s", formats.Clipped(a.Path))
	}
	return r.build.Model()
}

// checkPackage looks at what the package declares before anything is unpacked.
// More than it declares never comes out: archive/zip stops there.
func checkPackage(data []byte) error {
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return fmt.Errorf("the file is not a 3MF package (ZIP): %w", err)
	}
	total := uint64(0)
	for _, f := range z.File {
		if total += f.UncompressedSize64; total > maxUnpacked {
			return fmt.Errorf("the package unpacks to more than %d bytes", maxUnpacked)
		}
	}
	if total > roomForAll && total > maxRatio*uint64(len(data)) {
		return fmt.Errorf(
			"the package unpacks to %d times its size; the limit is %d",
			total/uint64(len(data)),
			maxRatio,
		)
	}
	return nil
}

func unit(u go3mf.Units) formats.Unit {
	mm := map[go3mf.Units]float64{
		go3mf.UnitMicrometer: 0.001,
		go3mf.UnitMillimeter: 1,
		go3mf.UnitCentimeter: 10,
		go3mf.UnitMeter:      1000,
		go3mf.UnitInch:       25.4,
		go3mf.UnitFoot:       304.8,
	}
	return formats.UnitOf(mm[u], u.String())
}

type shapeKey struct {
	object  *go3mf.Object
	stretch space.Mat3
}

type shaped struct {
	shape    int
	finishes []int
}

type reader struct {
	ctx      context.Context
	model    *go3mf.Model
	build    *formats.Builder
	mm       float64
	shapes   map[shapeKey]shaped
	finishes map[assembly.Finish]int
	onPath   map[*go3mf.Object]bool
	visited  int
}

func (r *reader) items(name string) error {
	root := -1
	items := r.model.Build.Items
	if len(items) != 1 {
		root = r.build.Node(-1, assembly.Node{Name: name, Shape: -1, Pose: assembly.PoseOf(space.Identity)})
	}
	top := formats.Origin
	for i, item := range items {
		path := item.ObjectPath()
		if path == "" {
			path = r.model.PathOrDefault()
		}
		if err := r.object(path, item.ObjectID, item.Transform, root, root+1, &top, item.PartNumber); err != nil {
			return fmt.Errorf("item %d of the build: %w", i+1, err)
		}
	}
	return nil
}

// object adds an object and its components at their place below above.
func (r *reader) object(
	path string,
	id uint32,
	transform go3mf.Matrix,
	parent, depth int,
	above *formats.NodeTransform,
	name string,
) error {
	o, ok := r.model.FindObject(path, id)
	if !ok {
		return fmt.Errorf("object %d is not there", id)
	}
	if o.Name != "" {
		name = o.Name
	}
	if name == "" {
		name = fmt.Sprintf("Object %d", id)
	}
	label := fmt.Sprintf("object %d %q", id, formats.Clipped(name))
	r.visited++
	switch {
	case r.ctx.Err() != nil:
		return r.ctx.Err()
	case r.onPath[o]:
		return fmt.Errorf("%s lies inside itself", label)
	case depth > assembly.MaxDepth:
		return fmt.Errorf("%s lies more than %d levels deep", label, assembly.MaxDepth)
	case r.visited > assembly.MaxNodes:
		return fmt.Errorf("the file has more than %d nodes", assembly.MaxNodes)
	}
	r.onPath[o] = true
	defer delete(r.onPath, o)
	local := r.affine(transform)
	here, pose, stretch, err := above.Child(&local)
	if err != nil {
		return fmt.Errorf("%s: %w", label, err)
	}
	node := assembly.Node{Name: formats.Clipped(name), Shape: -1, Pose: pose}
	if o.Mesh != nil {
		s, err := r.shape(o, path, label, stretch)
		switch {
		case errors.Is(err, formats.ErrNothing):
			r.build.Ignored("%s has no triangles", label)
		case err != nil:
			return err
		default:
			node.Shape, node.Finishes = s.shape, s.finishes
			if stretch != space.Identity3 {
				r.build.Repaired("%s is stretched or mirrored; that went into its shape", label)
			}
		}
	}
	at := r.build.Node(parent, node)
	if o.Components == nil {
		return nil
	}
	for _, c := range o.Components.Component {
		if err := r.object(c.ObjectPath(path), c.ObjectID, c.Transform, at, depth+1, &here, ""); err != nil {
			return err
		}
	}
	return nil
}

// affine takes a 3MF transform over, whose rows are the images of the axes and,
// last, of the origin.
func (r *reader) affine(t go3mf.Matrix) formats.Affine {
	if t == (go3mf.Matrix{}) {
		return formats.IdentityAffine
	}
	v := func(i int) float64 { return float64(t[i]) }
	return formats.Affine{
		M: space.Mat3{v(0), v(4), v(8), v(1), v(5), v(9), v(2), v(6), v(10)},
		T: space.Vec{X: v(12) * r.mm, Y: v(13) * r.mm, Z: v(14) * r.mm},
	}
}

func (r *reader) shape(o *go3mf.Object, path, label string, stretch space.Mat3) (shaped, error) {
	key := shapeKey{o, stretch}
	if s, ok := r.shapes[key]; ok {
		return s, nil
	}
	var m solid.Mesh
	for _, v := range o.Mesh.Vertices.Vertex {
		for _, x := range v {
			m.Positions = append(m.Positions, float32(float64(x)*r.mm))
		}
	}
	byFinish := map[assembly.Finish][]uint32{}
	var order []assembly.Finish
	for _, t := range o.Mesh.Triangles.Triangle {
		pid, p := t.PID, t.P1
		if pid == 0 {
			pid, p = o.PID, o.PIndex
		}
		f := r.finish(path, pid, p)
		if _, ok := byFinish[f]; !ok {
			order = append(order, f)
		}
		byFinish[f] = append(byFinish[f], t.V1, t.V2, t.V3)
	}
	s := shaped{shape: -1}
	for _, f := range order {
		first := uint32(len(m.Triangles) / 3)
		m.Triangles = append(m.Triangles, byFinish[f]...)
		m.Submeshes = append(m.Submeshes, solid.Submesh{First: first, Count: uint32(len(m.Triangles)/3) - first})
		s.finishes = append(s.finishes, r.finishIndex(f))
	}
	formats.ScaleShear(&m, &stretch)
	var err error
	if s.shape, err = r.build.Mesh(label, m); err != nil {
		return s, err
	}
	r.shapes[key] = s
	return s, nil
}

func (r *reader) finishIndex(f assembly.Finish) int {
	i, ok := r.finishes[f]
	if !ok {
		i = r.build.Finish(f)
		r.finishes[f] = i
	}
	return i
}

// finish returns what property p of the group pid looks like.
func (r *reader) finish(path string, pid, p uint32) assembly.Finish {
	f := formats.DefaultFinish
	asset, ok := r.model.FindAsset(path, pid)
	if pid == 0 || !ok {
		return f
	}
	var c color.RGBA
	switch a := asset.(type) {
	case *go3mf.BaseMaterials:
		if int(p) >= len(a.Materials) {
			return f
		}
		c, f.Name = a.Materials[p].Color, formats.Clipped(a.Materials[p].Name)
	case *materials.ColorGroup:
		if int(p) >= len(a.Colors) {
			return f
		}
		c = a.Colors[p]
		f.Name = fmt.Sprintf("#%02x%02x%02x", c.R, c.G, c.B)
	default:
		return f
	}
	for k, v := range [3]uint8{c.R, c.G, c.B} {
		f.Colour[k] = assembly.Linear(float64(v) / 255)
	}
	f.Opacity = math.Round(float64(c.A)/255*1e4) / 1e4
	return f
}
