package joint_test

import (
	"context"
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/joint"
	"slowreveal/core/solid"
	"slowreveal/core/space"
	"slowreveal/core/survey"
	"slowreveal/demo"
)

// prism is a closed mesh of an outline that goes anticlockwise, star-shaped about its middle, from z = 0 up.
func prism(t *testing.T, outline [][2]float64, height float64) *solid.Shape {
	t.Helper()
	var mesh solid.Mesh
	var middle [2]float64
	for _, p := range outline {
		middle[0], middle[1] = middle[0]+p[0]/float64(len(outline)), middle[1]+p[1]/float64(len(outline))
	}
	for _, z := range []float64{0, height} {
		for _, p := range append(outline[:len(outline):len(outline)], middle) {
			mesh.Positions = append(mesh.Positions, float32(p[0]), float32(p[1]), float32(z))
		}
	}
	n := len(outline)
	add := func(i ...int) {
		for _, k := range i {
			mesh.Triangles = append(mesh.Triangles, uint32(k))
		}
	}
	for i := range n {
		k := (i + 1) % n
		add(i, k, n+1+k, i, n+1+k, n+1+i, k, i, n, n+1+i, n+1+k, n+1+n)
	}
	return shapeOf(t, mesh)
}

func shapeOf(t *testing.T, mesh solid.Mesh) *solid.Shape {
	t.Helper()
	mesh.Submeshes = []solid.Submesh{{Count: uint32(len(mesh.Triangles) / 3)}}
	s, _, err := solid.New(mesh)
	require.NoError(t, err)
	return s
}

func box(t *testing.T, x, y, z float64) *solid.Shape {
	return prism(t, [][2]float64{{-x / 2, -y / 2}, {x / 2, -y / 2}, {x / 2, y / 2}, {-x / 2, y / 2}}, z)
}

func circle(r float64, n int, x, y float64) (o [][2]float64) {
	for i := range n {
		s, c := math.Sincos(2 * math.Pi * float64(i) / float64(n))
		o = append(o, [2]float64{x + r*c, y + r*s})
	}
	return o
}

// put is a shape at a place.
type put struct {
	name  string
	shape *solid.Shape
	at    space.Rigid
}

func assembled(parts ...put) (*assembly.Assembly, []*solid.Shape) {
	a := &assembly.Assembly{
		Name: "Made",
		Nodes: []assembly.Node{
			{ID: assembly.Root, Name: "Made", Parent: -1, Shape: -1, Pose: assembly.PoseOf(space.Identity)},
		},
	}
	var shapes []*solid.Shape
	for i, p := range parts {
		shapes = append(shapes, p.shape)
		a.Shapes = append(a.Shapes, assembly.ShapeRef{
			Hash: p.shape.Hash(), Min: space.Vec3Of(p.shape.Bounds.Min), Max: space.Vec3Of(p.shape.Bounds.Max),
		})
		a.Nodes = append(
			a.Nodes,
			assembly.Node{ID: assembly.NodeID(p.name), Name: p.name, Shape: i, Pose: assembly.PoseOf(p.at)},
		)
	}
	return a, shapes
}

func foundIn(t *testing.T, a *assembly.Assembly, shapes []*solid.Shape) joint.Found {
	t.Helper()
	s, err := survey.Of(context.Background(), a, shapes)
	require.NoError(t, err)
	for _, j := range s.Mechanism.Joints {
		t.Logf("%-20s %-10s on %-20s %.2f %s", j.Body, j.Kind, j.Base, j.Confidence, j.Why)
	}
	for _, c := range s.Mechanism.Couplings {
		t.Logf("%s: %v %v %s", c.Name, c.Sizes, c.Ratio, c.Why)
	}
	return s.Mechanism
}

// rackOutline is the basic rack of ISO 53: flanks of 20°, a module above and 1.25 below the pitch line, which lies at y = 0.
func rackOutline(m float64, z int) (o [][2]float64) {
	pitch, tan := math.Pi*m, math.Tan(20*math.Pi/180)
	for i := z - 1; i >= 0; i-- {
		x := (float64(i) - float64(z-1)/2) * pitch
		for _, p := range [][2]float64{{1, -1.25}, {1, 1}, {-1, 1}, {-1, -1.25}} {
			o = append(o, [2]float64{x + p[0]*(pitch/4-p[1]*m*tan), p[1] * m})
		}
	}
	end := pitch * float64(z) / 2
	return append(
		append([][2]float64{{end, -1.25 * m}}, o...),
		[2]float64{-end, -1.25 * m},
		[2]float64{-end, -4 * m},
		[2]float64{end, -4 * m},
	)
}

