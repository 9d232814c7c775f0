package gltf

import (
	"bytes"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"

	"github.com/qmuntal/gltf"

	"slowreveal/core/assembly"
	"slowreveal/core/space"
	"slowreveal/formats"
)

// MaxFile is the largest GLB that is read, in bytes.
const MaxFile = 1 << 30

const (
	chunkJSON = 0x4E4F534A
	chunkBIN  = 0x004E4942
)

// Read reads a GLB. name names the assembly where the file does not. Errors
// name the node or mesh at fault.
func Read(data []byte, name string) (m *formats.Model, err error) {
	defer func() { // the library indexes by the file's numbers in places
		if p := recover(); p != nil {
			m, err = nil, fmt.Errorf("the file contradicts itself: %v", firstLine(p))
		}
	}()
	if err := checkContainer(data); err != nil {
		return nil, err
	}
	doc := new(gltf.Document)
	if err := gltf.NewDecoder(bytes.NewReader(data)).Decode(doc); err != nil {
		return nil, fmt.Errorf("the file is not readable as GLB: %w", err)
	}
	if len(doc.ExtensionsRequired) > 0 {
		return nil, fmt.Errorf("the file needs the glTF extension %s, which is not understood; export it without", doc.ExtensionsRequired[0])
	}
	r := &reader{doc: doc, build: formats.NewBuilder(name, "GLB (glTF "+doc.Asset.Version+")", "metre (fixed by glTF 2.0)"),
		onPath: make([]bool, len(doc.Nodes)), meshes: map[meshKey]meshed{}, finishes: map[int]int{}, size: len(data)}
	if err := r.scene(name); err != nil {
		return nil, err
	}
	r.remarks()
	return r.build.Model()
}

func firstLine(p any) string {
	s := fmt.Sprint(p)
	if i := bytes.IndexByte([]byte(s), '\n'); i >= 0 {
		s = s[:i]
	}
	return s
}

// checkContainer holds the lengths that a GLB declares against what is there.
func checkContainer(data []byte) error {
	switch {
	case len(data) > MaxFile:
		return fmt.Errorf("the file has %d bytes; the limit is %d", len(data), MaxFile)
	case len(data) < 20 || string(data[:4]) != "glTF":
		return errors.New("the file is not a GLB: it does not begin with «glTF»")
	case binary.LittleEndian.Uint32(data[4:]) != 2:
		return fmt.Errorf("the file is glTF version %d; only version 2 is read", binary.LittleEndian.Uint32(data[4:]))
	}
	if declared := uint64(binary.LittleEndian.Uint32(data[8:])); declared != uint64(len(data)) {
		return fmt.Errorf("the file says that it has %d bytes, but it has %d: it may be cut off", declared, len(data))
	}
	var head struct {
		Buffers []struct{ ByteLength int64 }
	}
	bin := int64(0)
	for at := uint64(12); at+8 <= uint64(len(data)); {
		size, kind := uint64(binary.LittleEndian.Uint32(data[at:])), binary.LittleEndian.Uint32(data[at+4:])
		if at+8+size > uint64(len(data)) {
			return fmt.Errorf("a chunk of the file says that it has %d bytes, more than there are", size)
		}
		switch kind {
		case chunkJSON:
			if err := json.Unmarshal(data[at+8:at+8+size], &head); err != nil {
				return fmt.Errorf("the file's description is not valid JSON: %w", err)
			}
		case chunkBIN:
			bin = int64(size)
		}
		at += 8 + size
	}
	for i, b := range head.Buffers {
		if b.ByteLength < 0 || b.ByteLength > bin {
			return fmt.Errorf("buffer %d says that it has %d bytes, but the file holds %d", i, b.ByteLength, bin)
		}
	}
	return nil
}

type reader struct {
	doc      *gltf.Document
	build    *formats.Builder
	onPath   []bool
	visited  int
	meshes   map[meshKey]meshed
	finishes map[int]int // material → finish
	size     int
}

// affine is a map x ↦ M·x + t as files write it: M may stretch and mirror.
type affine struct {
	m space.Mat3 // any 3 × 3 matrix here
	t space.Vec  // mm
}

func (a *affine) then(b *affine) affine {
	t := a.m.Apply(b.t)
	return affine{m: a.m.Mul(&b.m), t: space.Vec{X: t.X + a.t.X, Y: t.Y + a.t.Y, Z: t.Z + a.t.Z}}
}

func (r *reader) scene(name string) error {
	roots, err := r.roots()
	if err != nil {
		return err
	}
	top := affine{m: space.Identity3}
	if len(roots) == 1 {
		return r.node(roots[0], -1, 0, &top, space.Still, name)
	}
	root := r.build.Node(-1, assembly.Node{Name: name, Shape: -1, Pose: assembly.PoseOf(space.Still)})
	for _, i := range roots {
		if err := r.node(i, root, 1, &top, space.Still, ""); err != nil {
			return err
		}
	}
	return nil
}

