package gltf_test

import (
	"bytes"
	"encoding/json"
	"testing"

	lib "github.com/qmuntal/gltf"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/product"
	"slowreveal/core/variant"
	"slowreveal/demo"
	"slowreveal/formats/gltf"
)

const variants = "KHR_materials_variants"

// retold is a model as a GLB, after something of the file has been changed by another library.
func retold(t *testing.T, m *product.Model, change func(*lib.Document)) []byte {
	t.Helper()
	file, err := gltf.Write(m)
	require.NoError(t, err)
	doc := new(lib.Document)
	require.NoError(t, lib.NewDecoder(bytes.NewReader(file)).Decode(doc))
	change(doc)
	var out bytes.Buffer
	e := lib.NewEncoder(&out)
	e.AsBinary = true
	require.NoError(t, e.Encode(doc))
	return out.Bytes()
}

// Variants of materials are read as the extension has them (Khronos, KHR_materials_variants, its example from memory):
// primitives map variants to materials, and have their own in those that none of their mappings names.
func TestVariantsOfMaterialsAreRead(t *testing.T) {
	m := demo.Pump()
	m.Assembly.Variants = nil
	var hood string
	file := retold(t, m, func(doc *lib.Document) {
		doc.ExtensionsUsed = append(doc.ExtensionsUsed, variants)
		doc.Extensions = lib.Extensions{
			variants: json.RawMessage(
				`{"variants": [{"name": "Yellow sneaker"}, {"name": "Red sneaker"}, {"name": "Black sneaker"}]}`,
			),
		}
		doc.Materials = append(doc.Materials, &lib.Material{
			Name: "Rouge", PBRMetallicRoughness: &lib.PBRMetallicRoughness{BaseColorFactor: &[4]float64{0.6, 0.02, 0.02, 1}},
		})
		red := len(doc.Materials) - 1
		for _, n := range doc.Nodes {
			if n.Name == "Hood" {
				hood = n.Name
				for _, p := range doc.Meshes[*n.Mesh].Primitives {
					p.Extensions = lib.Extensions{variants: map[string]any{"mappings": []any{
						map[string]any{"material": 0, "variants": []int{2}},
						map[string]any{"material": red, "variants": []int{0, 1}},
					}}}
				}
			}
		}
	})
	require.NotEmpty(t, hood)
	back, err := gltf.Read(file, "pump")
	require.NoError(t, err)
	assert.Empty(t, back.Report.Ignored)
	list := back.Assembly.Variants
	require.Len(t, list, 3)
	assert.Equal(
		t,
		[]string{"Yellow sneaker", "Red sneaker", "Black sneaker"},
		[]string{list[0].Name, list[1].Name, list[2].Name},
	)
	for _, v := range list[:2] {
		require.Len(t, v.Finishes, 1)
		assert.Equal(t, "Rouge", v.Finishes[0].Finish.Name)
		assert.Equal(t, []assembly.NodeID{"housing/hood"}, v.Finishes[0].Nodes)
	}
	require.Len(t, list[2].Finishes, 1)
	assert.Equal(t, m.Assembly.Finishes[0].Name, list[2].Finishes[0].Finish.Name)

	// What contradicts itself is left out.
	for _, wrong := range []string{`{"variants": 7}`, `{"variants": []}`, `[]`} {
		file := retold(t, m, func(doc *lib.Document) {
			doc.ExtensionsUsed = append(doc.ExtensionsUsed, variants)
			doc.Extensions = lib.Extensions{variants: json.RawMessage(wrong)}
		})
		back, err := gltf.Read(file, "pump")
		require.NoError(t, err, wrong)
		assert.Empty(t, back.Assembly.Variants, wrong)
	}
	file = retold(t, m, func(doc *lib.Document) {
		doc.ExtensionsUsed = append(doc.ExtensionsUsed, variants)
		doc.Extensions = lib.Extensions{
			variants: json.RawMessage(`{"variants": [{"name": ""}, {"name": ""}, {"name": "Variant 1"}]}`),
		}
		for _, n := range doc.Nodes {
			if n.Mesh != nil {
				doc.Meshes[*n.Mesh].Primitives[0].Extensions = lib.Extensions{
					variants: json.RawMessage(`{"mappings": [{"material": 4000, "variants": [-1, 0, 99]}]}`),
				}
			}
		}
	})
	back, err = gltf.Read(file, "pump")
	require.NoError(t, err)
	require.Len(t, back.Assembly.Variants, 3, "whatever they are called")
	require.NoError(t, back.Assembly.Check())
}

// What an author has parts look like in variants goes with the file, for programs that know nothing of ours; read by one
// such it comes back.
func TestVariantsOfMaterialsAreWritten(t *testing.T) {
	m := demo.Pump()
	green := assembly.Finish{Name: "Leaf", Colour: [3]float64{0.1, 0.5, 0.1}, Opacity: 1, Roughness: 0.4}
	m.Assembly.Variants = []assembly.Variant{
		{ID: "plain", Name: "Plain"},
		{
			ID:       "leaf",
			Name:     "Leaf green",
			Finishes: []assembly.NodeFinish{{Nodes: []assembly.NodeID{"pump-head"}, Finish: green}},
		},
	}
	file := retold(t, m, func(doc *lib.Document) {
		assert.Contains(t, doc.ExtensionsUsed, variants)
		delete(doc.Scenes[0].Extras.(map[string]any), "variants")
	})
	back, err := gltf.Read(file, "pump")
	require.NoError(t, err)
	require.Len(t, back.Assembly.Variants, 2)
	for i := range m.Assembly.Variants {
		want := variant.Of(m.Assembly, nil, m.Assembly.Variants[i].ID).Assembly
		got := variant.Of(back.Assembly, nil, back.Assembly.Variants[i].ID).Assembly
		for k := range want.Nodes {
			if want.Nodes[k].IsPart() {
				assert.Equal(
					t,
					want.Finishes[want.Nodes[k].Finishes[0]],
					got.Finishes[got.Nodes[k].Finishes[0]],
					want.Nodes[k].ID,
				)
			}
		}
	}
	m.Assembly.Variants = m.Assembly.Variants[:1]
	retold(t, m, func(doc *lib.Document) {
		assert.NotContains(t, doc.ExtensionsUsed, variants, "nothing looks otherwise")
	})
}
