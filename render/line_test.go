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

// prism returns an upright body over a star of n teeth around the origin, from y = −high to high: a cylinder's facets
// where deep is 0.
func prism(t *testing.T, n int, radius, deep, high float64) *solid.Shape {
	t.Helper()
	var m solid.Mesh
	for i := range n {
		for _, y := range [2]float64{-high, high} {
			s, c := math.Sincos(2 * math.Pi * (float64(i) + 0.5) / float64(n))
			r := radius - deep*float64(i%2)
			m.Positions = append(m.Positions, float32(r*s), float32(y), float32(r*c))
		}
	}
	m.Positions = append(m.Positions, 0, float32(-high), 0, 0, float32(high), 0)
	middle := uint32(2 * n)
	for i := range uint32(n) {
		a, b := 2*i, 2*((i+1)%uint32(n))
		m.Triangles = append(m.Triangles, a, b, b+1, a, b+1, a+1, middle, b, a, middle+1, a+1, b+1)
	}
	shape, _, err := solid.New(m)
	require.NoError(t, err)
	require.True(t, shape.Closed())
	return shape
}

// seenAlone draws one shape in grey with parallel lines of sight from the front, lifted by an angle in degrees: high mm
// lie across the picture's height.
func seenAlone(t *testing.T, shape *solid.Shape, width, height int, high, lifted float64) *Picture {
	t.Helper()
	return seenWearing(t, shape, 1, width, height, high, lifted)
}

// seenWearing is seenAlone with a finish of some opacity.
func seenWearing(t *testing.T, shape *solid.Shape, opacity float64, width, height int, high, lifted float64) *Picture {
	t.Helper()
	a := &assembly.Assembly{
		Nodes:    []assembly.Node{{ID: "/", Parent: -1, Shape: -1}, {ID: "body", Shape: 0, Finishes: []int{0}}},
		Shapes:   []assembly.ShapeRef{{Min: space.Vec3Of(shape.Bounds.Min), Max: space.Vec3Of(shape.Bounds.Max)}},
		Finishes: []assembly.Finish{{Colour: space.Vec3{0.35, 0.35, 0.35}, Roughness: 1, Opacity: opacity}},
	}
	scene, err := NewScene(a, []*solid.Shape{shape})
	require.NoError(t, err)
	r, err := NewRenderer(scene, width, height, 0)
	require.NoError(t, err)
	v, p := scene.NewView(), NewPicture(width, height)
	for i := range v.World {
		v.World[i], v.Opacity[i], v.Surface[i] = space.Identity, 1, film.Surface{Faces: 1, Edges: 1}
	}
	const far = 1000
	v.Camera = viewCamera{
		eye:          space.Identity,
		tanV:         high / 2 / far,
		orthographic: true,
		distance:     far,
		depth:        scene.depth,
	}
	v.Camera.tanH = v.Camera.tanV * float64(width) / float64(height)
	turn := space.AxisAngle(space.Vec{X: 1}, -lifted)
	v.Camera.eye = space.Rigid{R: turn, T: turn.Apply(space.Vec{Z: far})}
	r.Draw(v, p)
	return p
}

func (p *Picture) grey(x, y int) float64 {
	i := 3 * (y*p.Width + x)
	return (float64(p.RGB[i]) + float64(p.RGB[i+1]) + float64(p.RGB[i+2])) / 3
}

// inkAround is how wide the ink is around a border at x in a row, in pixels: by how much darker each pixel is than
// the surface on its side of the border.
func inkAround(p *Picture, x float64, y, reach int) (width, darkest float64) {
	ink := 255 * (look.Default.Ink[0] + look.Default.Ink[1] + look.Default.Ink[2]) / 3
	at := int(x)
	left, right := p.grey(at-reach-2, y), p.grey(at+reach+2, y)
	darkest = 255
	for i := at - reach; i <= at+reach; i++ {
		share := min(max(x-float64(i), 0), 1)
		surface, v := left*share+right*(1-share), p.grey(i, y)
		width += max(0, (surface-v)/(surface-ink))
		darkest = min(darkest, v)
	}
	return width, darkest
}

