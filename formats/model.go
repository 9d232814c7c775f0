package formats

import (
	"fmt"

	"slowreveal/core/assembly"
	"slowreveal/core/solid"
)

// Model is an assembly together with the shapes that it refers to:
// Assembly.Shapes[i] describes Shapes[i].
type Model struct {
	Assembly *assembly.Assembly
	Shapes   []*solid.Shape
	Report   Report
}

// Report says what a reader found, what it put right, and what it did not
// understand. Nothing is dropped without a line here.
type Report struct {
	Format    string   `json:"format"`
	Unit      string   `json:"unit"` // of the file, and where that is known from
	Parts     int      `json:"parts"`
	Shapes    int      `json:"shapes"`
	Triangles int      `json:"triangles"` // over all parts
	Repaired  []string `json:"repaired"`
	Ignored   []string `json:"ignored"`
}

// Builder collects nodes and shapes into a Model. Equal shapes are kept once.
type Builder struct {
	model Model
	namer assembly.Namer
	known map[string]int
}

// NewBuilder returns a builder for an assembly with the given name.
func NewBuilder(name, format, unit string) *Builder {
	return &Builder{
		model: Model{
			Assembly: &assembly.Assembly{Name: name},
			Report:   Report{Format: format, Unit: unit, Repaired: []string{}, Ignored: []string{}},
		},
		known: map[string]int{},
	}
}

// Shape adds a shape, or finds the equal one, and returns its index.
func (b *Builder) Shape(s *solid.Shape) int {
	hash := s.Hash()
	if i, ok := b.known[hash]; ok {
		return i
	}
	i := len(b.model.Shapes)
	b.known[hash] = i
	b.model.Shapes = append(b.model.Shapes, s)
	b.model.Assembly.Shapes = append(b.model.Assembly.Shapes, ShapeRef(s, hash))
	return i
}

// ShapeRef describes s for an assembly.
func ShapeRef(s *solid.Shape, hash string) assembly.ShapeRef {
	min, max := s.Bounds.Min, s.Bounds.Max
	return assembly.ShapeRef{Hash: hash, Triangles: len(s.Triangles) / 3, Patches: len(s.Patches),
		Min: [3]float64{min.X, min.Y, min.Z}, Max: [3]float64{max.X, max.Y, max.Z}}
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
	a.Nodes = append(a.Nodes, n)
	return len(a.Nodes) - 1
}

// Repaired adds a line on something that the reader put right.
func (b *Builder) Repaired(format string, args ...any) {
	b.model.Report.Repaired = append(b.model.Report.Repaired, fmt.Sprintf(format, args...))
}

// Ignored adds a line on something that the reader did not understand.
func (b *Builder) Ignored(format string, args ...any) {
	b.model.Report.Ignored = append(b.model.Report.Ignored, fmt.Sprintf(format, args...))
}

// Model checks what was collected and hands it over.
func (b *Builder) Model() (*Model, error) {
	m := &b.model
	if len(m.Assembly.Finishes) == 0 {
		b.Finish(Unfinished)
	}
	if err := m.Assembly.Check(); err != nil {
		return nil, err
	}
	m.Report.Parts, m.Report.Shapes = m.Assembly.Parts(), len(m.Shapes)
	for i := range m.Assembly.Nodes {
		if s := m.Assembly.Nodes[i].Shape; s >= 0 {
			m.Report.Triangles += m.Assembly.Shapes[s].Triangles
		}
	}
	if m.Report.Parts == 0 {
		return nil, fmt.Errorf("there is no part with a surface in it")
	}
	return m, nil
}

// Unfinished is the finish of a surface for which the file names none.
var Unfinished = assembly.Finish{Name: "No finish", Colour: [3]float64{0.55, 0.55, 0.53}, Opacity: 1, Roughness: 0.6}
