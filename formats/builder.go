package formats

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"unicode"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/product"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// Builder collects nodes and shapes into a Model. Equal shapes are kept once.
type Builder struct {
	ctx     context.Context
	model   product.Model
	options Options
	namer   assembly.Namer
	known   map[string]int
	zUp     bool
	unit    Unit // that the file was read in

	repaired, ignored notes
}

// NewBuilder returns a builder for an assembly with the name in o. When ctx ends it takes no more
// shapes: readers need not ask between two of them.
func NewBuilder(ctx context.Context, o Options, format string) *Builder {
	return &Builder{
		ctx: ctx,
		model: product.Model{
			Assembly: &assembly.Assembly{Name: o.Name},
			Report: product.Report{
				Format:   format,
				Unit:     Millimetre.Name,
				Up:       "+Y",
				Repaired: []string{},
				Ignored:  []string{},
			},
		},
		options: o,
		known:   map[string]int{},
	}
}

// Unit notes the unit of length that a file declares, with the words that say
// where; the zero Unit when it names none. What a person has said counts more.
// It returns the factor from the file's numbers to millimetres.
func (b *Builder) Unit(declared Unit, where string) float64 {
	r := &b.model.Report
	said, ok := unitBySymbol(b.options.Unit)
	switch {
	case ok && declared.Millimetres == 0:
		r.Unit = said.Name + " (set by hand; the file names none)"
	case ok:
		r.Unit = fmt.Sprintf("%s (set by hand; the file says %s)", said.Name, declared.Name)
	case declared.Millimetres == 0:
		said, r.UnitGuessed = Millimetre, true
		r.Unit = "millimetre (a guess: the file names none)"
	default:
		said, r.Unit = declared, fmt.Sprintf("%s (%s)", declared.Name, where)
	}
	b.unit = said
	return said.Millimetres
}

// Up notes which axis of the file points up, "y" or "z", unless a person has
// said it. The root is turned so that +Y points up.
func (b *Builder) Up(axis, why string) {
	b.model.Report.Up = "+" + strings.ToUpper(axis) + " (" + why + ")"
	if b.options.Up != "" {
		axis = b.options.Up
		b.model.Report.Up = "+" + strings.ToUpper(axis) + " (set by hand)"
	}
	b.zUp = axis == "z"
}

// Detail notes how curved surfaces became triangles.
func (b *Builder) Detail(words string) { b.model.Report.Detail = words }

// Shape adds a shape, or finds the equal one, and returns its index.
func (b *Builder) Shape(s *solid.Shape) int {
	hash := s.Hash()
	if i, ok := b.known[hash]; ok {
		return i
	}
	i := len(b.model.Shapes)
	b.known[hash] = i
	b.model.Shapes = append(b.model.Shapes, s)
	b.model.Assembly.Shapes = append(b.model.Assembly.Shapes, product.ShapeRef(s, hash))
	return i
}

// ErrNothing says that a mesh holds no triangles at all.
var ErrNothing = errors.New("no triangles")

// Mesh makes a shape from a file's arrays, notes what had to be put right under
// the label, and returns the shape's index.
func (b *Builder) Mesh(label string, m solid.Mesh) (int, error) {
	if err := b.ctx.Err(); err != nil {
		return -1, err
	}
	if len(m.Triangles) == 0 {
		return -1, ErrNothing
	}
	shape, done, err := solid.New(m)
	if err != nil {
		return -1, fmt.Errorf("%s: %w", label, err)
	}
	for _, r := range []struct {
		n    int
		what string
	}{
		{done.Degenerate, "triangles without an area were left out"},
		{done.Duplicate, "triangles that were there twice were left out"},
		{done.NotFinite, "triangles with a corner that is no number were left out"},
	} {
		if r.n > 0 {
			b.Repaired("%s: %d %s", label, r.n, r.what)
		}
	}
	switch {
	case done.MadeNormals:
		b.Repaired("%s: missing normals were made", label)
	case done.Flat > 0:
		b.Repaired("%s: %d unusable normals were made anew", label, done.Flat)
	}
	return b.Shape(shape), nil
}

// Finish adds a finish and returns its index.
func (b *Builder) Finish(f assembly.Finish) int {
	b.model.Assembly.Finishes = append(b.model.Assembly.Finishes, f)
	return len(b.model.Assembly.Finishes) - 1
}

