package solid

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"

	"slowreveal/core/space"
)

func TestRelationsOfFeatures(t *testing.T) {
	plane := func(z float64) Feature {
		return Feature{Kind: Plane, Centre: space.Vec3{3, 4, z}, Axis: space.Vec3{0, 0, 1}}
	}
	slope := Feature{Kind: Plane, Centre: space.Vec3{0, 0, 9}, Axis: space.Vec3{0, 0.5, 0.8660254037844386}}
	bore := func(x, y float64) Feature {
		return Feature{Kind: Cylinder, Centre: space.Vec3{x, y, 5}, Axis: space.Vec3{0, 0, 1}, Radius: 2}
	}
	edge := Feature{Kind: Line, Centre: space.Vec3{100, 8, 2}, Axis: space.Vec3{1, 0, 0}}
	r := rand.New(rand.NewPCG(1, 3))
	for name, c := range map[string]struct {
		a, b              Feature
		distance, degrees float64
		meet              bool
	}{
		"parallel planes":           {plane(2), plane(44), 42, 0, false},
		"the same plane":            {plane(2), plane(2), 0, 0, false},
		"planes at 30°":             {plane(0), slope, 0, 30, true},
		"two bores":                 {bore(0, 0), bore(30, 40), 50, 0, false},
		"a bore and a plane":        {bore(0, 0), plane(0), 0, 90, true},
		"an edge over a plane":      {edge, plane(10), 8, 0, false},
		"an edge past a bore":       {edge, bore(0, 0), 8, 90, false},
		"an edge through an axis":   {edge, bore(7, 8), 0, 90, true},
		"a plane and a slanted one": {slope, plane(3), 0, 30, true},
	} {
		by := anyMotion(r)
		got := Between(c.a.Moved(&by), c.b.Moved(&by))
		assert.Equal(t, c.meet, got.Meet, name)
		assert.InDelta(t, c.degrees, got.Degrees, 1e-6, name)
		if !c.meet {
			assert.InDelta(t, c.distance, got.Distance, 1e-9, name)
		}
	}
}

func TestTheNearestEdgeIsFoundWithinAReach(t *testing.T) {
	list := []Feature{
		{Kind: Plane, Centre: space.Vec3{0, 0, 0}, Axis: space.Vec3{0, 0, 1}},
		{Kind: Line, Centre: space.Vec3{0, 0, 0}, Axis: space.Vec3{1, 0, 0}, Length: 10},
		{Kind: Line, Centre: space.Vec3{0, 2, 0}, Axis: space.Vec3{1, 0, 0}, Length: 10},
	}
	assert.Equal(t, 1, LineAt(list, space.Vec{X: 4, Y: 0.4}, 1))
	assert.Equal(t, 2, LineAt(list, space.Vec{X: 4, Y: 1.4}, 1))
	assert.Equal(t, -1, LineAt(list, space.Vec{X: 9, Y: 0}, 1), "beyond its end")
	assert.Equal(t, -1, LineAt(list, space.Vec{X: 0, Y: 1, Z: 5}, 1))
	assert.Equal(t, -1, LineAt(nil, space.Vec{}, 1))
}
