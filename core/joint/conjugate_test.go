package joint_test

import (
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/mechanism"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// rim is the outline of a gear as its mesh has it at its lower face, seen from its axis.
func rim(s *solid.Shape, beyond float64) (o [][2]float64) {
	for v := 0; v < len(s.Positions); v += 3 {
		x, y, z := float64(s.Positions[v]), float64(s.Positions[v+1]), float64(s.Positions[v+2])
		if z < 1e-6 && math.Hypot(x, y) > beyond {
			o = append(o, [2]float64{x, y})
		}
	}
	slices.SortFunc(o, func(a, b [2]float64) int {
		if math.Atan2(a[1], a[0]) < math.Atan2(b[1], b[0]) {
			return -1
		}
		return 1
	})
	return o
}

// turnedBy is an outline where a part stands.
func turnedBy(o [][2]float64, at *space.Rigid) [][2]float64 {
	out := make([][2]float64, len(o))
	for i, p := range o {
		q := at.Apply(space.Vec{X: p[0], Y: p[1]})
		out[i] = [2]float64{q.X, q.Y}
	}
	return out
}

// offOutline is how far a point is from a closed outline, negative within it.
func offOutline(o [][2]float64, p [2]float64) float64 {
	least, inside := math.Inf(1), false
	for i, a := range o {
		b := o[(i+1)%len(o)]
		x, y := b[0]-a[0], b[1]-a[1]
		t := max(0, min(1, ((p[0]-a[0])*x+(p[1]-a[1])*y)/max(x*x+y*y, 1e-30)))
		least = min(least, math.Hypot(p[0]-a[0]-t*x, p[1]-a[1]-t*y))
		if (a[1] > p[1]) != (b[1] > p[1]) && p[0] < a[0]+(p[1]-a[1])/y*x {
			inside = !inside
		}
	}
	if inside {
		return -least
	}
	return least
}

// Two gears that were found to mesh run as involute gears do: the flanks of one stay on those of the other and never go
// into them (conjugate action), and as many pairs of teeth are in contact on average as the path of contact is base
// pitches long: ε = (√(ra₁² − rb₁²) + √(ra₂² − rb₂²) − a sin α) / (π m cos α) (the transverse contact ratio of
// ISO 21771, from memory).
func TestFoundGearsRunConjugately(t *testing.T) {
	const m, z1, z2, width = 2.0, 18, 27, 6.0
	const steps = 32
	const alpha = 20 * math.Pi / 180
	a := m * (z1 + z2) / 2
	one := toothed(t, involuteIn(m, z1, false, steps), m, z1, false, width, 0)
	other := toothed(t, involuteIn(m, z2, false, steps), m, z2, false, width, 0)
	there := space.Translation(space.Vec{X: a})
	half := space.TurnAbout(space.Vec{}, space.Vec{Z: 1}, 180+180.0/z2) // a space faces the tooth
	there = there.Mul(&half)
	made, shapes := assembled(put{"Pinion", one, space.Identity}, put{"Wheel", other, there})
	found := foundIn(t, made, shapes)
	require.Len(t, found.Couplings, 1)
	for _, j := range found.Joints {
		made.Joints = append(made.Joints, j.Joint)
	}
	made.Couplings = []assembly.Coupling{found.Couplings[0].Coupling}
	var pinion assembly.JointID
	for _, j := range made.Joints {
		if j.Body == "Pinion" {
			pinion = j.ID
		}
	}
	run := mechanism.New(made, []mechanism.Driver{{Joint: pinion, To: 360}})
	require.Empty(t, run.Problems)
	s := run.NewState()
	worlds, index := made.Worlds(), made.Index()
	at := func(id assembly.NodeID) space.Rigid {
		k := slices.Index(run.Bodies, index[id])
		require.GreaterOrEqual(t, k, 0)
		return s.Moved[k].Mul(&worlds[index[id]])
	}

	rimOne, rimOther := rim(one, 0.4*m*z1), rim(other, 0.4*m*z2)
	contacts, least, deepest := 0, 0.0, 0.0
	const looks = 40
	for k := range looks {
		run.At([]float64{360.0 / z1 * float64(k) / looks}, s)
		placeOne, placeOther := at("Pinion"), at("Wheel")
		wheel := turnedBy(rimOther, &placeOther)
		// Each flank of the pinion that leads, and lies where the gears mesh.
		touching := map[int]bool{}
		nearest := math.Inf(1)
		for i, p := range turnedBy(rimOne, &placeOne) {
			if math.Hypot(p[0]-a, p[1]) > m*(z2+2)/2+0.1 {
				continue
			}
			if math.Hypot(rimOne[i][0], rimOne[i][1]) < m*z1/2*math.Cos(alpha) {
				continue // below the base circle a flank is no involute
			}
			off := offOutline(wheel, p)
			nearest, deepest = min(nearest, off), min(deepest, off)
			own := math.Atan2(rimOne[i][1], rimOne[i][0]) * z1 / (2 * math.Pi) // in teeth
			if tooth := math.Round(own); off < 0.002 && own-tooth > 0 {
				touching[int(tooth+z1)%z1] = true
			}
		}
		contacts, least = contacts+len(touching), max(least, nearest)
	}
	assert.Less(t, least, 0.002, "always in contact")
	assert.Greater(t, deepest, -0.002, "and never in one another")
	reach := func(z float64) float64 {
		tip, base := m*(z+2)/2, m*z/2*math.Cos(alpha)
		return math.Sqrt(tip*tip - base*base)
	}
	want := (reach(z1) + reach(z2) - a*math.Sin(alpha)) / (math.Pi * m * math.Cos(alpha))
	assert.InEpsilon(t, want, float64(contacts)/looks, 0.05)
	turned := at("Wheel")
	assert.Less(t, r3.Norm(r3.Sub(turned.T, there.T)), 1e-6, "about its own axis")
}
