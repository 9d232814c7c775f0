package gltf

import (
	"fmt"
	"math"
	"slices"

	"github.com/qmuntal/gltf"

	"slowreveal/core/assembly"
)

// surfaces gives parts that fade or are tinted materials of their own.
func (a *animator) surfaces() {
	shown := a.keys.shown
	for i := range a.keys.a.Nodes {
		n := &a.keys.a.Nodes[i]
		if !n.IsPart() {
			continue
		}
		same := func(p, q int) bool {
			return shown[p].opacity[i] == shown[q].opacity[i] && shown[p].tint[i] == shown[q].tint[i]
		}
		changes := a.picked(same)
		if changes == nil && shown[0].opacity[i] == 1 && shown[0].tint[i].Amount == 0 {
			continue
		}
		a.surface(i, n)
		a.gone(i)
	}
}

// gone leaves a part out where it is not seen at all.
func (a *animator) gone(i int) {
	shown := a.keys.shown
	gone := a.picked(func(p, q int) bool { return (shown[p].opacity[i] == 0) == (shown[q].opacity[i] == 0) })
	if gone == nil {
		if shown[0].opacity[i] == 0 {
			a.writer.doc.Nodes[i].Scale = [3]float64{}
		}
		return
	}
	out := make([][3]float32, len(gone))
	for j, k := range gone {
		// it is there as soon as it begins to come
		if shown[k].opacity[i] > 0 || k+1 < len(shown) && shown[k+1].opacity[i] > 0 {
			out[j] = [3]float32{1, 1, 1}
		}
	}
	a.channel(i, gltf.TRSScale, a.sampler(gone, gltf.InterpolationStep, out))
}

// surface gives a part materials of its own. What fades is solid while it does not: as two
// meshes, of which one is there at a time, for a material cannot become opaque.
func (a *animator) surface(i int, n *assembly.Node) {
	doc, shown := a.writer.doc, a.keys.shown
	faded := slices.ContainsFunc(shown, func(m moment) bool { return m.opacity[i] < 1 })
	clear := slices.ContainsFunc(
		n.Finishes,
		func(f int) bool { return a.writer.model.Assembly.Finishes[f].Opacity < 1 },
	)
	whole := func(k int) bool { return shown[k].opacity[i] == 1 && (k+1 == len(shown) || shown[k+1].opacity[i] == 1) }
	keys := a.picked(func(p, q int) bool { return whole(p) == whole(q) })
	if !faded || clear || keys == nil {
		doc.Nodes[i].Mesh = gltf.Index(a.dressed(i, n, faded))
		return
	}
	for _, fading := range [2]bool{false, true} {
		name := n.Name + ": solid"
		if fading {
			name = n.Name + ": fading"
		}
		child := &gltf.Node{
			Name:     name,
			Mesh:     gltf.Index(a.dressed(i, n, fading)),
			Rotation: gltf.DefaultRotation,
			Scale:    gltf.DefaultScale,
			Matrix:   gltf.DefaultMatrix,
		}
		doc.Nodes = append(doc.Nodes, child)
		doc.Nodes[i].Children = append(doc.Nodes[i].Children, len(doc.Nodes)-1)
		out := make([][3]float32, len(keys))
		for j, k := range keys {
			if whole(k) != fading {
				out[j] = [3]float32{1, 1, 1}
			}
		}
		if out[0] == [3]float32{} {
			child.Scale = [3]float64{}
		}
		a.channel(len(doc.Nodes)-1, gltf.TRSScale, a.sampler(keys, gltf.InterpolationStep, out))
	}
	doc.Nodes[i].Mesh = nil
}

// dressed adds a part's mesh with materials of its own, and returns its index.
func (a *animator) dressed(i int, n *assembly.Node, blended bool) int {
	w, shown := a.writer, a.keys.shown
	mesh := *w.doc.Meshes[*w.doc.Nodes[i].Mesh]
	mesh.Name = n.Name
	mesh.Primitives = append([]*gltf.Primitive(nil), mesh.Primitives...)
	for k := range mesh.Primitives {
		finish := &w.model.Assembly.Finishes[n.Finishes[k]]
		look := func(m *moment) (c [4]float64) {
			tinted := m.tint[i].Over(finish.Colour)
			copy(c[:], tinted[:])
			if c[3] = finish.Opacity; blended {
				c[3] *= m.opacity[i]
			}
			return c
		}
		material := w.material(finish)
		if blended {
			material.AlphaMode = gltf.AlphaBlend
		}
		first := look(&shown[0])
		material.PBRMetallicRoughness.BaseColorFactor = &first
		w.doc.Materials = append(w.doc.Materials, material)
		primitive := *mesh.Primitives[k]
		primitive.Material = gltf.Index(len(w.doc.Materials) - 1)
		mesh.Primitives[k] = &primitive
		own := a.picked(func(p, q int) bool {
			return shown[p].tint[i] == shown[q].tint[i] && (!blended || shown[p].opacity[i] == shown[q].opacity[i])
		})
		if own == nil {
			continue
		}
		looks := make([][4]float64, len(shown))
		for k := range shown {
			looks[k] = look(&shown[k])
		}
		list := a.thinned(own, func(p, q, k int, u float64) bool {
			from, to, is := looks[p], looks[q], looks[k]
			for c := range is {
				if math.Abs(from[c]+(to[c]-from[c])*u-is[c]) > fadeError/2 {
					return false
				}
			}
			return true
		})
		out := make([][4]float32, len(list))
		for j, key := range list {
			for c, v := range look(&shown[key]) {
				out[j][c] = float32(v)
			}
		}
		a.pointer(
			fmt.Sprintf("/materials/%d/pbrMetallicRoughness/baseColorFactor", len(w.doc.Materials)-1),
			a.sampler(list, gltf.InterpolationLinear, out),
		)
	}
	w.doc.Meshes = append(w.doc.Meshes, &mesh)
	return len(w.doc.Meshes) - 1
}