// roots returns the nodes of the default scene, or those that are nobody's
// child where there is none.
func (r *reader) roots() ([]int, error) {
	if len(r.doc.Scenes) > 0 {
		scene := 0
		if r.doc.Scene != nil {
			scene = *r.doc.Scene
		}
		if scene < 0 || scene >= len(r.doc.Scenes) {
			return nil, fmt.Errorf("the file names scene %d of %d", scene, len(r.doc.Scenes))
		}
		if n := len(r.doc.Scenes); n > 1 {
			r.build.Ignored("%d of %d scenes: only the default one is taken", n-1, n)
		}
		return r.doc.Scenes[scene].Nodes, nil
	}
	child := make([]bool, len(r.doc.Nodes))
	for _, n := range r.doc.Nodes {
		for _, c := range n.Children {
			if c >= 0 && c < len(child) {
				child[c] = true
			}
		}
	}
	var roots []int
	for i, is := range child {
		if !is {
			roots = append(roots, i)
		}
	}
	if len(roots) == 0 {
		return nil, errors.New("the file has no node that is not inside another one")
	}
	return roots, nil
}

// node adds node i and everything below it. above is the affine map of the
// parent as the file has it, world the rigid pose that the parent was given.
func (r *reader) node(i, parent, depth int, above *affine, world space.Rigid, fallback string) error {
	if i < 0 || i >= len(r.doc.Nodes) {
		return fmt.Errorf("the file names node %d, but there are %d", i, len(r.doc.Nodes))
	}
	n := r.doc.Nodes[i]
	label := fmt.Sprintf("node %d %q", i, n.Name)
	r.visited++
	switch {
	case r.onPath[i]:
		return fmt.Errorf("%s lies inside itself", label)
	case depth > assembly.MaxDepth:
		return fmt.Errorf("%s lies more than %d levels deep", label, assembly.MaxDepth)
	case r.visited > assembly.MaxNodes:
		return fmt.Errorf("the file has more than %d nodes", assembly.MaxNodes)
	}
	r.onPath[i] = true
	defer func() { r.onPath[i] = false }()

	here, err := localOf(n)
	if err != nil {
		return fmt.Errorf("%s: %w", label, err)
	}
	here = above.then(&here)
	rigid, stretch, err := split(&here)
	if err != nil {
		return fmt.Errorf("%s: %w", label, err)
	}
	inverse := world.Inverse()
	added := assembly.Node{Name: r.nameOf(n, i, fallback), Shape: -1, Pose: assembly.PoseOf(inverse.Then(&rigid))}
	if n.Mesh != nil {
		shape, finishes, err := r.mesh(*n.Mesh, stretch)
		switch {
		case errors.Is(err, errNothing):
			r.build.Ignored("%s has no triangles", label)
		case err != nil:
			return fmt.Errorf("%s: %w", label, err)
		default:
			added.Shape, added.Finishes = shape, finishes
			if stretch != space.Identity3 {
				r.build.Repaired("%s is stretched or mirrored; that went into its shape", label)
			}
		}
	}
	at := r.build.Node(parent, added)
	for _, c := range n.Children {
		if err := r.node(c, at, depth+1, &here, rigid, ""); err != nil {
			return err
		}
	}
	return nil
}

func (r *reader) nameOf(n *gltf.Node, i int, fallback string) string {
	switch {
	case n.Name != "":
		return clipped(n.Name)
	case n.Mesh != nil && *n.Mesh >= 0 && *n.Mesh < len(r.doc.Meshes) && r.doc.Meshes[*n.Mesh].Name != "":
		return clipped(r.doc.Meshes[*n.Mesh].Name)
	case fallback != "":
		return fallback
	}
	return fmt.Sprintf("Part %d", i+1)
}

// clipped bounds a name to 200 characters.
func clipped(s string) string {
	if r := []rune(s); len(r) > 200 {
		return string(r[:200])
	}
	return s
}

// remarks adds what the file holds beyond the assembly.
func (r *reader) remarks() {
	for _, x := range []struct {
		n    int
		what string
	}{{len(r.doc.Cameras), "cameras"}, {len(r.doc.Animations), "animations"}, {len(r.doc.Skins), "skins"}, {len(r.doc.Textures), "textures"}} {
		if x.n > 0 {
			r.build.Ignored("%d %s", x.n, x.what)
		}
	}
	for _, e := range r.doc.ExtensionsUsed {
		r.build.Ignored("the extension %s", e)
	}
}
