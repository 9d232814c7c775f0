package joint_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/joint"
	"slowreveal/core/space"
	"slowreveal/demo"
)

// The table of the applicator's cam, which is made for a law of motion, is that law: s = h (1 − cos φ).
func TestTheExamplesCamIsRead(t *testing.T) {
	m := demo.Applicator()
	made := m.Assembly.Couplings[1]
	require.Equal(t, assembly.Cam, made.Kind)
	table, err := joint.CamTable(m.Assembly, m.Shapes, m.Assembly.FindJoint(made.By), m.Assembly.FindJoint(made.Joint))
	require.NoError(t, err)
	require.Len(t, table, 73)
	for i, row := range table {
		assert.Equal(t, made.Table[i][0], row[0])
		assert.InDelta(t, made.Table[i][1], row[1], 0.02, "at %v°", row[0])
	}
}

// Cams of known laws: an eccentric disc under a flat follower moves it by e sin φ, under a roller by
// e cos θ + √((R + r)² − e² sin² θ) (the slider-crank's equation), and what swings on it as a four-bar does.
func TestCamsFollowTheirLaws(t *testing.T) {
	const e, radius, r = 4.0, 15.0, 5.0
	disc := prism(t, circle(radius, 720, e, 0), 6)
	joints := func(a *assembly.Assembly, kind assembly.JointKind, axis, point space.Vec3) (cam, follower *assembly.Joint) {
		a.Joints = []assembly.Joint{
			{
				ID:   "cam",
				Name: "Cam",
				Kind: assembly.Revolute,
				Body: "Disc",
				Base: assembly.Root,
				Axis: space.Vec3{0, 0, 1},
			},
			{
				ID:    "follower",
				Name:  "Follower",
				Kind:  kind,
				Body:  "Follower",
				Base:  assembly.Root,
				Axis:  axis,
				Point: point,
			},
		}
		return &a.Joints[0], &a.Joints[1]
	}
	t.Run("flat", func(t *testing.T) {
		a, shapes := assembled(
			put{"Disc", disc, space.Identity},
			put{"Follower", box(t, 60, 4, 6), space.Translation(space.Vec{Y: radius + 2})},
		)
		cam, follower := joints(a, assembly.Prismatic, space.Vec3{0, 1, 0}, space.Vec3{})
		table, err := joint.CamTable(a, shapes, cam, follower)
		require.NoError(t, err)
		for _, row := range table {
			assert.InDelta(t, e*math.Sin(row[0]*math.Pi/180), row[1], 2e-3, "at %v°", row[0])
		}
	})
	t.Run("roller", func(t *testing.T) {
		height := func(turned float64) float64 {
			s, c := math.Sincos((turned - 90) * math.Pi / 180) // from the follower's way
			return e*c + math.Sqrt((radius+r)*(radius+r)-e*e*s*s)
		}
		a, shapes := assembled(
			put{"Disc", disc, space.Identity},
			put{"Follower", prism(t, circle(r, 96, 0, 0), 6), space.Translation(space.Vec{Y: height(0)})},
		)
		cam, follower := joints(a, assembly.Prismatic, space.Vec3{0, 1, 0}, space.Vec3{})
		table, err := joint.CamTable(a, shapes, cam, follower)
		require.NoError(t, err)
		for _, row := range table {
			assert.InDelta(t, height(row[0])-height(0), row[1], 2e-3, "at %v°", row[0])
		}
	})
	t.Run("swinging", func(t *testing.T) {
		// The roller's middle keeps R + r from the disc's, and 40 mm from the pivot: where two circles meet.
		pivot, arm := [2]float64{-45, 20}, 0.0
		middle := [2]float64{0, 0}
		{
			s, c := math.Sincos(1.9)
			middle = [2]float64{e + (radius+r)*c, (radius + r) * s}
			arm = math.Hypot(middle[0]-pivot[0], middle[1]-pivot[1])
		}
		angle := func(turned float64) float64 {
			s, c := math.Sincos(turned * math.Pi / 180)
			x, y := e*c-pivot[0], e*s-pivot[1]
			d := math.Hypot(x, y)
			return math.Atan2(y, x) + math.Acos((arm*arm+d*d-(radius+r)*(radius+r))/(2*arm*d))
		}
		a, shapes := assembled(
			put{"Disc", disc, space.Identity},
			put{"Follower", prism(t, circle(r, 96, 0, 0), 6), space.Translation(space.Vec{X: middle[0], Y: middle[1]})},
		)
		cam, follower := joints(
			a,
			assembly.Revolute,
			space.Vec3{0, 0, -1},
			space.Vec3{pivot[0] - middle[0], pivot[1] - middle[1], 0},
		)
		table, err := joint.CamTable(a, shapes, cam, follower)
		require.NoError(t, err)
		for _, row := range table {
			assert.InDelta(t, -(angle(row[0])-angle(0))*180/math.Pi, row[1], 5e-3, "at %v°", row[0])
		}
	})
	t.Run("apart", func(t *testing.T) {
		a, shapes := assembled(
			put{"Disc", disc, space.Identity},
			put{"Follower", box(t, 60, 4, 6), space.Translation(space.Vec{Y: 60})},
		)
		cam, follower := joints(a, assembly.Prismatic, space.Vec3{0, 1, 0}, space.Vec3{})
		_, err := joint.CamTable(a, shapes, cam, follower)
		assert.ErrorContains(t, err, "nothing on “Follower” touches")
		follower.Axis = space.Vec3{0, 0, 1}
		_, err = joint.CamTable(a, shapes, cam, follower)
		assert.ErrorContains(t, err, "neither slides across")
	})
}