// strip is a prism of an outline that is above a straight line everywhere: its ends are cut in columns.
func strip(t *testing.T, o [][2]float64, height float64) *solid.Shape {
	t.Helper()
	// The last two corners are the back; a fan of columns between the front and the back.
	var mesh solid.Mesh
	front := o[:len(o)-2]
	low := o[len(o)-1][1]
	n := len(front)
	for _, z := range []float64{0, height} {
		for _, p := range front {
			mesh.Positions = append(mesh.Positions, float32(p[0]), float32(p[1]), float32(z))
		}
		for _, p := range front {
			mesh.Positions = append(mesh.Positions, float32(p[0]), float32(low), float32(z))
		}
	}
	quad := func(a, b, c, d int) {
		for _, i := range []int{a, b, c, a, c, d} {
			mesh.Triangles = append(mesh.Triangles, uint32(i))
		}
	}
	for i := range n - 1 {
		k, up := i+1, 2*n
		quad(i, k, up+k, up+i)           // the front
		quad(n+k, n+i, up+n+i, up+n+k)   // the back
		quad(k, i, n+i, n+k)             // below
		quad(up+i, up+k, up+n+k, up+n+i) // above
	}
	quad(n, 0, 2*n, 3*n)
	quad(n-1, 2*n-1, 4*n-1, 3*n-1)
	return shapeOf(t, mesh)
}

// A rack of the basic profile (ISO 53) is found, and runs with the pinion that stands beside it.
func TestARackRunsWithItsPinion(t *testing.T) {
	for _, m := range []float64{1, 2.5} {
		const z = 17
		rack := strip(t, rackOutline(m, 14), 8)
		f := rack.Features()
		rows := joint.Racks(rack, &f)
		require.Len(t, rows, 1)
		assert.Equal(t, 14, rows[0].Teeth)
		assert.InDelta(t, m, rows[0].Module(), 1e-4)
		assert.InDelta(t, 2.25*m, rows[0].Depth, 1e-3)
		assert.InDelta(t, 1, rows[0].Out.Y, 1e-6)
		pinion := gear(t, m, z, false, 8, 0)
		sin, cos := math.Sincos(-math.Pi/2 + math.Pi/z) // a space towards the rack's tooth
		turned := space.Mat3{cos, -sin, 0, sin, cos, 0, 0, 0, 1}
		a, shapes := assembled(
			put{"Rack", rack, space.Translation(space.Vec{X: math.Pi * m / 2})},
			put{"Pinion", pinion, space.Rigid{R: turned, T: space.Vec{Y: m * z / 2}}},
		)
		found := foundIn(t, a, shapes)
		require.Len(t, found.Couplings, 1)
		c := found.Couplings[0]
		assert.Equal(t, assembly.Rack, c.Kind)
		assert.InDelta(t, m*z, c.Sizes[1], 0.02*m, "the pitch diameter")
		slides := found.Joints[0]
		if slides.Kind != assembly.Prismatic {
			slides = found.Joints[1]
		}
		assert.Equal(t, slides.ID, c.Joint)
		assert.InDelta(t, 1, math.Abs(slides.Axis[0]), 1e-6)
	}
	// What is no rack: plates, cylinders, a comb whose teeth are far too long, steps.
	fins := rackOutline(1, 9)
	for i := range fins {
		if fins[i][1] == 1 {
			fins[i][1] = 6
		}
	}
	for _, s := range []*solid.Shape{box(t, 40, 10, 5), prism(t, circle(10, 64, 0, 0), 5), strip(t, fins, 5)} {
		f := s.Features()
		assert.Empty(t, joint.Racks(s, &f))
	}
}

// threaded is a closed mesh of a V-thread of so many starts about z; an inner one has a wall around it.
func threaded(t *testing.T, radius, depth, lead float64, starts int, length float64, inner bool) *solid.Shape {
	t.Helper()
	const around = 48
	layers := int(length / (math.Abs(lead) / float64(starts)) * 12)
	var mesh solid.Mesh
	wall := 0.3 * radius
	if inner {
		wall = 2 * radius
	}
	for l := range layers + 1 {
		w := length * float64(l) / float64(layers)
		for i := range around {
			at := 2 * math.Pi * float64(i) / around
			turn := math.Mod(float64(starts)*(at/(2*math.Pi)-w/lead)+1000, 1)
			r := radius - depth*math.Abs(2*turn-1)
			mesh.Positions = append(mesh.Positions, float32(r*math.Cos(at)), float32(r*math.Sin(at)), float32(w))
		}
		for i := range around {
			at := 2 * math.Pi * float64(i) / around
			mesh.Positions = append(mesh.Positions, float32(wall*math.Cos(at)), float32(wall*math.Sin(at)), float32(w))
		}
	}
	quad := func(a, b, c, d int) {
		if inner {
			b, d = d, b
		}
		for _, i := range []int{a, b, c, a, c, d} {
			mesh.Triangles = append(mesh.Triangles, uint32(i))
		}
	}
	for i := range around {
		k := (i + 1) % around
		for l := range layers {
			at, up := 2*around*l, 2*around*(l+1)
			quad(at+i, at+k, up+k, up+i)
			quad(at+around+k, at+around+i, up+around+i, up+around+k)
		}
		top := 2 * around * layers
		quad(k, i, around+i, around+k)
		quad(top+i, top+k, top+around+k, top+around+i)
	}
	return shapeOf(t, mesh)
}

