package clearance_test

import (
	"context"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/clearance"
	"slowreveal/core/film"
	"slowreveal/core/solid"
	"slowreveal/core/solid/simple"
	"slowreveal/core/space"
	"slowreveal/demo"
	"slowreveal/formats"
)

// two is an assembly of a part that stays and one that goes, at a place.
func two(t *testing.T, stays, goes solid.Mesh, at space.Vec) (*clearance.Space, clearance.Pose) {
	t.Helper()
	b := formats.NewBuilder(context.Background(), formats.Options{Name: "two"}, "computed")
	finish := b.Finish(formats.DefaultFinish)
	root := b.Node(-1, assembly.Node{Name: "two", Shape: -1, Pose: assembly.PoseOf(space.Identity)})
	for name, m := range map[string]solid.Mesh{"stays": stays, "goes": goes} {
		shape, err := b.Mesh(name, m)
		require.NoError(t, err)
		pose := space.Identity
		if name == "goes" {
			pose = space.Translation(at)
		}
		b.Node(root, assembly.Node{Name: name, Shape: shape, Finishes: []int{finish}, Pose: assembly.PoseOf(pose)})
	}
	m, err := b.Model()
	require.NoError(t, err)
	return clearance.NewSpace(m.Assembly, m.Shapes),
		clearance.Pose{World: m.Assembly.Worlds(), Opacity: []float64{1, 1, 1}}
}

func way(s *clearance.Space, at clearance.Pose, x, y, z float64) clearance.Way {
	return s.Ways(at, []assembly.NodeID{"goes"}, []space.Vec{{X: x, Y: y, Z: z}}, 1000)[0]
}

func TestABlockGoesUpToTheNext(t *testing.T) {
	s, at := two(t, simple.Block(20, 20, 20), simple.Block(4, 4, 4), space.Vec{X: 8, Y: 8, Z: 34.2})
	down := way(s, at, 0, 0, -1)
	assert.False(t, down.Free)
	assert.InDelta(t, 14.2, down.Distance, 1e-3)
	assert.Equal(t, assembly.NodeID("stays"), down.Touches)
	for _, d := range [][3]float64{{1, 0, 0}, {0, 1, 0}, {0, 0, 1}, {0, 1, 1}} {
		w := way(s, at, d[0], d[1], d[2])
		assert.True(t, w.Free, d)
		assert.Equal(t, 1000.0, w.Distance)
	}
	// At a slant: it comes down 14.2 mm after going as far sideways.
	slant := way(s, at, 0.2, 0, -1)
	assert.InDelta(t, 14.2*math.Hypot(1, 0.2), slant.Distance, 0.05)
}

func TestABlockThatRestsOnAnotherCannotGoDown(t *testing.T) {
	s, at := two(t, simple.Block(20, 20, 20), simple.Block(4, 4, 4), space.Vec{X: 8, Y: 8, Z: 20})
	assert.Zero(t, way(s, at, 0, 0, -1).Distance)
	assert.True(t, way(s, at, 0, 0, 1).Free)
	assert.True(t, way(s, at, 1, 0, 0).Free, "it slides")
}

// Two spheres whose centres pass at the distance b: x₀ − √((r₁+r₂)² − b²).
func TestSpheresMeetWhereTheClosedFormSays(t *testing.T) {
	for _, b := range []float64{0, 5, 9} {
		s, at := two(t, simple.Ball(10), simple.Ball(4), space.Vec{X: 60, Y: b})
		w := way(s, at, -1, 0, 0)
		assert.InDelta(t, 60-math.Sqrt(14*14-b*b), w.Distance, 0.15, "b = %g", b)
	}
	s, at := two(t, simple.Ball(10), simple.Ball(4), space.Vec{X: 60, Y: 14.3})
	assert.True(t, way(s, at, -1, 0, 0).Free, "they pass each other")
}

// Two bars across each other meet with their edges, no corner touches a face
// first.
func TestBarsAcrossEachOtherMeetWithTheirEdges(t *testing.T) {
	turned := simple.Block(40, 2, 2)
	for i := 0; i < len(turned.Positions); i += 3 { // on its edge: about X by 45°
		y, z := turned.Positions[i+1]-1, turned.Positions[i+2]-1
		turned.Positions[i+1], turned.Positions[i+2] = (y-z)*math.Sqrt2/2, (y+z)*math.Sqrt2/2
	}
	cross := simple.Block(2, 40, 2)
	for i := 0; i < len(cross.Positions); i += 3 {
		x, z := cross.Positions[i]-1, cross.Positions[i+2]-1
		cross.Positions[i], cross.Positions[i+2] = (x-z)*math.Sqrt2/2, (x+z)*math.Sqrt2/2
	}
	s, at := two(t, turned, cross, space.Vec{X: 20, Y: -20, Z: 15})
	assert.InDelta(t, 15-2*math.Sqrt2, way(s, at, 0, 0, -1).Distance, 0.15)
}

