package linedrawing

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/solid"
	"slowreveal/core/solid/simple"
	"slowreveal/core/space"
)

func shape(t *testing.T, m solid.Mesh) *Body {
	t.Helper()
	s, _, err := solid.New(m)
	require.NoError(t, err)
	return NewBody(s)
}

// along is an orthographic camera that looks in a direction at the origin.
func along(direction space.Vec) reveal.Camera {
	return reveal.Camera{
		Orientation:  space.LookAlong(direction, space.Vec{Y: 1}),
		Distance:     500,
		FocalLength:  50,
		Orthographic: true,
	}
}

func draw(t *testing.T, c reveal.Camera, hidden bool, parts ...Part) []Line {
	t.Helper()
	lines, err := Draw(context.Background(), c, parts, Options{Hidden: hidden})
	require.NoError(t, err)
	return lines
}

func total(lines []Line, keep func(l *Line) bool) (sum float64) {
	for i := range lines {
		if !keep(&lines[i]) {
			continue
		}
		for k := 1; k < len(lines[i].Points); k++ {
			sum += distance(lines[i].Points[k-1], lines[i].Points[k])
		}
	}
	return sum
}

func seen(l *Line) bool { return !l.Hidden }

func at(v ...float64) space.Rigid {
	return space.Translation(space.Vec{X: v[0], Y: v[1], Z: v[2]})
}

// In the isometric view all edges of a cube are √(2/3) as long as they are; six are its outline, three meet in the
// corner that is nearest, three are hidden (ISO 5456-3; the arithmetic is elementary).
func TestACubeInIsometricViewHasNineOfItsTwelveEdges(t *testing.T) {
	lines := draw(
		t,
		along(space.Vec{X: -1, Y: -1, Z: -1}),
		true,
		Part{Body: shape(t, simple.Block(10, 10, 10)), World: space.Rigid{R: space.Identity3}},
	)
	edge := 10 * math.Sqrt(2.0/3)
	assert.InDelta(t, 6*edge, total(lines, func(l *Line) bool { return seen(l) && l.Kind == Contour }), 1e-4)
	assert.InDelta(t, 3*edge, total(lines, func(l *Line) bool { return seen(l) && l.Kind == Feature }), 1e-4)
	assert.Zero(t, total(lines, func(l *Line) bool { return l.Hidden && l.Kind == Contour }))
	outline := 0
	for i := range lines {
		if lines[i].Kind == Contour {
			outline++
			assert.True(t, lines[i].Closed(), "the outline is one line")
			assert.Len(t, lines[i].Points, 7)
		}
	}
	assert.Equal(t, 1, outline)
}

// From the front an L is its outline alone: 2·(30 + 20) mm around, and nothing inside.
func TestAnLBlockFromTheFrontIsItsOutline(t *testing.T) {
	l := solid.Mesh{}
	profile := [][2]float64{{0, 0}, {30, 0}, {30, 8}, {12, 8}, {12, 20}, {0, 20}}
	for _, z := range []float64{0, 15} {
		for _, p := range profile {
			l.Positions = append(l.Positions, float32(p[0]), float32(p[1]), float32(z))
		}
	}
	for _, f := range [][3]uint32{{0, 1, 2}, {0, 2, 3}, {0, 3, 4}, {0, 4, 5}} {
		l.Triangles = append(l.Triangles, f[0], f[2], f[1], 6+f[0], 6+f[1], 6+f[2])
	}
	for k := range uint32(6) {
		n := (k + 1) % 6
		l.Triangles = append(l.Triangles, k, n, 6+n, k, 6+n, 6+k)
	}
	part := Part{Body: shape(t, l), World: space.Rigid{R: space.Identity3}}
	lines := draw(t, along(space.Vec{Z: -1}), false, part)
	assert.InDelta(t, 100, total(lines, seen), 1e-4)
	// From the upper right, in front: 18 edges, of which those three are hidden that meet in the corner behind at the
	// foot, and of the inner corner's edge nothing is.
	lines = draw(t, along(space.Vec{X: -1, Y: -1, Z: -1}), true, part)
	whole, k := 2*100+6*15.0, math.Sqrt(2.0/3)
	assert.InDelta(t, k*(whole-30-20-15), total(lines, seen), 1e-3)
}

// Along its axis a pipe is two rounds, and what is inside of it or behind it is not seen.
func TestNestedPipesAlongTheirAxis(t *testing.T) {
	const n = 720
	round := func(r float64) float64 { return 2 * n * r * math.Sin(math.Pi/n) }
	outer, inner := shape(t, simple.Sleeve(8, 20, 30, n)), shape(t, simple.Sleeve(0, 15, 10, n))
	lines := draw(t, along(space.Vec{Z: -1}), false,
		Part{Node: 0, Body: outer, World: at(0, 0, 0)}, Part{Node: 1, Body: inner, World: at(0, 0, -20)})
	want := round(20) + round(8)
	assert.InDelta(t, want, total(lines, func(l *Line) bool { return seen(l) && l.Node == 0 }), 1e-2)
	assert.Zero(
		t,
		total(lines, func(l *Line) bool { return seen(l) && l.Node == 1 }),
		"the rod behind is wider than the bore",
	)
	assert.Len(t, lines, 2)
}

