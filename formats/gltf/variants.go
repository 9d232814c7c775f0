package gltf

import (
	"encoding/json"
	"fmt"
	"slices"

	"github.com/qmuntal/gltf"

	"slowreveal/core/assembly"
	"slowreveal/core/product"
	"slowreveal/core/variant"
	"slowreveal/formats"
)

// variantsExtension is the one by which a file gives parts other materials in variants of a product: an extension of
// Khronos to glTF 2.0, "KHR_materials_variants".
const variantsExtension = "KHR_materials_variants"

// namedVariants are the variants of a file.
type namedVariants struct {
	Variants []struct {
		Name string `json:"name"`
	} `json:"variants"`
}

// variantMappings say which material a primitive has in which variants.
type variantMappings struct {
	Mappings []variantMapping `json:"mappings"`
}

type variantMapping struct {
	Variants []int `json:"variants"`
	Material int   `json:"material"`
}

// extension reads one of the extensions of something of the file; it reports whether it is there and can be read.
func extension(from gltf.Extensions, name string, into any) bool {
	raw, there := from[name]
	if !there {
		return false
	}
	text, ok := raw.(json.RawMessage)
	if !ok {
		var err error
		if text, err = json.Marshal(raw); err != nil {
			return false
		}
	}
	return json.Unmarshal(text, into) == nil
}

// takeVariants gives a model that has been read the variants of its file: what its parts look like in them. Where the
// scene's extras say more of variants, those count.
func (r *reader) takeVariants(m *product.Model) {
	var said namedVariants
	if len(m.Assembly.Variants) > 0 || !extension(r.doc.Extensions, variantsExtension, &said) {
		return
	}
	with := *m.Assembly
	for i, v := range said.Variants {
		if i == assembly.MaxVariants {
			left := fmt.Sprintf("%d of %d variants", len(said.Variants)-i, len(said.Variants))
			m.Report.Ignored = append(m.Report.Ignored, left)
			break
		}
		with.AddVariant(formats.Clipped(v.Name)).Finishes = r.finishesIn(m, i, v.Name)
	}
	if err := with.Check(); err != nil {
		m.Report.Ignored = append(m.Report.Ignored, "the variants in the file: "+err.Error())
		return
	}
	*m.Assembly = with
}

// finishesIn is what parts look like in a variant of the file. A part whose patches have different materials there keeps
// its own: a variant gives a part one finish.
func (r *reader) finishesIn(m *product.Model, in int, name string) (list []assembly.NodeFinish) {
	for at := range m.Assembly.Nodes {
		n := &m.Assembly.Nodes[at]
		mesh, there := r.meshOf[at]
		if !there || !n.IsPart() {
			continue
		}
		finishes, changed := r.worn(mesh, in)
		switch {
		case !changed:
			continue
		case len(finishes) > 1:
			m.Report.Ignored = append(m.Report.Ignored, fmt.Sprintf(
				"what “%s” looks like in the variant “%s”: it would have several finishes",
				n.Name,
				formats.Clipped(name),
			))
			continue
		}
		finish := m.Assembly.Finishes[finishes[0]]
		k := slices.IndexFunc(list, func(f assembly.NodeFinish) bool { return f.Finish == finish })
		if k < 0 {
			list, k = append(list, assembly.NodeFinish{Finish: finish}), len(list)
		}
		list[k].Nodes = append(list[k].Nodes, n.ID)
	}
	for k := range list {
		slices.Sort(list[k].Nodes)
	}
	slices.SortFunc(list, func(a, b assembly.NodeFinish) int { return slices.Compare(a.Nodes, b.Nodes) })
	return list
}

// worn are the different finishes of a mesh in a variant, and whether the variant says something of them.
func (r *reader) worn(mesh, in int) (finishes []int, changed bool) {
	for _, p := range r.doc.Meshes[mesh].Primitives {
		material := p.Material
		said := r.mappings[p]
		for k := range said {
			if slices.Contains(said[k].Variants, in) {
				material, changed = &said[k].Material, true
			}
		}
		if f := r.finishes[r.materialKey(material)]; !slices.Contains(finishes, f) {
			finishes = append(finishes, f)
		}
	}
	return finishes, changed
}

// readFinishes takes the materials that primitives have in variants.
func (r *reader) readFinishes() {
	for _, mesh := range r.doc.Meshes {
		for _, p := range mesh.Primitives {
			var said variantMappings
			if !extension(p.Extensions, variantsExtension, &said) {
				continue
			}
			r.mappings[p] = said.Mappings
			for k := range said.Mappings {
				r.finish(&said.Mappings[k].Material)
			}
		}
	}
}

// dress finds what parts look like in the variants, before meshes are written: mappings for each node.
func (w *writer) dress() {
	a := w.model.Assembly
	w.mappings = make([][]variantMapping, len(a.Nodes))
	var names namedVariants
	for i := range a.Variants {
		v := &a.Variants[i]
		names.Variants = append(names.Variants, struct {
			Name string `json:"name"`
		}{v.Name})
		if len(v.Finishes) == 0 {
			continue
		}
		shown := variant.Of(a, nil, v.ID).Assembly
		for k := range a.Nodes {
			now := &shown.Nodes[k]
			if !now.IsPart() || slices.Equal(now.Finishes, a.Nodes[k].Finishes) {
				continue
			}
			w.uses(variantsExtension)
			w.mappings[k] = append(
				w.mappings[k],
				variantMapping{[]int{i}, w.materialOf(&shown.Finishes[now.Finishes[0]])},
			)
		}
	}
	if slices.Contains(w.doc.ExtensionsUsed, variantsExtension) {
		w.doc.Extensions = gltf.Extensions{variantsExtension: names}
	}
}

// materialOf is the material of a finish; one that no part has in the whole product is added.
func (w *writer) materialOf(f *assembly.Finish) int {
	if at := slices.Index(w.model.Assembly.Finishes, *f); at >= 0 {
		return at
	}
	if at, there := w.further[*f]; there {
		return at
	}
	w.doc.Materials = append(w.doc.Materials, w.material(f))
	w.further[*f] = len(w.doc.Materials) - 1
	return w.further[*f]
}
