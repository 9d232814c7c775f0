package solid

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/space"
)

// box is a box with a corner at the origin.
func box(x, y, z float32) Mesh {
	m := cube(1)
	for i := range m.Positions {
		m.Positions[i] *= [3]float32{x, y, z}[i%3]
	}
	return m
}

// moved puts a mesh through a rigid motion or, with a mirror, its image.
func moved(m Mesh, by space.Rigid, mirror bool) Mesh {
	out := Mesh{Positions: append([]float32(nil), m.Positions...), Triangles: append([]uint32(nil), m.Triangles...)}
	for i := 0; i < len(out.Positions); i += 3 {
		p := space.Vec{X: float64(out.Positions[i]), Y: float64(out.Positions[i+1]), Z: float64(out.Positions[i+2])}
		if mirror {
			p.X = -p.X
		}
		p = by.Apply(p)
		out.Positions[i], out.Positions[i+1], out.Positions[i+2] = float32(p.X), float32(p.Y), float32(p.Z)
	}
	if mirror {
		for t := 0; t < len(out.Triangles); t += 3 {
			out.Triangles[t], out.Triangles[t+1] = out.Triangles[t+1], out.Triangles[t]
		}
	}
	return out
}

// both joins two meshes.
func both(a, b Mesh) Mesh {
	base := uint32(len(a.Positions) / 3)
	out := Mesh{
		Positions: append(append([]float32(nil), a.Positions...), b.Positions...),
		Triangles: append([]uint32(nil), a.Triangles...),
	}
	for _, v := range b.Triangles {
		out.Triangles = append(out.Triangles, base+v)
	}
	return out
}

func shaped(t *testing.T, m Mesh) *Shape {
	t.Helper()
	s, _, err := New(m)
	require.NoError(t, err)
	return s
}

func anyMotion(r *rand.Rand) space.Rigid {
	axis, _ := space.Normalize(space.Vec{X: r.NormFloat64(), Y: r.NormFloat64(), Z: r.NormFloat64()})
	return space.Rigid{
		R: space.AxisAngle(axis, 360*r.Float64()),
		T: space.Vec{X: 200 * r.NormFloat64(), Y: 200 * r.NormFloat64(), Z: 200 * r.NormFloat64()},
	}
}

// Closed forms of a box: V = abc, I = m(b² + c²)/12; of a sphere: I = 2/5·m·r².
func TestMassOfABoxAndASphereWhereverTheyAre(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for range 20 {
		by := anyMotion(r)
		m := shaped(t, moved(box(10, 20, 40), by, false)).Mass()
		require.True(t, m.Closed)
		assert.InEpsilon(t, 8000, m.Volume, 1e-4)
		assert.InEpsilon(t, 2*(200+400+800), m.Area, 1e-4)
		centre := by.Apply(space.Vec{X: 5, Y: 10, Z: 20})
		assert.InDelta(t, 0, r3.Norm(r3.Sub(centre, m.Centroid.Vec())), 1e-3)
		for i, want := range []float64{8000 * (100 + 400) / 12, 8000 * (100 + 1600) / 12, 8000 * (400 + 1600) / 12} {
			assert.InEpsilon(t, want, m.Moments[i], 1e-4)
		}
		long := m.Axes.Column(0) // the axis of the least moment is the longest edge
		along := by.R.Apply(space.Vec{Z: 1})
		assert.InDelta(t, 1, math.Abs(r3.Dot(long, along)), 1e-6)
	}
	m := shaped(t, sphere(10, 96, 192)).Mass()
	for i := range 3 {
		assert.InEpsilon(t, 0.4*4.0/3*math.Pi*1e5, m.Moments[i], 4e-3)
	}
}

func TestAnOpenSurfaceHasNoVolume(t *testing.T) {
	m := cube(10)
	m.Triangles = m.Triangles[:len(m.Triangles)-6]
	mass := shaped(t, m).Mass()
	assert.False(t, mass.Closed)
	assert.Zero(t, mass.Volume)
	assert.InDelta(t, 500, mass.Area, 1e-3)
}

// hook has no plane of symmetry: a plate with two posts of different height.
func hook() Mesh {
	post := func(x, y, h float32) Mesh {
		return moved(box(4, 3, h), space.Translation(space.Vec{X: float64(x), Y: float64(y)}), false)
	}
	return both(box(30, 20, 3), both(post(2, 2, 11), post(24, 5, 7)))
}

// fan has blades that are set at an angle: three turns of 120° make it the same,
// no mirror does.
func fan() Mesh {
	var m Mesh
	for k := range 3 {
		blade := moved(box(20, 6, 1), space.Rigid{R: space.AxisAngle(space.Vec{X: 1}, 35), T: space.Vec{X: 3}}, false)
		m = both(m, moved(blade, space.Rigid{R: space.AxisAngle(space.Vec{Z: 1}, 120*float64(k))}, false))
	}
	return m
}

func TestFingerprintsKnowAShapeWhereverItIs(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	for name, m := range map[string]Mesh{"box": box(10, 20, 40), "cube": cube(7), "sphere": sphere(5, 12, 24), "hook": hook(), "fan": fan()} {
		f := shaped(t, m).Fingerprint()
		for range 50 {
			g := shaped(t, moved(m, anyMotion(r), false)).Fingerprint()
			require.Equal(t, Same, f.Similarity(&g), name)
		}
	}
}

func TestFingerprintsTellMirrorImagesApart(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	for name, want := range map[string]Similarity{"box": Same, "cube": Same, "sphere": Same, "hook": Mirrored, "fan": Mirrored} {
		m := map[string]Mesh{"box": box(10, 20, 40), "cube": cube(7), "sphere": sphere(5, 12, 24), "hook": hook(), "fan": fan()}[name]
		f := shaped(t, m).Fingerprint()
		for range 50 {
			g := shaped(t, moved(m, anyMotion(r), true)).Fingerprint()
			require.Equal(t, want, f.Similarity(&g), name)
		}
	}
}

func TestFingerprintsTellALittleLongerApart(t *testing.T) {
	f, g := shaped(t, box(10, 20, 40)).Fingerprint(), shaped(t, box(10, 20, 40.1)).Fingerprint()
	assert.Equal(t, Other, f.Similarity(&g))
	f, g = shaped(t, cube(10)).Fingerprint(), shaped(t, sphere(6.2, 24, 48)).Fingerprint()
	assert.Equal(t, Other, f.Similarity(&g))
}

func TestFamilies(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 8))
	shapes := []*Shape{
		shaped(t, hook()),
		shaped(t, cube(3)),
		shaped(t, moved(hook(), anyMotion(r), true)),
		shaped(t, moved(hook(), anyMotion(r), false)),
		shaped(t, moved(cube(3), anyMotion(r), true)),
	}
	first, mirrored := Families(shapes)
	assert.Equal(t, []int{0, 1, 0, 0, 1}, first)
	assert.Equal(t, []bool{false, false, true, false, false}, mirrored)
}
