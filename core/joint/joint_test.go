package joint_test

import (
	"context"
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/joint"
	"slowreveal/core/solid"
	"slowreveal/core/survey"
	"slowreveal/demo"
)

// involute is the outline of a gear with involute flanks of 20° (ISO 53): where a base circle's string leads to, the tooth
// as thick as its space on the pitch circle. Of an inner one the tips point inwards.
func involute(m float64, z int, inner bool) [][2]float64 { return involuteIn(m, z, inner, 5) }

// involuteIn is involute with its flanks in so many pieces.
func involuteIn(m float64, z int, inner bool, steps int) (outline [][2]float64) {
	const pressure = 20 * math.Pi / 180
	n := float64(z)
	base, pitch := m*n/2*math.Cos(pressure), m*n/2
	low, high := pitch-1.25*m, pitch+m
	if inner {
		low, high = pitch-m, pitch+1.25*m
	}
	inv := func(r float64) float64 { // the angle of the flank at a radius
		if r <= base {
			return 0
		}
		a := math.Acos(base / r)
		return math.Tan(a) - a
	}
	for i := range z {
		middle := 2 * math.Pi * float64(i) / n
		half := math.Pi / (2 * n)
		flank := func(r float64) float64 { return half + inv(pitch) - inv(r) }
		for k := 0; k <= steps; k++ { // up one flank
			r := low + (high-low)*float64(k)/float64(steps)
			outline = append(outline, [2]float64{r, middle - flank(r)})
		}
		for k := steps; k >= 0; k-- {
			r := low + (high-low)*float64(k)/float64(steps)
			outline = append(outline, [2]float64{r, middle + flank(r)})
		}
	}
	return outline
}

// gear is a closed mesh of a gear: its flanks, and a second wall, outside for inner teeth and a bore otherwise. twist is
// how far it is turned over its width.
func gear(t *testing.T, m float64, z int, inner bool, width, twist float64) *solid.Shape {
	t.Helper()
	return toothed(t, involute(m, z, inner), m, z, inner, width, twist)
}

// toothed is a gear with these teeth, as radius and angle.
func toothed(t *testing.T, teeth [][2]float64, m float64, z int, inner bool, width, twist float64) *solid.Shape {
	t.Helper()
	other := 0.3 * m * float64(z)
	if inner {
		other = m*float64(z)/2 + 4*m
	}
	var mesh solid.Mesh
	n := len(teeth)
	point := func(r, angle, w float64) {
		s, c := math.Sincos(angle + twist*w/width)
		mesh.Positions = append(mesh.Positions, float32(r*c), float32(r*s), float32(w))
	}
	const layers = 6
	for l := range layers + 1 {
		w := width * float64(l) / layers
		for _, p := range teeth {
			point(p[0], p[1], w)
		}
		for _, p := range teeth {
			point(other, p[1], w)
		}
	}
	face := func(a, b, c, d int, flip bool) {
		if flip {
			b, d = d, b
		}
		for _, i := range []int{a, b, c, a, c, d} {
			mesh.Triangles = append(mesh.Triangles, uint32(i))
		}
	}
	for i := range n {
		k := (i + 1) % n
		for l := range layers {
			at, up := 2*n*l, 2*n*(l+1)
			face(at+i, at+k, up+k, up+i, inner)
			face(at+n+i, at+n+k, up+n+k, up+n+i, !inner)
		}
		face(i, k, n+k, n+i, inner)
		top := 2 * n * layers
		face(top+i, top+k, top+n+k, top+n+i, !inner)
	}
	mesh.Submeshes = []solid.Submesh{{Count: uint32(len(mesh.Triangles) / 3)}}
	s, _, err := solid.New(mesh)
	require.NoError(t, err)
	return s
}

// Teeth are counted rightly from 8 to 200, outer and inner, straight and helical.
func TestTeethAreCounted(t *testing.T) {
	for _, z := range []int{8, 9, 12, 17, 23, 48, 97, 200} {
		for _, inner := range []bool{false, true} {
			for _, twist := range []float64{0, 0.3} {
				if z > 100 && twist > 0 || testing.Short() && (z > 100 || z > 20 && inner == (twist > 0)) {
					continue // as long again, and nothing new
				}
				if inner && z < 20 {
					continue // there are none: their involutes would lie inside the base circle
				}
				t.Run(fmt.Sprintf("%d inner %v twist %v", z, inner, twist), func(t *testing.T) {
					s := gear(t, 1.5, z, inner, 12, twist)
					f := s.Features()
					wheels := joint.Wheels(s, &f)
					require.Len(t, wheels, 1)
					w := wheels[0]
					assert.Equal(t, z, w.Teeth)
					assert.Equal(t, inner, w.Inner)
					assert.InDelta(t, 1.5, w.Module(), 0.01)
					assert.InDelta(t, 1, math.Abs(w.Axis.Z), 1e-6)
					assert.Greater(t, w.Confidence, 0.8)
				})
			}
		}
	}
}

