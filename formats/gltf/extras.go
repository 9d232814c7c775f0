package gltf

import (
	"encoding/json"

	"slowreveal/core/assembly"
	"slowreveal/core/product"
)

// mechanismKey is where joints and couplings stand in the extras of a scene, variantsKey where the product's variants do,
// hazardsKey what has to be minded of parts.
const (
	mechanismKey = "mechanism"
	variantsKey  = "variants"
	hazardsKey   = "hazards"
)

// mechanism is what extras say of joints. Lengths are in mm, as in documents; nodes are named by their ids.
type mechanism struct {
	Joints    []assembly.Joint    `json:"joints"`
	Couplings []assembly.Coupling `json:"couplings,omitempty"`
}

// takeExtras gives a model that has been read the joints, variants and hazards in the extras of its scene, where they fit it.
func (r *reader) takeExtras(m *product.Model) {
	scene := 0
	if r.doc.Scene != nil {
		scene = *r.doc.Scene
	}
	if scene < 0 || scene >= len(r.doc.Scenes) {
		return
	}
	extras, _ := r.doc.Scenes[scene].Extras.(map[string]any)
	var said mechanism
	take(
		m,
		extras[mechanismKey],
		&said,
		"joints",
		func(a *assembly.Assembly) { a.Joints, a.Couplings = said.Joints, said.Couplings },
	)
	var variants []assembly.Variant
	take(m, extras[variantsKey], &variants, "variants", func(a *assembly.Assembly) { a.Variants = variants })
	var hazards []assembly.NodeHazard
	take(m, extras[hazardsKey], &hazards, "hazards", func(a *assembly.Assembly) { a.Hazards = hazards })
}

// take reads one of the extras, and gives it to the model's assembly where it fits.
func take(m *product.Model, extra, into any, what string, give func(*assembly.Assembly)) {
	if extra == nil {
		return
	}
	with := *m.Assembly
	text, err := json.Marshal(extra)
	if err == nil {
		err = json.Unmarshal(text, into)
	}
	if err == nil {
		give(&with)
		err = with.Check()
	}
	if err != nil {
		m.Report.Ignored = append(m.Report.Ignored, "the "+what+" in the file: "+err.Error())
		return
	}
	*m.Assembly = with
}
