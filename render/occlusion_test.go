package render

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/look"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// block is a body from −half to half.
func block(t *testing.T, half space.Vec3) *solid.Shape {
	t.Helper()
	m := solid.Mesh{
		Triangles: []uint32{
			0,
			2,
			1,
			1,
			2,
			3,
			4,
			5,
			6,
			5,
			7,
			6,
			0,
			1,
			4,
			1,
			5,
			4,
			2,
			6,
			3,
			3,
			6,
			7,
			0,
			4,
			2,
			2,
			4,
			6,
			1,
			3,
			5,
			3,
			7,
			5,
		},
	}
	for i := range 8 {
		m.Positions = append(
			m.Positions,
			float32(half[0])*float32(2*(i&1)-1),
			float32(half[1])*float32(2*(i>>1&1)-1),
			float32(half[2])*float32(2*(i>>2)-1),
		)
	}
	s, _, err := solid.New(m)
	require.NoError(t, err)
	return s
}

// table draws a plate of 200 × 200 mm whose top lies at y = 0 and blocks of 40 mm on it or above it, without lines,
// from the front and 40° above, moved sideways by some mm; 150 mm of it lie across the picture's height. It returns the
// brightness at points of the plate's top, of 255.
type table struct {
	scene  *Scene
	blocks []space.Vec
	light  float64 // of the blocks: 1 is solid
}

func newTable(t *testing.T, blocks ...space.Vec) *table {
	t.Helper()
	shapes := []*solid.Shape{block(t, space.Vec3{100, 2, 100}), block(t, space.Vec3{20, 20, 20})}
	a := &assembly.Assembly{
		Nodes:    []assembly.Node{{ID: "/", Parent: -1, Shape: -1}, {ID: "plate", Shape: 0, Finishes: []int{0}}},
		Finishes: []assembly.Finish{{Colour: space.Vec3{0.35, 0.35, 0.35}, Roughness: 1, Opacity: 1}},
	}
	for _, s := range shapes {
		a.Shapes = append(
			a.Shapes,
			assembly.ShapeRef{Min: space.Vec3Of(s.Bounds.Min), Max: space.Vec3Of(s.Bounds.Max)},
		)
	}
	for range blocks {
		a.Nodes = append(a.Nodes, assembly.Node{ID: "block", Shape: 1, Finishes: []int{0}})
	}
	scene, err := NewScene(a, shapes)
	require.NoError(t, err)
	return &table{scene, blocks, 1}
}

func (o *table) draw(t *testing.T, height int, aside float64, parallel, off bool) func(x, z float64) float64 {
	t.Helper()
	r, err := NewRenderer(o.scene, height*4/3, height, 0)
	require.NoError(t, err)
	v, p := o.scene.NewView(), NewPicture(height*4/3, height)
	for i := range v.World {
		v.World[i], v.Opacity[i], v.Surface[i] = space.Identity, 1, film.Surface{Faces: 1, Edges: 1}
		if i >= 2 {
			v.World[i].T, v.Opacity[i] = o.blocks[i-2], o.light
		}
	}
	v.World[1].T.Y = -2
	v.Unoccluded = off
	const far = 800
	v.Camera = viewCamera{eye: space.Identity, tanV: 75.0 / far, tanH: 100.0 / far}
	if parallel {
		v.Camera.orthographic, v.Camera.distance, v.Camera.depth = true, far, o.scene.depth
	}
	turn := space.AxisAngle(space.Vec{X: 1}, -40)
	v.Camera.eye = space.Rigid{R: turn, T: turn.Apply(space.Vec{Z: far})}
	v.Camera.eye.T.X += aside
	r.edgeWidth, r.contourWidth = 0, 0
	r.Draw(v, p)
	inverse := v.Camera.eye.Inverse()
	return func(x, z float64) float64 {
		at := inverse.Apply(space.Vec{X: x, Z: z})
		across, up := v.Camera.reach(-at.Z)
		px, py := int((0.5+at.X/across/2)*float64(p.Width)), int((0.5-at.Y/up/2)*float64(p.Height))
		return p.grey(px, py)
	}
}

// left is the share of brightness that occlusion leaves at points in front of the blocks, dist mm from their side.
func (o *table) left(t *testing.T, height int, aside float64, parallel bool, dist ...float64) []float64 {
	t.Helper()
	on, off := o.draw(t, height, aside, parallel, false), o.draw(t, height, aside, parallel, true)
	var list []float64
	for _, d := range dist {
		list = append(list, on(0, 20+d)/off(0, 20+d))
	}
	return list
}

