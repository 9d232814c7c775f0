package gltf

import (
	"bytes"
	"context"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"net/url"
	"strings"

	"github.com/qmuntal/gltf"

	"slowreveal/core/assembly"
	"slowreveal/core/product"
	"slowreveal/core/space"
	"slowreveal/formats"
)

const (
	chunkJSON = 0x4E4F534A
	chunkBIN  = 0x004E4942
)

// Read reads a GLB. name names the assembly where the file does not. Errors
// name the node or mesh at fault.
func Read(data []byte, name string) (*product.Model, error) {
	return ReadWith(context.Background(), data, nil, formats.Options{Name: name})
}

// ReadWith reads a GLB, or a glTF file whose buffers lie beside it in files.
// Only plain names in files are opened.
func ReadWith(ctx context.Context, data []byte, files fs.FS, o formats.Options) (m *product.Model, err error) {
	defer func() { // the library indexes by the file's numbers in places
		if p := recover(); p != nil {
			m, err = nil, fmt.Errorf("the file contradicts itself: %v", firstLine(p))
		}
	}()
	size, kind := len(data), "GLB"
	if bytes.HasPrefix(bytes.TrimSpace(data), []byte("{")) {
		beside, err := checkText(data, files)
		if err != nil {
			return nil, err
		}
		size, kind = size+beside, "glTF"
	} else if err := checkContainer(data); err != nil {
		return nil, err
	}
	doc := new(gltf.Document)
	if err := gltf.NewDecoderFS(bytes.NewReader(data), files).Decode(doc); err != nil {
		return nil, fmt.Errorf("the file is not readable as %s: %w", kind, err)
	}
	if len(doc.ExtensionsRequired) > 0 {
		return nil, fmt.Errorf(
			"the file needs the glTF extension %s, which is not understood; export it without%s",
			doc.ExtensionsRequired[0],
			compression(doc.ExtensionsRequired[0]),
		)
	}
	r := &reader{doc: doc, build: formats.NewBuilder(ctx, o, kind+" (glTF "+doc.Asset.Version+")"),
		onPath: make(
			[]bool,
			len(doc.Nodes),
		), meshes: map[meshKey]meshed{}, finishes: map[int]int{}, meshOf: map[int]int{},
		mappings: map[*gltf.Primitive][]variantMapping{}, size: size}
	r.mm = r.build.Unit(formats.UnitOf(1000, "metre"), "fixed by glTF 2.0")
	r.build.Up("y", "fixed by glTF 2.0")
	if err := r.scene(o.Name); err != nil {
		return nil, err
	}
	r.readFinishes()
	r.remarks()
	if m, err = r.build.Model(); err == nil {
		r.takeExtras(m)
		r.takeVariants(m)
	}
	return m, err
}

