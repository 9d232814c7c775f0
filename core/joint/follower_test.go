package joint_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/joint"
	"slowreveal/core/solid"
	"slowreveal/core/space"
	"slowreveal/demo"
)

// bored is a plate of an outline that goes anticlockwise around a hole about the origin, with as many corners.
func bored(t *testing.T, outline [][2]float64, hole, height float64) *solid.Shape {
	t.Helper()
	n := uint32(len(outline))
	inner := circle(hole, len(outline), 0, 0)
	var mesh solid.Mesh
	for _, z := range []float64{0, height} {
		for _, loop := range [][][2]float64{outline, inner} {
			for _, p := range loop {
				mesh.Positions = append(mesh.Positions, float32(p[0]), float32(p[1]), float32(z))
			}
		}
	}
	quad := func(a, b, c, d uint32) { mesh.Triangles = append(mesh.Triangles, a, b, c, a, c, d) }
	for i := range n {
		k := (i + 1) % n
		quad(i, k, 2*n+k, 2*n+i)             // outside
		quad(n+k, n+i, 3*n+i, 3*n+k)         // the hole
		quad(i, n+i, n+k, k)                 // below
		quad(2*n+i, 2*n+k, 2*n+n+k, 2*n+n+i) // above
	}
	return shapeOf(t, mesh)
}

// arm is the outline of a lever with round ends of a radius, seen from its pivot at the origin: its corners lie on
// evenly spaced rays.
func arm(length, radius float64, n int) (o [][2]float64) {
	for i := range n {
		s, c := math.Sincos(2 * math.Pi * float64(i) / float64(n))
		d := radius
		if c > 0 { // along the flank, or out to the far end
			if d = radius / max(math.Abs(s), 1e-9); d*c > length {
				d = length*c + math.Sqrt(radius*radius-length*length*s*s)
			}
		}
		o = append(o, [2]float64{d * c, d * s})
	}
	return o
}

// square is a square's outline, its corners on evenly spaced rays from its middle.
func square(half float64, n int) (o [][2]float64) {
	for i := range n {
		s, c := math.Sincos(2 * math.Pi * float64(i) / float64(n))
		d := half / max(math.Abs(s), math.Abs(c))
		o = append(o, [2]float64{d * c, d * s})
	}
	return o
}

// The applicator's cam offers itself with the law that it was made for; nothing of the pump is one.
func TestTheExamplesCamOffersItself(t *testing.T) {
	m := demo.Applicator()
	made := m.Assembly.Couplings[1]
	m.Assembly.Joints, m.Assembly.Couplings = nil, nil
	c := theCam(t, foundIn(t, m.Assembly, m.Shapes))
	assert.Equal(t, "Cam and Follower", c.Name)
	assert.GreaterOrEqual(t, c.Confidence, 0.6)
	assert.Contains(t, c.Why, "Follower roller lies on the outline of Cam")
	require.Len(t, c.Table, 73)
	for i, row := range c.Table { // the slide may have been found the other way round, the shaft turns alike both ways
		assert.InDelta(t, math.Abs(made.Table[i][1]), math.Abs(row[1]), 0.02, "at %v°", row[0])
	}

	pump := demo.Pump()
	pump.Assembly.Joints, pump.Assembly.Couplings = nil, nil
	for _, c := range foundIn(t, pump.Assembly, pump.Shapes).Couplings {
		assert.NotEqual(t, assembly.Cam, c.Kind, c.Name)
	}
}

func theCam(t *testing.T, found joint.Found) joint.FoundCoupling {
	t.Helper()
	var cams []joint.FoundCoupling
	for _, c := range found.Couplings {
		if c.Kind == assembly.Cam {
			cams = append(cams, c)
		}
	}
	require.Len(t, cams, 1)
	return cams[0]
}

// A lever on an eccentric swings as a four-bar does: the middle of its end keeps R + r from the eccentric's. A round disc
// in the eccentric's place moves nothing, and what stands off is none's follower.
func TestALeverOnAnEccentricIsACamsFollower(t *testing.T) {
	const e, radius, r, long = 4.0, 15.0, 5.0, 42.0
	touches := space.Vec{X: e - 12, Y: math.Sqrt((radius+r)*(radius+r) - 12*12)} // the middle of its end
	pivot := space.Vec{X: touches.X - math.Sqrt(long*long-9), Y: touches.Y + 3}
	scene := func(off, aside float64) joint.Found {
		lean := math.Atan2(-3, math.Sqrt(long*long-9))
		turned := space.TurnAbout(space.Vec{}, space.Vec{Z: 1}, lean*180/math.Pi)
		at := func(x, y, z float64) space.Rigid { return space.Translation(space.Vec{X: x, Y: y + aside, Z: z}) }
		lever := at(pivot.X, pivot.Y, 10)
		lever.R = turned.R
		a, shapes := assembled(
			put{"Plate", bored(t, square(30, 96), 4, 10), space.Identity},
			put{"Disc", bored(t, circle(radius, 360, off, 0), 4, 6), space.Translation(space.Vec{Z: 10})},
			put{"Pin", prism(t, circle(4, 96, 0, 0), 20), space.Identity},
			put{"Bracket", bored(t, square(18, 96), 3, 30), at(pivot.X, pivot.Y, -20)},
			put{"Lever", bored(t, arm(long, r, 720), 3, 6), lever},
			put{"Pivot", prism(t, circle(3, 96, 0, 0), 20), at(pivot.X, pivot.Y, 0)},
		)
		return foundIn(t, a, shapes)
	}
	found := scene(e, 0)
	c := theCam(t, found)
	assert.Contains(t, c.Why, "Lever lies on the outline of Disc")
	var follower joint.FoundJoint
	for _, j := range found.Joints {
		if j.ID == c.Joint {
			follower = j
		}
	}
	cam := 1.0
	for _, j := range found.Joints {
		if j.ID == c.By {
			cam = j.Axis[2]
		}
	}
	angle := func(turned float64) float64 {
		s, k := math.Sincos(turned * math.Pi / 180)
		x, y := e*k-pivot.X, e*s-pivot.Y
		d := math.Hypot(x, y)
		return (math.Atan2(y, x) + math.Acos((long*long+d*d-(radius+r)*(radius+r))/(2*long*d))) * 180 / math.Pi
	}
	for _, row := range c.Table {
		want := (angle(cam*row[0]) - angle(0)) * follower.Axis[2]
		assert.InDelta(t, want, row[1], 0.05, "at %v°", row[0])
	}
	for _, none := range []joint.Found{scene(0, -0.2), scene(e, 3)} {
		for _, c := range none.Couplings {
			assert.NotEqual(t, assembly.Cam, c.Kind, c.Why)
		}
	}
}
