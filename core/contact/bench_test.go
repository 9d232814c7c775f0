package contact_test

import (
	"context"
	"testing"

	"slowreveal/core/assembly"
	"slowreveal/core/contact"
	"slowreveal/core/space"
	"slowreveal/demo"
)

// BenchmarkFindOf320 looks for the contacts of four examples side by side: 320
// parts, 153,000 triangles.
func BenchmarkFindOf320(b *testing.B) {
	m := demo.Pump()
	a := &assembly.Assembly{Name: "Four", Shapes: m.Assembly.Shapes, Finishes: m.Assembly.Finishes,
		Nodes: []assembly.Node{
			{ID: assembly.Root, Name: "Four", Parent: -1, Shape: -1, Pose: assembly.PoseOf(space.Identity)},
		}}
	for k := range 4 {
		base := len(a.Nodes)
		for i := range m.Assembly.Nodes {
			n := m.Assembly.Nodes[i]
			n.ID = assembly.NodeID(string(n.ID) + "#" + string(rune('a'+k)))
			if n.Parent < 0 {
				n.Parent, n.Pose = 0, assembly.PoseOf(space.Translation(space.Vec{X: 400 * float64(k)}))
			} else {
				n.Parent += base
			}
			a.Nodes = append(a.Nodes, n)
		}
	}
	for b.Loop() {
		if _, err := contact.Find(context.Background(), a, m.Shapes, contact.Tolerance); err != nil {
			b.Fatal(err)
		}
	}
}