var standing = space.Vec{Y: 20}

// A plate is darkest where a block stands on it, the brighter the farther from there, and as bright as ever beyond the
// reach; also where lines of sight are parallel. A block that floats farther away than the reach, and one that can be
// seen through, darken nothing.
func TestPartsDarkenEachOtherWhereTheyComeNear(t *testing.T) {
	o := newTable(t, standing)
	reach := look.Default.Occlusion.Reach * o.scene.depth / orthographicDepth
	require.InDelta(t, 17, reach, 1, "mm, of a diagonal of 286")
	for _, parallel := range []bool{false, true} {
		left := o.left(t, 540, 0, parallel, 1, 3, 5, 8, 11, 14, reach+4, 40)
		t.Logf("left at 1, 3, 5, 8, 11, 14 mm, beyond the reach, far away: %.3f", left)
		assert.Less(t, left[0], 0.85)
		assert.Greater(t, left[0], 0.5)
		for i := 1; i < len(left); i++ {
			assert.GreaterOrEqual(t, left[i], left[i-1]-0.008)
		}
		assert.InDelta(t, 1, left[len(left)-2], 0.004)
		assert.InDelta(t, 1, left[len(left)-1], 0)
	}
	floating := newTable(t, space.Vec{Y: 20 + reach + 1})
	for _, left := range floating.left(t, 540, 0, false, -15, 1, 5, 10, 20) {
		assert.InDelta(t, 1, left, 0, "nothing is near")
	}
	o.light = 0.5
	for _, left := range o.left(t, 540, 0, false, 1, 3, 5, 10) {
		assert.InDelta(t, 1, left, 0, "what can be seen through darkens nothing")
	}
}

// A part that bulges everywhere darkens no part of itself, whatever its facets: the bytes are the same.
func TestNothingDarkensARoundBody(t *testing.T) {
	round := prism(t, 48, 30, 0, 40)
	on := seenAlone(t, round, 400, 300, 120, 25)
	usual := occluding.Strength
	occluding.Strength = 0
	defer func() { occluding.Strength = usual }()
	assert.Equal(t, 0, differing(on, seenAlone(t, round, 400, 300, 120, 25)))
}

func differing(a, b *Picture) (n int) {
	for i := range a.RGB {
		if a.RGB[i] != b.RGB[i] {
			n++
		}
	}
	return n
}

// How dark it is does not depend on the picture's size.
func TestOcclusionIsTheSameInEverySize(t *testing.T) {
	o := newTable(t, standing, space.Vec{X: 60, Y: 20})
	dist := []float64{2, 4, 6, 9, 12, 30}
	want := o.left(t, 1080, 0, false, dist...)
	for _, height := range []int{270, 540, 2160} {
		for i, left := range o.left(t, height, 0, false, dist...) {
			assert.InDelta(t, want[i], left, 0.025, "%d lines, %g mm", height, dist[i])
		}
	}
}

// While the camera glides by, a tenth of a cell from picture to picture, what is darkened keeps its darkness: no point
// of the plate flickers.
func TestOcclusionIsSteadyInTime(t *testing.T) {
	o := newTable(t, standing)
	cell := 150.0 / float64(look.Default.Occlusion.Cells)
	around := func(aside float64) (list []float64) { // the block's corner
		on, off := o.draw(t, 540, aside, false, false), o.draw(t, 540, aside, false, true)
		for _, d := range []float64{2, 4, 7, 10} {
			for _, at := range [][2]float64{{20 + d, 0}, {20 + d, 12}, {20 + d, 20 + d}, {12, 20 + d}, {-20 - d, 18}, {0, 20 + d}} {
				list = append(list, on(at[0], at[1])/off(at[0], at[1]))
			}
		}
		return list
	}
	before := around(0)
	worst, dark := 0.0, 0
	for k := 1; k <= 30; k++ {
		now := around(cell * float64(k) / 10)
		for i := range now {
			worst = math.Max(worst, math.Abs(now[i]-before[i]))
			if now[i] < 0.95 {
				dark++
			}
		}
		before = now
	}
	t.Logf("from picture to picture brightness differs by %.4f at most, of %d dark points", worst, dark)
	assert.Greater(t, dark, 100)
	assert.Less(t, worst, 0.03)
}
