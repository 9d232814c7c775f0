package mechanism_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/mechanism"
	"slowreveal/core/space"
)

// Whatever joints and couplings somebody makes, a mechanism comes of it, in bounded time, and every moment of it is a
// finite one in which no loop that is said to be closed stands open.
func TestMechanismsByChance(t *testing.T) {
	r := rand.New(rand.NewPCG(11, 12))
	direction := func() space.Vec3 {
		if r.IntN(3) > 0 {
			return [3]space.Vec3{x, y, z}[r.IntN(3)]
		}
		return space.Vec3{r.NormFloat64(), r.NormFloat64(), r.NormFloat64()}
	}
	for range 400 {
		n := 2 + r.IntN(6)
		var names []string
		for i := range n {
			names = append(names, fmt.Sprintf("b%d", i))
		}
		b := newBench(names...)
		for i := range 1 + r.IntN(2*n) {
			body, base := names[r.IntN(n)], "frame"
			if r.IntN(3) > 0 {
				base = names[r.IntN(n)]
			}
			if base == body {
				continue
			}
			j := b.joint(
				fmt.Sprintf("j%d", i),
				assembly.JointKinds[r.IntN(len(assembly.JointKinds))],
				body,
				base,
				direction(),
				space.Vec3{100 * r.Float64(), 100 * r.Float64(), 100 * r.Float64()},
			)
			j.Lead = 1 + r.Float64()
			second := direction()
			j.Second = &second
		}
		for i := range r.IntN(4) {
			if len(b.Joints) < 2 {
				break
			}
			one, other := r.IntN(len(b.Joints)), r.IntN(len(b.Joints))
			if one == other {
				continue
			}
			kind := assembly.CouplingKinds[r.IntN(len(assembly.CouplingKinds))]
			b.couple(assembly.Coupling{
				ID: assembly.JointID(
					fmt.Sprintf("c%d", i),
				), Kind: kind, Joint: b.Joints[one].ID, By: b.Joints[other].ID,
				Sizes: [2]float64{float64(8 + r.IntN(40)), float64(8 + r.IntN(40))}, Ratio: r.NormFloat64() + 0.1,
				Inner: r.IntN(2) == 0, Table: [][2]float64{{0, 0}, {120, 5}, {240, 2}, {360, 0}},
			})
		}
		if b.Check() != nil {
			continue // axes along one another, and the like
		}
		var drivers []mechanism.Driver
		for i := range b.Joints {
			if r.IntN(3) == 0 {
				drivers = append(drivers, mechanism.Driver{Joint: b.Joints[i].ID, From: -200, To: 900})
			}
		}
		m := mechanism.New(&b.Assembly, drivers)
		s := m.NewState()
		values := make([]float64, len(drivers))
		for range 5 {
			for i := range values {
				values[i] = -200 + 1100*r.Float64()
			}
			m.At(values, s)
			for _, at := range s.Moved {
				require.True(t, space.Finite(at.T))
				for _, v := range at.R {
					require.False(t, math.IsNaN(v) || math.Abs(v) > 1+1e-6)
				}
			}
		}
		for i := range drivers {
			m.Period(i)
		}
	}
}
