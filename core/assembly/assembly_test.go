package assembly_test

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/space"
	"slowreveal/demo"
)

func TestThePumpIsSound(t *testing.T) {
	a := demo.Pump().Assembly
	require.NoError(t, a.Check())
	assert.Equal(t, 80, a.Parts())
	b := a.Bounds()
	assert.InDelta(t, -62, b.Min.Y, 1e-9, "it stands on its feet")
	boxes := a.BoundsOf()
	assert.Equal(t, b, boxes[0], "the root's box is everything's")
	index := a.Index()
	door := boxes[index["pump-head/door"]]
	assert.Greater(t, door.Max.X, 80.0, "in its own frame the door reaches out from its hinge")
}

func TestTreesThatCannotBe(t *testing.T) {
	for want, wreck := range map[string]func(a *assembly.Assembly){
		"no nodes":       func(a *assembly.Assembly) { a.Nodes = nil },
		"used twice":     func(a *assembly.Assembly) { a.Nodes[5].ID = a.Nodes[4].ID },
		"stand before":   func(a *assembly.Assembly) { a.Nodes[5].Parent = 9 },
		"names shape":    func(a *assembly.Assembly) { a.Nodes[5].Shape = 999 },
		"finish":         func(a *assembly.Assembly) { a.Nodes[3].Finishes = []int{99} },
		"not finite":     func(a *assembly.Assembly) { a.Nodes[3].Pose.Move[1] = math.Inf(1) },
		"levels deep":    deep,
		"the limit is 5": func(a *assembly.Assembly) { a.Nodes = make([]assembly.Node, assembly.MaxNodes+1) },
	} {
		a := demo.Pump().Assembly
		wreck(a)
		assert.ErrorContains(t, a.Check(), want)
	}
}

func deep(a *assembly.Assembly) {
	for range assembly.MaxDepth + 1 {
		n := len(a.Nodes)
		a.Nodes = append(
			a.Nodes,
			assembly.Node{
				ID:     assembly.NodeID(fmt.Sprint("deep", n)),
				Parent: n - 1,
				Shape:  -1,
				Pose:   assembly.PoseOf(space.Identity),
			},
		)
	}
}