// A square prism stands with an edge to the front: in the middle an inner line, at both sides contours. These are
// 1.5 to 2 times as wide in pictures of all sizes (ISO 128-2 has wide lines twice as wide as narrow ones), the
// whole width dark, and even down the whole of their length. A cylinder's contours, smooth surfaces' that is, are
// as wide as those at a sharp edge.
func TestContoursAreWideAndEven(t *testing.T) {
	for _, height := range []int{720, 1080, 2160, 4320} {
		square, round := prism(t, 4, 30, 0, 100), prism(t, 96, 30, 0, 100)
		across := height / 2
		p := seenAlone(t, square, across, height, 150, 0)
		// Its corners stand at 45°: turned by the half step of prism they are to the left, to the right, in front,
		// behind.
		side := 30 * math.Sqrt2 / 2 / 150 * float64(height)
		reach := 2 + height/360
		edgeWidth, contourWidth := look.Default.Widths(float64(height), 1)
		q := seenAlone(t, round, across, height, 150, 0)
		radius := 30 * math.Cos(math.Pi/96) / 150 * float64(height)
		for _, y := range []int{height / 5, height / 3, height / 2, height * 3 / 5, height * 4 / 5} {
			for _, sign := range []float64{-1, 1} {
				wide, dark := inkAround(p, float64(across)/2+sign*side, y, reach)
				assert.InDelta(t, contourWidth, wide, 0.3, "%d lines, a sharp contour in row %d", height, y)
				assert.Less(t, dark, 60.0)
				smooth, dark := inkAround(q, float64(across)/2+sign*radius, y, reach)
				assert.InDelta(
					t,
					contourWidth,
					smooth,
					0.3+0.06*contourWidth,
					"%d lines, a smooth contour in row %d",
					height,
					y,
				)
				assert.Less(t, dark, 60.0)
			}
		}
		assert.InDelta(t, 1.75, contourWidth/edgeWidth, 0.25)
	}
}

// The inner line between two faces that are both seen, against the contours beside it.
func TestInnerLinesAreNarrow(t *testing.T) {
	for _, height := range []int{720, 1080, 2160, 4320} {
		p := seenAlone(t, prism(t, 6, 30, 0, 100), height/2, height, 150, 0)
		edgeWidth, contourWidth := look.Default.Widths(float64(height), 1)
		inner, _ := inkAround(p, (0.25+15.0/150)*float64(height), height/2, 2+height/360)
		outer, _ := inkAround(p, (0.25+30.0/150)*float64(height), height/2, 2+height/360)
		assert.InDelta(t, edgeWidth, inner, 0.3, "%d lines", height)
		assert.InDelta(t, contourWidth/edgeWidth, outer/inner, 0.35, "%d lines", height)
	}
}

// A star of 240 teeth from the front and from far: its lines would cover it. They take no more than their share, so
// that the grey of its area stays nearly what it is without lines, from near and from far.
func TestDenseLinesLeaveTheSurfaceItsGrey(t *testing.T) {
	gear := prism(t, 240, 30, 0.6, 20)
	for _, high := range []float64{160, 320, 640} {
		with := seenAlone(t, gear, 400, 400, high, 17)
		bare := *gear
		bare.Edges = nil
		without := seenAlone(t, &bare, 400, 400, high, 17)
		sum, n := 0.0, 0
		reach := int(15 / high * 400) // of its flank, away from its contours
		for y := 200; y < 200+reach/2; y++ {
			for x := 200 - reach; x < 200+reach; x++ {
				sum += without.grey(x, y) - with.grey(x, y)
				n++
			}
		}
		assert.Less(t, sum/float64(n), 45.0, "%g mm high", high)
		assert.Greater(t, sum/float64(n), 0.0, "%g mm high", high)
	}
}
