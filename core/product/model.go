// Package product is what a project is of: an assembly with the shapes of its parts, and what their reader has reported.
package product

import (
	"slowreveal/core/assembly"
	"slowreveal/core/match"
	"slowreveal/core/solid"
	"slowreveal/core/space"
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
	Format string `json:"format"`
	// Unit is the file's unit of length and where that is known from.
	Unit string `json:"unit"`
	// UnitGuessed says that the file names no unit and nobody has said one.
	UnitGuessed bool `json:"unitGuessed"`
	// Doubt is set where the assembly has an unlikely size.
	Doubt *Doubt `json:"doubt,omitempty"`
	// Up says which axis of the file points up, and why.
	Up string `json:"up"`
	// Detail says how curved surfaces became triangles; empty where the file
	// holds triangles.
	Detail    string   `json:"detail,omitempty"`
	Parts     int      `json:"parts"`
	Shapes    int      `json:"shapes"`
	Triangles int      `json:"triangles"` // over all parts
	Colours   int      `json:"colours"`   // different ones, over all finishes
	Repaired  []string `json:"repaired"`
	Ignored   []string `json:"ignored"`
	// Variants say, of several files that are variants of one product, what is otherwise in each but the first.
	Variants []string `json:"variants,omitempty"`
	// Changes are what is otherwise than in the revision before, nil for the first.
	Changes *match.Comparison `json:"changes,omitempty"`
}

// Doubt says that an assembly has an unlikely size as it was read, and in which unit it would have a
// likely one.
type Doubt struct {
	// Size is its diagonal, Likely what it would be with the other unit, mm.
	Size   float64 `json:"size"`
	Likely float64 `json:"likely,omitempty"`
	// Unit is the symbol of the other unit, empty where none makes sense.
	Unit string `json:"unit,omitempty"`
}

// Count has the report say how much the model is of.
func (m *Model) Count() {
	r := &m.Report
	r.Parts, r.Shapes, r.Colours, r.Triangles = m.Assembly.Parts(), len(m.Shapes), colours(m.Assembly), 0
	for i := range m.Assembly.Nodes {
		if s := m.Assembly.Nodes[i].Shape; s >= 0 {
			r.Triangles += m.Assembly.Shapes[s].Triangles
		}
	}
}

func colours(a *assembly.Assembly) int {
	seen := map[space.Vec3]bool{}
	for _, f := range a.Finishes {
		seen[f.Colour] = true
	}
	return len(seen)
}

// ShapeRef describes s for an assembly.
func ShapeRef(s *solid.Shape, hash string) assembly.ShapeRef {
	min, max := s.Bounds.Min, s.Bounds.Max
	ref := assembly.ShapeRef{Hash: hash, Triangles: len(s.Triangles) / 3, Submeshes: len(s.Submeshes),
		Min: [3]float64{min.X, min.Y, min.Z}, Max: [3]float64{max.X, max.Y, max.Z}}
	if heart := s.Heart(); heart != s.Bounds.Centre() {
		of := space.Vec3Of(heart)
		ref.Heart = &of
	}
	return ref
}