// A pin of 4.96 mm radius in a bore of 5 slides along it, is stopped by 0.04 mm
// across, and so is one of the bore's own size.
func TestAPinSlidesInItsBore(t *testing.T) {
	for _, radius := range []float64{4.96, 5} {
		s, at := two(t, simple.Sleeve(5, 9, 10, 48), simple.Sleeve(0, radius, 30, 36), space.Vec{Z: -10})
		assert.True(t, way(s, at, 0, 0, 1).Free, radius)
		assert.True(t, way(s, at, 0, 0, -1).Free, radius)
		assert.InDelta(t, 5-radius, way(s, at, 1, 0, 0).Distance, 0.06, radius)
	}
}

// A screw that was drawn into a hole of its core's diameter comes out all the
// same.
func TestAScrewInAHoleOfItsCoreComesOut(t *testing.T) {
	s, at := two(t, simple.Sleeve(1.25, 9, 10, 28), simple.Sleeve(0, 1.5, 12, 28), space.Vec{Z: -1})
	assert.True(t, way(s, at, 0, 0, 1).Free)
}

func TestWhatIsNotSeenIsInNobodysWay(t *testing.T) {
	s, at := two(t, simple.Block(20, 20, 20), simple.Block(4, 4, 4), space.Vec{X: 8, Y: 8, Z: 34})
	for i := range at.Opacity {
		at.Opacity[i] = 1
	}
	ways := s.Ways(at, []assembly.NodeID{"goes"}, []space.Vec{{Z: -1}, {}}, 500)
	assert.False(t, ways[0].Free)
	assert.True(t, ways[1].Free, "no direction, no obstacle")
	hidden := append([]float64(nil), at.Opacity...)
	for i := range hidden {
		hidden[i] = 0
	}
	assert.True(
		t,
		s.Ways(clearance.Pose{World: at.World, Opacity: hidden}, []assembly.NodeID{"goes"}, []space.Vec{{Z: -1}}, 500)[0].Free,
	)
}

func pump() (*clearance.Space, clearance.Pose, map[string]assembly.NodeID) {
	m := demo.Pump()
	r := demo.Teardown(m.Assembly)
	f := film.Compile(m.Assembly, r)
	fr := f.NewFrame()
	f.At(0, fr)
	ids := map[string]assembly.NodeID{}
	for i := range m.Assembly.Nodes {
		ids[m.Assembly.Nodes[i].Name] = m.Assembly.Nodes[i].ID
	}
	return clearance.NewSpace(m.Assembly, m.Shapes), clearance.Pose{World: fr.World, Opacity: fr.Opacity}, ids
}

func TestTheExamplesCoverScrewComesOutUpToTheDoor(t *testing.T) {
	s, at, ids := pump()
	ways := s.Ways(at, []assembly.NodeID{ids["Cover screw M3 × 12"]}, []space.Vec{{Z: 1}, {Z: -1}, {X: 1}}, 2000)
	assert.Equal(t, ids["Door panel"], ways[0].Touches)
	assert.Greater(t, ways[0].Distance, 0.5)
	assert.Zero(t, ways[1].Distance, "its head sits on the cover")
	assert.Less(t, ways[2].Distance, 1.0, "its hole holds it")
	assert.True(t, r3.Norm(space.Vec{X: ways[0].Distance}) < 60)
	cover := s.Ways(at, []assembly.NodeID{ids["Rotor cover"]}, []space.Vec{{X: 1}, {Z: 1}}, 2000)
	assert.Less(t, cover[0].Distance, 1.0, "its screws hold it")
	assert.Less(t, cover[1].Distance, 1.0, "their heads too")
}

func BenchmarkSixWaysOfTheCover(b *testing.B) {
	s, at, ids := pump()
	six := []space.Vec{{X: 1}, {X: -1}, {Y: 1}, {Y: -1}, {Z: 1}, {Z: -1}}
	s.Ways(at, []assembly.NodeID{ids["Rotor cover"]}, six, 2000)
	for b.Loop() {
		s.Ways(at, []assembly.NodeID{ids["Rotor cover"]}, six, 2000)
	}
}

func BenchmarkSixWaysOfThePumpHead(b *testing.B) {
	s, at, ids := pump()
	six := []space.Vec{{X: 1}, {X: -1}, {Y: 1}, {Y: -1}, {Z: 1}, {Z: -1}}
	for b.Loop() {
		s.Ways(at, []assembly.NodeID{ids["Pump head"]}, six, 2000)
	}
}