// Lead, hand and starts of modelled threads are read from the mesh: metric coarse threads (ISO 261), trapezoidal ones
// (ISO 2904), of several starts, left-hand, inside; values from memory.
func TestThreadsAreRead(t *testing.T) {
	for _, c := range []struct {
		radius, lead float64
		starts       int
	}{{4, 1.25, 1}, {3, 1, 1}, {10, 4, 1}, {5, -1.5, 1}, {8, 8, 4}, {10, -8, 2}} {
		for _, inner := range []bool{false, true} {
			t.Run(fmt.Sprintf("Ø%g lead %g inner %v", 2*c.radius, c.lead, inner), func(t *testing.T) {
				pitch := math.Abs(c.lead) / float64(c.starts)
				s := threaded(t, c.radius, 0.6*pitch, c.lead, c.starts, 4*c.radius, inner)
				f := s.Features()
				list := joint.Threads(s, &f)
				require.Len(t, list, 1)
				assert.InEpsilon(t, c.lead, list[0].Lead, 0.01)
				assert.Equal(t, c.starts, list[0].Starts)
				assert.Equal(t, inner, list[0].Inner)
				assert.InDelta(t, 4*c.radius, list[0].Length, c.radius)
			})
		}
	}
	// Eccentric discs, gears and cylinders are no threads.
	for _, s := range []*solid.Shape{
		prism(t, circle(10, 64, 3, 0), 20), prism(t, circle(10, 64, 0, 0), 20), gear(t, 1, 9, false, 12, 0.5), box(t, 8, 8, 30),
	} {
		f := s.Features()
		assert.Empty(t, joint.Threads(s, &f))
	}
}

// A nut on a spindle screws along it.
func TestANutRunsOnItsSpindle(t *testing.T) {
	spindle, nut := threaded(t, 5, 0.9, 2, 1, 60, false), threaded(t, 5.05, 0.9, 2, 1, 10, true)
	a, shapes := assembled(
		put{"Spindle", spindle, space.Identity},
		put{"Nut", nut, space.Translation(space.Vec{Z: 20})},
	)
	found := foundIn(t, a, shapes)
	require.Len(t, found.Joints, 1)
	j := found.Joints[0]
	assert.Equal(t, assembly.Helical, j.Kind)
	assert.Equal(t, assembly.NodeID("Nut"), j.Body)
	assert.InDelta(t, 2, j.Lead, 0.01)
}

// A block in a channel slides along it; one on two rods along those; a lid that is screwed on does not slide.
func TestWhatLiesBetweenGuidesSlides(t *testing.T) {
	at := func(x, y, z float64) space.Rigid { return space.Translation(space.Vec{X: x, Y: y, Z: z}) }
	a, shapes := assembled(
		put{"Block", box(t, 10, 8, 6), at(0, 0, 0)},
		put{"Floor", box(t, 60, 30, 4), at(0, 0, -4)},
		put{"Wall", box(t, 60, 5, 10), at(0, 6.6, 0)},
		put{"Other wall", box(t, 60, 5, 10), at(0, -6.6, 0)},
	)
	assert.Empty(t, foundIn(t, a, shapes).Joints, "each of the walls by itself leaves it more than one way")
	channel := strip(
		t,
		[][2]float64{{30, 10}, {4.1, 10}, {4.1, 0}, {-4.1, 0}, {-4.1, 10}, {-30, 10}, {-30, -5}, {30, -5}},
		60,
	)
	a, shapes = assembled(
		put{"Block", box(t, 8, 6, 12), at(0, 3.02, 20)},
		put{"Channel", channel, space.Identity},
	)
	found := foundIn(t, a, shapes)
	require.Len(t, found.Joints, 1)
	j := found.Joints[0]
	assert.Equal(t, assembly.Prismatic, j.Kind)
	assert.Equal(t, assembly.NodeID("Block"), j.Body)
	assert.InDelta(t, 1, math.Abs(j.Axis[2]), 1e-9, "along the channel")
	assert.GreaterOrEqual(t, j.Confidence, 0.6)
}

// The applicator's belt is found around its pulleys, and its guides guide.
func TestABeltIsFoundAroundItsPulleys(t *testing.T) {
	m := demo.Applicator()
	m.Assembly.Joints, m.Assembly.Couplings = nil, nil
	found := foundIn(t, m.Assembly, m.Shapes)
	require.Len(t, found.Couplings, 2) // and its cam
	c := found.Couplings[0]
	assert.Equal(t, assembly.Belt, c.Kind)
	assert.InDeltaSlice(t, []float64{54, 18}, c.Sizes[:], 0.01)
	slides := map[assembly.NodeID]joint.FoundJoint{}
	for _, j := range found.Joints {
		if j.Kind == assembly.Prismatic {
			slides[j.Body] = j
		}
	}
	require.Len(t, slides, 2)
	along := func(id assembly.NodeID) space.Vec {
		return r3.Unit(slides[id].Axis.Vec())
	}
	assert.InDelta(t, 1, math.Abs(along("stamp/stamp-slide").Y), 1e-6)
	assert.InDelta(t, 1, math.Abs(along("peeling-blade/follower").X), 1e-6)
}
