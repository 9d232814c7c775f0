package importer_test

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/product"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/core/variant"
	"slowreveal/demo"
	"slowreveal/formats"
	"slowreveal/formats/gltf"
	"slowreveal/formats/importer"
)

// standing is what stands where in an assembly, as a variant has it: names, shapes, finishes and places of its parts.
type standing struct {
	name, shape, finish string
	at                  space.Vec
}

func partsOf(a *assembly.Assembly) (list []standing) {
	worlds := a.Worlds()
	for i := range a.Nodes {
		if n := &a.Nodes[i]; n.IsPart() {
			ref := &a.Shapes[n.Shape] // its hash is of coordinates, which a file rounds
			size := ref.Bounds().Size()
			shape := fmt.Sprintf("%d triangles, %.2f × %.2f × %.2f", ref.Triangles, size.X, size.Y, size.Z)
			list = append(list, standing{n.Name, shape, a.Finishes[n.Finishes[0]].Name, worlds[i].T})
		}
	}
	return list
}

func assertAlike(t *testing.T, want, got []standing, name string) {
	t.Helper()
	require.Len(t, got, len(want), name)
	for _, w := range want {
		assert.True(t, slices.ContainsFunc(got, func(g standing) bool {
			return g.name == w.name && g.shape == w.shape && g.finish == w.finish && r3.Norm(r3.Sub(g.at, w.at)) < 1e-3
		}), "%s: %+v", name, w)
	}
}

func without(m *product.Model, gone ...assembly.NodeID) {
	var kept []assembly.Node
	place := map[int]int{}
	for i, n := range m.Assembly.Nodes {
		parent, there := place[n.Parent]
		if slices.Contains(gone, n.ID) || i > 0 && !there {
			continue
		}
		if i > 0 {
			n.Parent = parent
		}
		place[i] = len(kept)
		kept = append(kept, n)
	}
	m.Assembly.Nodes, m.Assembly.Joints, m.Assembly.Couplings, m.Assembly.Variants = kept, nil, nil, nil
}

// Files that each hold a configuration of one product become one assembly with a variant for each, and each variant is
// what its file was: the same parts with the same shapes and finishes at the same places.
func TestSeveralFilesAreVariantsOfOneProduct(t *testing.T) {
	folder := t.TempDir()
	write := func(name string, change func(*product.Model)) *product.Model {
		m := demo.Pump()
		without(m)
		change(m)
		data, err := gltf.Write(m)
		require.NoError(t, err)
		require.NoError(t, os.WriteFile(filepath.Join(folder, name), data, 0o600))
		back, err := gltf.Read(data, "DP-40")
		require.NoError(t, err)
		return back
	}
	node := func(m *product.Model, id assembly.NodeID) *assembly.Node {
		i, there := m.Assembly.Index()[id]
		require.True(t, there, id)
		return &m.Assembly.Nodes[i]
	}
	files := map[string]*product.Model{
		"Base.glb": write("Base.glb", func(*product.Model) {}),
		"Bare.glb": write("Bare.glb", func(m *product.Model) {
			without(m, "housing/display", "pump-head/door", "planet-stage/planet-gear-18-teeth~3")
		}),
		"Other.glb": write("Other.glb", func(m *product.Model) {
			n := node(m, "housing/hood")
			n.Finishes = slices.Repeat([]int{(n.Finishes[0] + 1) % len(m.Assembly.Finishes)}, len(n.Finishes))
			knob := node(m, "housing/dosing-knob")
			knob.Pose.Move[0] += 12
			knob.Name = "Dosing knob, moved"
			cover := node(m, "pump-head/rotor-cover")
			cover.Shape = node(m, "housing/base").Shape // another shape in its place
			cover.Finishes = slices.Repeat(cover.Finishes[:1], len(m.Shapes[cover.Shape].Submeshes))
			m.Assembly.Nodes = append(m.Assembly.Nodes, assembly.Node{
				ID: "heater", Name: "Heater plate", Parent: 0, Shape: node(m, "housing/hood").Shape,
				Pose: assembly.PoseOf(space.Translation(space.Vec{X: 300})), Finishes: node(m, "housing/hood").Finishes,
			})
		}),
	}
	m, err := importer.Read(
		context.Background(),
		folder,
		[]string{"Base.glb", "Other.glb", "Bare.glb"},
		formats.Options{Name: "DP-40"},
	)
	require.NoError(t, err)
	require.Len(t, m.Assembly.Variants, 3)
	assert.Len(t, m.Report.Variants, 2)
	t.Log(m.Report.Variants)
	assert.Equal(t, "DP-40", m.Assembly.Name)
	assert.Equal(t, m.Assembly.Parts(), m.Report.Parts)
	assert.Equal(t, files["Base.glb"].Assembly.Parts()+2, m.Report.Parts, "what they have in common is there once")
	for _, v := range m.Assembly.Variants {
		want := partsOf(files[v.Name+".glb"].Assembly)
		got := partsOf(variant.Of(m.Assembly, nil, v.ID).Assembly)
		assertAlike(t, want, got, v.Name)
	}
	// As one file, with ids that its names make, it is the same product.
	data, err := gltf.Write(m)
	require.NoError(t, err)
	again, err := gltf.Read(data, "DP-40")
	require.NoError(t, err)
	assert.Empty(t, again.Report.Ignored)
	for _, v := range m.Assembly.Variants {
		assertAlike(
			t,
			partsOf(variant.Of(m.Assembly, nil, v.ID).Assembly),
			partsOf(variant.Of(again.Assembly, nil, v.ID).Assembly),
			v.Name,
		)
	}
	// What is directed for the first plays in all: steps of what is not in one are left out, the exchanged part stands in.
	doc := demo.Teardown(files["Base.glb"].Assembly)
	require.NoError(t, reveal.Validate(doc, m.Assembly))
	for _, v := range m.Assembly.Variants {
		shown := variant.Of(m.Assembly, doc, v.ID)
		require.NoError(t, reveal.Validate(shown.Reveal, shown.Assembly), v.Name)
	}
}

// Two products that have nothing in common are no variants of one; neither are a product and a single part.
func TestOtherProductsAreNoVariants(t *testing.T) {
	folder := t.TempDir()
	for name, m := range map[string]*product.Model{"pump.glb": demo.Pump(), "applicator.glb": demo.Applicator()} {
		data, err := gltf.Write(m)
		require.NoError(t, err)
		require.NoError(t, os.WriteFile(filepath.Join(folder, name), data, 0o600))
	}
	_, err := importer.Read(context.Background(), folder, []string{"pump.glb", "applicator.glb"}, formats.Options{})
	assert.ErrorContains(t, err, "have hardly a part in common")
	assert.ErrorContains(t, importer.Check([]string{"a.stl", "b.glb"}), "both hold an assembly")
}
