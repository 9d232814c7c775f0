package demo

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestEveryShapeOfThePumpIsClosedAndTurnedOutwards(t *testing.T) {
	m := Pump()
	for i := range m.Assembly.Nodes {
		n := &m.Assembly.Nodes[i]
		if n.IsPart() {
			s := m.Shapes[n.Shape]
			assert.Greater(t, s.Volume(), 0.0, n.Name)
			box := s.Bounds.Size()
			assert.LessOrEqual(t, s.Volume(), box.X*box.Y*box.Z*1.0001, n.Name)
		}
	}
	t.Logf(
		"%d parts, %d shapes, %d triangles, bounds %v",
		m.Report.Parts,
		m.Report.Shapes,
		m.Report.Triangles,
		m.Assembly.Bounds(),
	)
	assert.InDelta(t, 75, m.Report.Parts, 15)
}
