package firstfilm_test

import (
	"context"
	"fmt"
	"testing"
	"time"

	"slowreveal/core/assembly"
	"slowreveal/core/plan"
	"slowreveal/core/product"
	"slowreveal/core/removal"
	"slowreveal/core/space"
	"slowreveal/core/survey"
	"slowreveal/demo"
	"slowreveal/firstfilm"
)

// several is the example so many times, side by side, in one assembly.
func several(n int) *product.Model {
	m := demo.Pump()
	one := m.Assembly
	all := &assembly.Assembly{
		Name:     "Several",
		Shapes:   one.Shapes,
		Finishes: one.Finishes,
		Nodes: []assembly.Node{
			{ID: assembly.Root, Name: "Several", Parent: -1, Shape: -1, Pose: assembly.PoseOf(space.Identity)},
		},
	}
	for k := range n {
		first := len(all.Nodes)
		for i, node := range one.Nodes {
			node.ID = assembly.NodeID(fmt.Sprintf("pump-%d/%s", k, node.ID))
			if node.Parent += first; i == 0 {
				node.Parent = 0
				node.ID = assembly.NodeID(fmt.Sprintf("pump-%d", k))
				node.Name = fmt.Sprintf("Pump %d", k+1)
				node.Pose = assembly.PoseOf(space.Translation(space.Vec{X: 260 * float64(k%4), Z: 300 * float64(k/4)}))
			}
			all.Nodes = append(all.Nodes, node)
		}
	}
	return &product.Model{Assembly: all, Shapes: m.Shapes}
}

// A plan of the example, and of several in one assembly; first is the time until the first move is there. The survey is
// not counted.
func BenchmarkPlan(b *testing.B) {
	for _, n := range []int{1, 4, 13} {
		m := several(n)
		known, err := survey.Of(context.Background(), m.Assembly, m.Shapes)
		if err != nil {
			b.Fatal(err)
		}
		b.Run(fmt.Sprintf("%d_parts", m.Assembly.Parts()), func(b *testing.B) {
			var first time.Duration
			var p plan.Plan
			for b.Loop() {
				begun := time.Now()
				first = 0
				p, err = removal.Run(
					context.Background(),
					removal.Subject{
						Assembly: m.Assembly,
						Shapes:   m.Shapes,
						Survey:   known,
						At:       firstfilm.AtRest(m.Assembly),
					},
					plan.Choices{},
					func(plan.Plan) {
						if first == 0 {
							first = time.Since(begun)
						}
					},
				)
				if err != nil {
					b.Fatal(err)
				}
			}
			b.ReportMetric(first.Seconds(), "first-s")
			b.ReportMetric(float64(p.Asked), "asked")
			b.ReportMetric(float64(len(p.Moves)), "moves")
			b.ReportMetric(float64(len(p.Stuck)), "stuck")
		})
	}
}