func compression(extension string) string {
	if strings.Contains(extension, "draco") || strings.Contains(extension, "meshopt") {
		return " compression"
	}
	return ""
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
	case len(data) > formats.MaxFile:
		return fmt.Errorf("the file has %d bytes; the limit is %d", len(data), formats.MaxFile)
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

// checkText looks at the buffers that a glTF file names: each must be in the
// file itself or be a plain name in files. It returns the size of what lies
// beside the file.
func checkText(data []byte, files fs.FS) (int, error) {
	var head struct {
		Buffers []struct {
			ByteLength int64
			URI        string
		}
	}
	if err := json.Unmarshal(data, &head); err != nil {
		return 0, fmt.Errorf("the file is not valid JSON: %w", err)
	}
	total := int64(0)
	for i, b := range head.Buffers {
		name, err := url.PathUnescape(b.URI)
		switch {
		case strings.HasPrefix(b.URI, "data:"):
			continue
		case err != nil || name == "" || strings.ContainsAny(name, "/\\:") || !fs.ValidPath(name):
			return 0, fmt.Errorf(
				"buffer %d lies at %q; only files that lie beside this one are opened",
				i,
				formats.Clipped(b.URI),
			)
		case files == nil:
			return 0, fmt.Errorf("buffer %d lies in the file %q; give it together with this one", i, name)
		}
		info, err := fs.Stat(files, name)
		if err != nil {
			return 0, fmt.Errorf(
				"buffer %d lies in the file %q, which is missing; give it together with this one",
				i,
				name,
			)
		}
		if b.ByteLength < 0 || b.ByteLength > info.Size() {
			return 0, fmt.Errorf(
				"buffer %d says that it has %d bytes, but %q holds %d",
				i,
				b.ByteLength,
				name,
				info.Size(),
			)
		}
		total += info.Size()
	}
	if total > formats.MaxFile {
		return 0, fmt.Errorf("the buffers have %d bytes; the limit is %d", total, formats.MaxFile)
	}
	return int(total), nil
}

type reader struct {
	doc      *gltf.Document
	build    *formats.Builder
	onPath   []bool
	visited  int
	meshes   map[meshKey]meshed
	finishes map[int]int // material → finish
	meshOf   map[int]int // node of the assembly → mesh
	mappings map[*gltf.Primitive][]variantMapping
	size     int
	mm       float64 // in one unit of the file
}

func (r *reader) scene(name string) error {
	roots, err := r.roots()
	if err != nil {
		return err
	}
	top := formats.Origin
	if len(roots) == 1 {
		return r.node(roots[0], -1, 0, &top, name)
	}
	root := r.build.Node(-1, assembly.Node{Name: name, Shape: -1, Pose: assembly.PoseOf(space.Identity)})
	for _, i := range roots {
		if err := r.node(i, root, 1, &top, ""); err != nil {
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

// node adds node i and everything below it, at its place below that of its
// parent.
func (r *reader) node(i, parent, depth int, above *formats.NodeTransform, fallback string) error {
	if i < 0 || i >= len(r.doc.Nodes) {
		return fmt.Errorf("the file names node %d, but there are %d", i, len(r.doc.Nodes))
	}
	n := r.doc.Nodes[i]
	label := labelOf("node", i, n.Name)
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

	local, err := localOf(n, r.mm)
	if err != nil {
		return fmt.Errorf("%s: %w", label, err)
	}
	here, pose, stretch, err := above.Child(&local)
	if errors.Is(err, formats.ErrFlat) && parent >= 0 {
		r.build.Ignored("%s is scaled to nothing; it is left out with what is in it", label)
		return nil
	}
	if err != nil {
		return fmt.Errorf("%s: %w", label, err)
	}
	added := assembly.Node{Name: r.nameOf(n, i, fallback), Shape: -1, Pose: pose}
	if n.Mesh != nil {
		shape, finishes, err := r.mesh(*n.Mesh, stretch)
		switch {
		case errors.Is(err, formats.ErrNothing):
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
	if n.Mesh != nil {
		r.meshOf[at] = *n.Mesh
	}
	for _, c := range n.Children {
		if err := r.node(c, at, depth+1, &here, ""); err != nil {
			return err
		}
	}
	return nil
}

// labelOf names something of the file in a report: by its number, and its name where it has one.
func labelOf(what string, i int, name string) string {
	if name == "" {
		return fmt.Sprintf("%s %d", what, i)
	}
	return fmt.Sprintf("%s %d %q", what, i, formats.Clipped(name))
}

func (r *reader) nameOf(n *gltf.Node, i int, fallback string) string {
	switch {
	case n.Name != "":
		return formats.Clipped(n.Name)
	case n.Mesh != nil && *n.Mesh >= 0 && *n.Mesh < len(r.doc.Meshes) && r.doc.Meshes[*n.Mesh].Name != "":
		return formats.Clipped(r.doc.Meshes[*n.Mesh].Name)
	case fallback != "":
		return fallback
	}
	return fmt.Sprintf("Part %d", i+1)
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
		if e == variantsExtension {
			continue
		}
		r.build.Ignored("the extension %s", e)
	}
}
