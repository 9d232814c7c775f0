package linedrawing

import (
	"context"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/solid/simple"
	"slowreveal/core/space"
)

// Every sample of every line is held against rays that know nothing of this package: all triangles of all parts, in the
// world, one after the other (Möller & Trumbore, “Fast, Minimum Storage Ray/Triangle Intersection”, 1997).
func TestLinesAgreeWithRays(t *testing.T) {
	asked, shown, covered, seeds := 0, 0, 0, uint64(24)
	if testing.Short() {
		seeds = 8
	}
	for seed := range seeds {
		r := rand.New(rand.NewPCG(seed, 7))
		parts := chance(t, r)
		c := along(space.Vec{X: r.NormFloat64(), Y: r.NormFloat64(), Z: r.NormFloat64()})
		c.Distance, c.Orthographic = 150+100*r.Float64(), seed%2 == 0
		lines := draw(t, c, true, parts...)
		for i := range lines {
			l := &lines[i]
			for k := 1; k < len(l.Points); k++ {
				a, b := l.Points[k-1], l.Points[k]
				for _, u := range []float64{0.25, 0.5, 0.75} {
					p := Point{a.X + u*(b.X-a.X), a.Y + u*(b.Y-a.Y)}
					clear, known := hiddenByRays(&c, parts, l, p)
					if !known {
						continue
					}
					asked++
					if l.Hidden {
						covered++
					} else {
						shown++
					}
					assert.Equal(
						t,
						l.Hidden,
						!clear,
						"seed %d, line %d of %d, part %d, at %v",
						seed,
						i,
						len(lines),
						l.Node,
						p,
					)
				}
			}
		}
		if t.Failed() {
			return
		}
	}
	t.Logf("%d samples: %d seen, %d hidden", asked, shown, covered)
	assert.Greater(t, asked, 330*int(seeds))
}

// hiddenByRays casts rays through points close around one of a line. It is not known whether the line is seen where
// these do not agree on what is hit first: beside an edge, or near to another line.
func hiddenByRays(c *reveal.Camera, parts []Part, l *Line, p Point) (clear, known bool) {
	eye := film.Eye(*c)
	// Where the line is in depth: that of its own edges nearest to it on the picture plane.
	depth, found := depthOf(&eye, c.Orthographic, parts, l, p)
	if !found {
		return false, false
	}
	votes := 0
	const rays = 8
	reach := 2e-3
	if !c.Orthographic {
		reach /= 150
	}
	for k := range rays {
		s, o := math.Sincos(2 * math.Pi * (float64(k) + 0.3) / rays)
		origin, way := ray(&eye, c.Orthographic, Point{p.X + reach*o, p.Y + reach*s})
		first := math.Inf(1)
		for i := range parts {
			for n := 0; n < len(parts[i].Body.Shape.Triangles); n += 3 {
				d, hit := hitBy(&parts[i], n, origin, way)
				if hit && i != l.Node && math.Abs(d-depth) < 0.05 {
					return false, false // another part is just there
				}
				if hit {
					first = math.Min(first, d)
				}
			}
		}
		if first < depth-0.02 {
			votes++
		}
	}
	switch votes {
	case rays:
		return false, true
	case 0:
		return true, true
	}
	return votes < rays/2, false
}

// ray begins at the eye, or far before the parts, and goes through a point of the picture plane; lengths along it are
// depths.
func ray(eye *space.Rigid, orthographic bool, p Point) (origin, way space.Vec) {
	if orthographic {
		return eye.Apply(space.Vec{X: p.X, Y: p.Y, Z: 1000}), eye.R.Apply(space.Vec{Z: -1})
	}
	return eye.T, eye.R.Apply(space.Vec{X: p.X, Y: p.Y, Z: -1})
}

func depthOf(eye *space.Rigid, orthographic bool, parts []Part, l *Line, p Point) (depth float64, found bool) {
	if l.Kind == Intersection {
		return 0, false // they have a test of their own
	}
	inverse := eye.Inverse()
	part := &parts[l.Node]
	for _, e := range part.Body.Shape.Edges {
		a, b := part.World.Apply(wide(e.A)), part.World.Apply(wide(e.B))
		a, b = inverse.Apply(a), inverse.Apply(b)
		project := func(v space.Vec) Point {
			if orthographic {
				return Point{v.X, v.Y}
			}
			return Point{v.X / -v.Z, v.Y / -v.Z}
		}
		pa, pb := project(a), project(b)
		length := distance(pa, pb)
		if length == 0 {
			continue
		}
		u := ((p.X-pa.X)*(pb.X-pa.X) + (p.Y-pa.Y)*(pb.Y-pa.Y)) / length / length
		if u < 0 || u > 1 || math.Hypot(pa.X+u*(pb.X-pa.X)-p.X, pa.Y+u*(pb.Y-pa.Y)-p.Y) > 1e-7*length+1e-9 {
			continue
		}
		var d float64
		if orthographic {
			d = 1000 - (a.Z + u*(b.Z-a.Z))
		} else { // 1/z is linear on the picture plane
			d = 1 / ((1-u)/-a.Z + u/-b.Z)
		}
		if found && math.Abs(d-depth) > 0.01 {
			return 0, false // two edges of the part lie behind one another
		}
		depth, found = d, true
	}
	return depth, found
}

func hitBy(p *Part, t int, origin, way space.Vec) (distance float64, hit bool) {
	var c [3]space.Vec
	for k := range c {
		v := p.Body.Shape.Triangles[t+k]
		c[k] = p.World.Apply(
			space.Vec{
				X: float64(p.Body.Shape.Positions[3*v]),
				Y: float64(p.Body.Shape.Positions[3*v+1]),
				Z: float64(p.Body.Shape.Positions[3*v+2]),
			},
		)
	}
	e1, e2 := r3.Sub(c[1], c[0]), r3.Sub(c[2], c[0])
	h := r3.Cross(way, e2)
	det := r3.Dot(e1, h)
	if math.Abs(det) < 1e-12 {
		return 0, false
	}
	s := r3.Sub(origin, c[0])
	u := r3.Dot(s, h) / det
	q := r3.Cross(s, e1)
	v := r3.Dot(way, q) / det
	d := r3.Dot(e2, q) / det
	return d, u >= 0 && v >= 0 && u+v <= 1 && d > 0
}

func TestFlowLinesAreHiddenLikeOthers(t *testing.T) {
	c := along(space.Vec{Z: -1})
	block := Part{Body: shape(t, simple.Block(10, 10, 10)), World: at(0, 0, 0)}
	lines, err := Draw(
		context.Background(),
		c,
		[]Part{block},
		Options{Flow: []film.Segment{{From: space.Vec{X: -10, Y: 5, Z: -5}, To: space.Vec{X: 30, Y: 5, Z: -5}}}},
	)
	require.NoError(t, err)
	assert.InDelta(t, 30, total(lines, func(l *Line) bool { return l.Kind == Flow }), 1e-6)
}