// Node adds a node below parent (−1 for the root), gives it an id and returns
// its index. Parents come before their children.
func (b *Builder) Node(parent int, n assembly.Node) int {
	a := b.model.Assembly
	n.Parent, n.ID = parent, assembly.Root
	if parent >= 0 {
		n.ID = b.namer.Child(a.Nodes[parent].ID, n.Name)
	}
	if n.Name = readable(n.Name); n.Name == "" { // after the id, which follows the file's own name
		n.Name = "Part"
		if n.Shape < 0 {
			n.Name = "Group"
		}
	}
	a.Nodes = append(a.Nodes, n)
	return len(a.Nodes) - 1
}

// readable is a name without what cannot be seen: control signs, signs that turn the direction of writing, and more
// than one space at a time.
func readable(name string) string {
	name = strings.Map(func(r rune) rune {
		switch {
		case unicode.IsControl(r):
			return ' '
		case unicode.Is(unicode.Cf, r) && r != '\u200c' && r != '\u200d': // these join letters of some scripts
			return -1
		}
		return r
	}, name)
	return Clipped(strings.Join(strings.Fields(name), " "))
}

// Repaired adds a line on something that the reader put right.
func (b *Builder) Repaired(format string, args ...any) { b.repaired.add(format, args) }

// Ignored adds a line on something that the reader did not understand.
func (b *Builder) Ignored(format string, args ...any) { b.ignored.add(format, args) }

// Model checks what was collected and hands it over.
func (b *Builder) Model() (*product.Model, error) {
	m := &b.model
	if len(m.Assembly.Finishes) == 0 {
		b.Finish(DefaultFinish)
	}
	if b.zUp && len(m.Assembly.Nodes) > 0 {
		root := m.Assembly.Nodes[0].Pose.Rigid()
		turn := space.Rigid{R: zToY}
		m.Assembly.Nodes[0].Pose = assembly.PoseOf(turn.Mul(&root))
	}
	if m.Assembly.Parts() == 0 {
		return nil, errors.New("there is no part with a surface in it")
	}
	if err := m.Assembly.Check(); err != nil {
		return nil, err
	}
	m.Report.Doubt = doubt(r3.Norm(m.Assembly.Bounds().Size()), b.unit)
	m.Count()
	b.mentionEmpty()
	m.Report.Repaired, m.Report.Ignored = b.repaired.list(), b.ignored.list()
	return m, nil
}

// zToY turns +Z up into +Y: (x, y, z) becomes (x, z, −y).
var zToY = space.Mat3{1, 0, 0, 0, 0, 1, 0, -1, 0}

// mentionEmpty notes nodes without any part at or below them.
func (b *Builder) mentionEmpty() {
	nodes := b.model.Assembly.Nodes
	parts := make([]int, len(nodes))
	for i := len(nodes) - 1; i > 0; i-- {
		if nodes[i].IsPart() {
			parts[i]++
		}
		parts[nodes[i].Parent] += parts[i]
	}
	for i := range nodes {
		if parts[i] == 0 && i > 0 {
			b.Ignored("%q is empty: nothing is in it", nodes[i].Name)
		}
	}
}

// Clipped bounds a name to 200 characters.
func Clipped(s string) string {
	if r := []rune(s); len(r) > 200 {
		return string(r[:200])
	}
	return s
}

// maxLines bounds how many lines of one kind a report holds.
// notes are lines of a report by what they say: of many that say the same of different things, the first
// few are named and the rest counted.
type notes struct {
	kinds []string // formats, in the order in which they came
	lines map[string][]string
	count map[string]int
}

const (
	namedOfAKind = 3
	maxKinds     = 200
)

func (n *notes) add(format string, args []any) {
	if n.lines == nil {
		n.lines, n.count = map[string][]string{}, map[string]int{}
	}
	if n.count[format] == 0 {
		if len(n.kinds) >= maxKinds {
			return
		}
		n.kinds = append(n.kinds, format)
	}
	if n.count[format]++; len(n.lines[format]) < namedOfAKind {
		n.lines[format] = append(n.lines[format], fmt.Sprintf(format, args...))
	}
}

// list returns the lines.
func (n *notes) list() []string {
	out := []string{}
	for _, kind := range n.kinds {
		lines := n.lines[kind]
		if more := n.count[kind] - len(lines); more > 0 {
			out = append(out, fmt.Sprintf("%s (and %d more like it)", lines[0], n.count[kind]-1))
			continue
		}
		out = append(out, lines...)
	}
	return out
}

// DefaultFinish is the finish of a surface for which the file names none.
var DefaultFinish = assembly.Finish{Name: "No finish", Colour: [3]float64{0.55, 0.55, 0.53}, Opacity: 1, Roughness: 0.6}
