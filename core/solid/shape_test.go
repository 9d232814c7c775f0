package solid

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// sphere is a UV sphere about the origin.
func sphere(radius float64, rings, segments int) Mesh {
	var m Mesh
	for i := range rings + 1 {
		s, c := math.Sincos(math.Pi * float64(i) / float64(rings))
		if i == rings {
			s = 0 // the pole is one point, not a tiny ring
		}
		for k := range segments {
			t, u := math.Sincos(2 * math.Pi * float64(k) / float64(segments))
			m.Positions = append(m.Positions, float32(radius*s*u), float32(radius*c), float32(radius*s*t))
		}
	}
	at := func(i, k int) uint32 { return uint32(i*segments + k%segments) }
	for i := range rings {
		for k := range segments {
			m.Triangles = append(m.Triangles, at(i, k), at(i, k+1), at(i+1, k), at(i, k+1), at(i+1, k+1), at(i+1, k))
		}
	}
	return m
}

func cube(side float32) Mesh {
	m := Mesh{}
	for i := range 8 {
		m.Positions = append(m.Positions, float32(i&1)*side, float32(i>>1&1)*side, float32(i>>2&1)*side)
	}
	m.Triangles = []uint32{
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
	}
	return m
}

// Closed forms: 4/3·π·r³ and 4·π·r² of the sphere, approached from below.
func TestVolumeAndAreaOfASphere(t *testing.T) {
	s, repairs, err := New(sphere(10, 96, 192))
	require.NoError(t, err)
	assert.Equal(t, 2*192, repairs.Degenerate, "the poles' flat triangles are left out")
	assert.InEpsilon(t, 4.0/3*math.Pi*1000, s.Volume(), 2e-3)
	assert.InEpsilon(t, 4*math.Pi*100, s.Area(), 2e-3)
	assert.True(t, s.Closed())
}

func TestACubeHasTwelveFeatureEdgesAndFlatNormals(t *testing.T) {
	s, repairs, err := New(cube(4))
	require.NoError(t, err)
	assert.True(t, repairs.MadeNormals)
	assert.InDelta(t, 64, s.Volume(), 1e-9)
	require.Len(t, s.Edges, 12, "the diagonals of flat faces are no edges")
	for _, e := range s.Edges {
		assert.True(t, e.Feature())
	}
	assert.Len(t, s.Positions, 24*3, "each corner is split for its three faces")
	for i := 0; i < len(s.Normals); i += 3 {
		n := s.Normals[i : i+3]
		assert.InDelta(t, 1, n[0]*n[0]+n[1]*n[1]+n[2]*n[2], 1e-6)
	}
}

// Across every edge of a cube its faces look two ways, both away from the middle; the rim of a
// cube without a lid has one face only.
func TestBesideAnEdgeAreTheNormalsOfItsTwoFaces(t *testing.T) {
	s, _, err := New(cube(4))
	require.NoError(t, err)
	for i, n := range s.Beside() {
		e := &s.Edges[i]
		assert.NotEqual(t, n[0], n[1])
		for k := range 3 {
			away := (n[0][k] + n[1][k]) * ((e.A[k]+e.B[k])/2 - 2)
			assert.GreaterOrEqual(t, away, float32(0), "edge %d", i)
		}
		assert.Equal(t, float32(0), n[0][0]*n[1][0]+n[0][1]*n[1][1]+n[0][2]*n[1][2])
	}
	m := cube(4)
	m.Triangles = m.Triangles[:len(m.Triangles)-6]
	s, _, err = New(m)
	require.NoError(t, err)
	rims := 0
	for _, n := range s.Beside() {
		if n == [2][3]float32{} {
			rims++
		}
	}
	assert.Equal(t, 4, rims)
}

func TestASphereHasOnlyOutlineEdges(t *testing.T) {
	s, _, err := New(sphere(10, 16, 32))
	require.NoError(t, err)
	for i := range s.Edges {
		assert.False(t, s.Edges[i].Feature())
	}
}

func TestAnOpenMeshIsNotClosed(t *testing.T) {
	m := cube(1)
	m.Triangles = m.Triangles[:len(m.Triangles)-6]
	s, _, err := New(m)
	require.NoError(t, err)
	assert.False(t, s.Closed())
	assert.EqualValues(t, 0, s.EncodeDrawn()[closedAt], "a stage draws its backs")
	s, _, err = New(cube(1))
	require.NoError(t, err)
	assert.EqualValues(t, 1, s.EncodeDrawn()[closedAt])
	assert.EqualValues(t, 0, s.Encode()[closedAt], "what is stored stays as it was")
}

func TestEncodedShapesReadBackAndNameTheirContent(t *testing.T) {
	s, _, err := New(sphere(3, 8, 12))
	require.NoError(t, err)
	back, err := Decode(s.Encode())
	require.NoError(t, err)
	assert.Equal(t, s, back)
	assert.Equal(t, s.Hash(), back.Hash())
	back.Positions[0] += 1
	assert.NotEqual(t, s.Hash(), back.Hash())
	for _, damaged := range [][]byte{nil, []byte("SRS1"), s.Encode()[:100], append(s.Encode(), 0)} {
		_, err := Decode(damaged)
		assert.Error(t, err)
	}
}

func TestMeshesThatMakeNoShapeAreRefused(t *testing.T) {
	nan := Mesh{Positions: []float32{0, 0, 0, 1, 0, 0, 0, float32(math.NaN()), 0}, Triangles: []uint32{0, 1, 2}}
	far := cube(1)
	far.Positions[4] = 1e9
	beyond := cube(1)
	beyond.Triangles[5] = 8
	flat := Mesh{Positions: []float32{0, 0, 0, 1, 0, 0, 2, 0, 0}, Triangles: []uint32{0, 1, 2}}
	for want, m := range map[string]Mesh{"the mesh has no triangle": nan, "km": far, "names vertex 8": beyond,
		"no triangle with an area": flat, "no triangles": {Positions: []float32{0, 0, 0}}, "threes": {Positions: []float32{0, 0}}} {
		_, _, err := New(m)
		require.Error(t, err)
		assert.Contains(t, err.Error(), want)
	}
}
