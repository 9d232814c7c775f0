package stl_test

import (
	"bytes"
	"context"
	"encoding/binary"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	other "github.com/hschendel/stl"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/formats"
	"slowreveal/formats/stl"
)

const corner = `solid corner of the pump
  facet normal 0 0 -1
    outer loop
      vertex 0 0 0
      vertex 0 10 0
      vertex 10 0 0
    endloop
  endfacet
  facet normal 0 0 0
    outer loop
      vertex 0 0 0
      vertex 10 0 0
      vertex 0 0 1e1
    endloop
  endfacet
endsolid
solid second
facet normal 0 0 0
outer loop
vertex 0 0 5
vertex 1 0 5
vertex 0 1 5
endloop
endfacet
endsolid second
`

// binaryOf writes triangles as a binary file.
func binaryOf(header string, triangles ...[9]float32) []byte {
	out := make([]byte, 80)
	copy(out, header)
	out = binary.LittleEndian.AppendUint32(out, uint32(len(triangles)))
	for _, t := range triangles {
		out = append(out, make([]byte, 12)...)
		for _, v := range t {
			out = binary.LittleEndian.AppendUint32(out, math.Float32bits(v))
		}
		out = append(out, 0, 0)
	}
	return out
}

func TestTextWithTwoSolidsBecomesTwoParts(t *testing.T) {
	m, err := stl.Read(context.Background(), []byte(corner), formats.Options{Name: "file"})
	require.NoError(t, err)
	require.Len(t, m.Assembly.Nodes, 3)
	assert.Equal(t, "corner of the pump", m.Assembly.Nodes[1].Name)
	assert.Equal(t, "second", m.Assembly.Nodes[2].Name)
	assert.Equal(t, 3, m.Report.Triangles)
	assert.True(t, m.Report.UnitGuessed)
	assert.Contains(t, m.Report.Up, "+Z")
	size := m.Assembly.Bounds().Size()
	assert.InDelta(t, 10, size.Y, 1e-6, "the file's Z points up")
}

func TestAUnitAndAnAxisCanBeSaid(t *testing.T) {
	m, err := stl.Read(
		context.Background(),
		binaryOf("solid, but binary", [9]float32{0, 0, 0, 1, 0, 0, 0, 2, 0}),
		formats.Options{Name: "plate", Unit: "in", Up: "y"},
	)
	require.NoError(t, err)
	assert.False(t, m.Report.UnitGuessed)
	size := m.Assembly.Bounds().Size()
	assert.InDelta(t, 25.4, size.X, 1e-4)
	assert.InDelta(t, 50.8, size.Y, 1e-4)
}

func TestWhatIsPutRightIsSaid(t *testing.T) {
	nan := float32(math.NaN())
	ok := [9]float32{0, 0, 0, 1, 0, 0, 0, 1, 0}
	m, err := stl.Read(
		context.Background(),
		binaryOf("", ok, ok, [9]float32{0, 0, 0, 1, 0, 0, 2, 0, 0}, [9]float32{nan, 0, 0, 1, 0, 0, 0, 1, 0}),
		formats.Options{Name: "x"},
	)
	require.NoError(t, err)
	assert.Equal(t, 1, m.Report.Triangles)
	all := strings.Join(m.Report.Repaired, "\n")
	for _, want := range []string{"1 triangles without an area", "1 triangles that were there twice", "1 triangles with a corner that is no number", "missing normals were made"} {
		assert.Contains(t, all, want)
	}
}

func TestBadFilesSayWhatAndWhere(t *testing.T) {
	for want, data := range map[string][]byte{
		"no STL":                          []byte("hello"),
		"cut off":                         binaryOf("", [9]float32{})[:100],
		"line 5: \"x\" is not a number":   []byte(strings.Replace(corner, "vertex 0 10 0", "vertex 0 x 0", 1)),
		"before its last solid":           []byte(corner[:200]),
		"does not belong":                 []byte("solid a\nlorem ipsum\nendsolid"),
		"needs three numbers":             []byte("solid a\nvertex 1 2\nendsolid"),
		"only triangles are read":         []byte("solid a\nvertex 1 2 3\nendloop\nendsolid"),
		"no part with a surface":          []byte("solid a\nendsolid a\n"),
		"the mesh has no triangle with":   binaryOf("", [9]float32{}),
		"says that it has 4294967295 tri": append(append(make([]byte, 80), 255, 255, 255, 255), 0),
	} {
		_, err := stl.Read(context.Background(), data, formats.Options{Name: "x"})
		require.Error(t, err, want)
		assert.Contains(t, err.Error(), want)
	}
}

// Files and a reader that this project did not make: github.com/hschendel/stl
// v1.0.4 (MIT).
func TestRealFilesAgainstAnotherReader(t *testing.T) {
	dir, err := exec.Command("go", "list", "-m", "-f", "{{.Dir}}", "github.com/hschendel/stl").Output()
	require.NoError(t, err)
	files, err := filepath.Glob(filepath.Join(strings.TrimSpace(string(dir)), "testdata", "*.stl"))
	require.NoError(t, err)
	require.GreaterOrEqual(t, len(files), 5)
	for _, file := range files {
		data, err := os.ReadFile(file)
		require.NoError(t, err)
		want, err := other.ReadAll(bytes.NewReader(data))
		require.NoError(t, err)
		bodies, err := stl.Bodies(context.Background(), data)
		require.NoError(t, err, file)
		require.Len(t, bodies, 1)
		require.Len(t, bodies[0].Positions, 9*len(want.Triangles), file)
		for i, tri := range want.Triangles {
			for k, v := range tri.Vertices {
				require.Equal(t, v[:], bodies[0].Positions[9*i+3*k:9*i+3*k+3], "%s, triangle %d", file, i)
			}
		}
		m, err := stl.Read(context.Background(), data, formats.Options{Name: "x", Up: "y"})
		require.NoError(t, err, file)
		measure := want.Measure()
		size := m.Assembly.Bounds().Size()
		assert.InDelta(t, measure.Len[0], size.X, 1e-4)
		assert.InDelta(t, measure.Len[2], size.Z, 1e-4)
	}
}

func FuzzRead(f *testing.F) {
	f.Add([]byte(corner))
	f.Add(binaryOf("solid", [9]float32{0, 0, 0, 1, 0, 0, 0, 1, 0}))
	f.Fuzz(func(t *testing.T, data []byte) {
		if m, err := stl.Read(context.Background(), data, formats.Options{Name: "fuzz"}); err == nil {
			assert.NoError(t, m.Assembly.Check())
		}
	})
}

// A reader that is not wanted any more ends in the middle of a file.
func TestReadingCanBeGivenUp(t *testing.T) {
	ended, end := context.WithCancel(context.Background())
	end()
	_, err := stl.Read(
		ended,
		[]byte(
			"solid a\n"+strings.Repeat(
				"facet normal 0 0 0\nouter loop\nvertex 0 0 0\nvertex 1 0 0\nvertex 0 1 0\nendloop\nendfacet\n",
				1000,
			)+"endsolid a\n",
		),
		formats.Options{Name: "x"},
	)
	assert.ErrorIs(t, err, context.Canceled)
}