// A square of 10 mm stands 5 mm before the middle of a square of 40: of lines that run behind it 10 mm are hidden.
func TestWhatIsBehindIsCutWhereItGoesBehind(t *testing.T) {
	front, back := shape(t, simple.Block(10, 10, 2)), shape(t, simple.Block(60, 2, 2))
	lines := draw(t, along(space.Vec{Z: -1}), true,
		Part{Node: 0, Body: front, World: at(25, -4, 5)}, Part{Node: 1, Body: back, World: at(0, 0, 0)})
	assert.InDelta(t, 2*(60+2)-2*10, total(lines, func(l *Line) bool { return seen(l) && l.Node == 1 }), 1e-4)
	behind := 0
	for i := range lines {
		if l := &lines[i]; l.Node == 1 && !l.Hidden {
			behind += btoi(l.Behind[0]) + btoi(l.Behind[1])
		}
	}
	assert.Equal(t, 4, behind, "each of both lines goes on behind the block on both of its sides")
	// What is seen through hides its own lines alone.
	lines = draw(t, along(space.Vec{Z: -1}), false,
		Part{Node: 0, Body: front, World: at(25, -4, 5), Clear: true}, Part{Node: 1, Body: back, World: at(0, 0, 0)})
	assert.InDelta(t, 2*(60+2), total(lines, func(l *Line) bool { return seen(l) && l.Node == 1 }), 1e-4)
	assert.InDelta(t, 40, total(lines, func(l *Line) bool { return l.Node == 0 }), 1e-4)
}

func btoi(b bool) int {
	if b {
		return 1
	}
	return 0
}

// A rod of 4 mm that goes through a sheet has a line where it does: a round, half of which the rod hides.
func TestPartsThatGoIntoOneAnotherHaveALineThere(t *testing.T) {
	sheet, rod := shape(t, simple.Block(40, 40, 2)), shape(t, simple.Sleeve(0, 4, 30, 90))
	tilted := along(space.Vec{Y: -1, Z: -1})
	lines := draw(
		t,
		tilted,
		true,
		Part{Node: 0, Body: sheet, World: at(-20, -20, 0)},
		Part{Node: 1, Body: rod, World: at(0, 0, -15)},
	)
	some := func(hidden bool) float64 {
		return total(lines, func(l *Line) bool { return l.Kind == Intersection && l.Hidden == hidden })
	}
	// The ellipse that a circle of 4 mm is at 45° has a circumference of 21.61 mm (Ramanujan's approximation).
	a, b := 4.0, 4*math.Sqrt(0.5)
	ellipse := math.Pi * (3*(a+b) - math.Sqrt((3*a+b)*(a+3*b)))
	assert.InDelta(t, ellipse/2, some(false), 0.25, "the half before the rod is seen")
	assert.InDelta(t, 1.5*ellipse, some(true), 0.3, "the half behind it and the round below are not")
}

// scenes by chance: blocks, rods and pipes anywhere.
func chance(t *testing.T, r *rand.Rand) []Part {
	var parts []Part
	for i := range 3 + r.IntN(8) {
		var s *Body
		switch r.IntN(3) {
		case 0:
			s = shape(t, simple.Block(5+30*r.Float64(), 5+30*r.Float64(), 1+30*r.Float64()))
		case 1:
			s = shape(t, simple.Sleeve(0, 3+12*r.Float64(), 5+30*r.Float64(), 12+r.IntN(30)))
		default:
			inner := 2 + 8*r.Float64()
			s = shape(t, simple.Sleeve(inner, inner+1+6*r.Float64(), 5+20*r.Float64(), 12+r.IntN(30)))
		}
		axis, _ := space.Normalize(space.Vec{X: r.NormFloat64(), Y: r.NormFloat64(), Z: r.NormFloat64()})
		turn := space.TurnAbout(space.Vec{}, axis, 360*r.Float64())
		move := at(60*r.Float64()-30, 60*r.Float64()-30, 60*r.Float64()-30)
		parts = append(parts, Part{Node: i, Body: s, World: move.Mul(&turn)})
	}
	return parts
}

func TestLinesEndAtTheFrame(t *testing.T) {
	c := along(space.Vec{Z: -1})
	_, up := film.Field(c.FocalLength, 2)
	high := up * c.Distance
	block := Part{Body: shape(t, simple.Block(8*high, 1, 1)), World: at(-4*high, 0, 0)}
	lines, err := Draw(context.Background(), c, []Part{block}, Options{Aspect: 2})
	require.NoError(t, err)
	least, greatest := Bounds(lines)
	assert.InDelta(t, -2*high, least.X, 1e-6)
	assert.InDelta(t, 2*high, greatest.X, 1e-6)
}

func TestDrawingStopsWhenAsked(t *testing.T) {
	ctx, stop := context.WithCancel(context.Background())
	stop()
	_, err := Draw(
		ctx,
		along(space.Vec{Z: -1}),
		[]Part{{Body: shape(t, simple.Ball(10)), World: at(0, 0, 0)}},
		Options{},
	)
	assert.ErrorIs(t, err, context.Canceled)
}

// The same parts in another order, and the same ones again, give the same lines.
func TestLinesAreTheSameEachTime(t *testing.T) {
	parts := chance(t, rand.New(rand.NewPCG(3, 3)))
	c := along(space.Vec{X: 1, Y: -1, Z: -1})
	first := fmt.Sprint(draw(t, c, true, parts...))
	for range 3 {
		assert.Equal(t, first, fmt.Sprint(draw(t, c, true, parts...)))
	}
}

func BenchmarkDraw(b *testing.B) {
	m := simple.Sleeve(8, 20, 30, 400)
	s, _, _ := solid.New(m)
	body := NewBody(s)
	var parts []Part
	for i := range 60 {
		parts = append(parts, Part{Node: i, Body: body, World: at(float64(i%8)*30, float64(i/8)*30, float64(i%5)*20)})
	}
	c := along(space.Vec{X: -1, Y: -1, Z: -1})
	for b.Loop() {
		if _, err := Draw(context.Background(), c, parts, Options{}); err != nil {
			b.Fatal(err)
		}
	}
}