// What is not a gear is not taken for one: cylinders of any fineness, bolts, knobs with a few lobes.
func TestOtherShapesHaveNoTeeth(t *testing.T) {
	m := demo.Pump()
	for i := range m.Assembly.Nodes {
		n := &m.Assembly.Nodes[i]
		if !n.IsPart() {
			continue
		}
		f := m.Shapes[n.Shape].Features()
		wheels := joint.Wheels(m.Shapes[n.Shape], &f)
		switch n.Name {
		case "Planet gear, 18 teeth", "Sun gear, 12 teeth", "Ring gear, 48 teeth":
			require.Len(t, wheels, 1, n.Name)
			assert.Contains(t, n.Name, fmt.Sprint(wheels[0].Teeth, " teeth"))
			assert.InDelta(t, 1, wheels[0].Module(), 0.01)
		case "Dosing knob", "Latch knob": // their grips are drawn as fine teeth
		default:
			assert.Empty(t, wheels, n.Name)
		}
	}
}

// The example's gears are found to mesh, its planets on their pins, and the carrier in its bearings.
func TestJointsOfTheExample(t *testing.T) {
	m := demo.Pump()
	m.Assembly.Joints, m.Assembly.Couplings = nil, nil
	s, err := survey.Of(context.Background(), m.Assembly, m.Shapes)
	require.NoError(t, err)
	joints := map[assembly.NodeID]joint.FoundJoint{}
	for _, j := range s.Mechanism.Joints {
		joints[j.Body] = j
		t.Logf("%-40s %-10s on %-40s %.2f %s", j.Body, j.Kind, j.Base, j.Confidence, j.Why)
	}
	meshes := map[[2]float64]int{}
	for _, c := range s.Mechanism.Couplings {
		meshes[c.Sizes]++
		t.Logf("%s: %s", c.Name, c.Why)
	}
	assert.Equal(t, map[[2]float64]int{{18, 12}: 3, {18, 48}: 3}, meshes)
	planet := joints["planet-stage/planet-gear-18-teeth"]
	assert.Equal(t, assembly.NodeID("planet-stage/planet-pin"), planet.Base)
	assert.Equal(t, assembly.Revolute, planet.Kind)
	assert.Equal(t, assembly.NodeID("planet-stage/bearing-608"), joints["planet-stage/carrier-and-shaft"].Base)
	assert.NotContains(t, joints, assembly.NodeID("drive/motor-shaft"), "it ends before the carrier, on the same axis")
	assert.Equal(t, assembly.Fixed, joints["planet-stage/ring-gear-48-teeth"].Kind)

	// All of them accepted make a mechanism without a contradiction.
	a := *m.Assembly
	for _, j := range s.Mechanism.Joints {
		a.Joints = append(a.Joints, j.Joint)
	}
	for _, c := range s.Mechanism.Couplings {
		a.Couplings = append(a.Couplings, c.Coupling)
	}
	require.NoError(t, a.Check())
}

// Links that a pin goes through turn on one another.
func TestLinksOnAPinAreJoined(t *testing.T) {
	m := demo.Applicator()
	m.Assembly.Joints, m.Assembly.Couplings = nil, nil
	s, err := survey.Of(context.Background(), m.Assembly, m.Shapes)
	require.NoError(t, err)
	type pair [2]assembly.NodeID
	found := map[pair]bool{}
	for _, j := range s.Mechanism.Joints {
		if j.Kind == assembly.Revolute {
			found[pair{j.Body, j.Base}], found[pair{j.Base, j.Body}] = true, true
		}
	}
	assert.True(t, found[pair{"coupler", "rocker-arm/rocker"}], "the elbow")
	assert.True(t, found[pair{"coupler", "stamp-rod"}], "the crank's pin")
	assert.True(t, found[pair{"stamp-rod", "stamp/stamp-slide"}], "the gudgeon")
	assert.True(t, found[pair{"rocker-arm/rocker", "frame/base-plate"}], "the rocker's shaft")
}
