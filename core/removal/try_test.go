package removal_test

import (
	"context"
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"slowreveal/core/clearance"
	"slowreveal/core/plan"
	"slowreveal/core/removal"
	"slowreveal/core/survey"
	"slowreveal/demo"
)

func TestTry(t *testing.T) {
	m := demo.Pump()
	sv, err := survey.Of(context.Background(), m.Assembly, m.Shapes)
	require.NoError(t, err)
	op := make([]float64, len(m.Assembly.Nodes))
	for i := range op {
		op[i] = 1
	}
	begun := time.Now()
	p, err := removal.Run(context.Background(), removal.Subject{m.Assembly, m.Shapes, sv, clearance.Pose{World: m.Assembly.Worlds(), Opacity: op}}, plan.Choices{}, nil)
	require.NoError(t, err)
	for i, x := range p.Moves {
		fmt.Printf("%2d c%2d %v %v\n      %v\n", i, x.Carried, x.Nodes, x.Paths[0], x.Why)
	}
	fmt.Println(p.Stays, p.Stuck, p.Asked, p.Parts, p.Spacing, time.Since(begun))
}
