package obj_test

import (
	"context"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/formats"
	"slowreveal/formats/obj"
)

const plates = `# two plates
mtllib plates.mtl
v 0 0 0
v 10 0 0
v 10 10 0
v 0 10 0
v 0 0 5
v 10 0 5
v 10 10 \
5
v 0 10 5
vn 0 0 1
o Lower plate
usemtl red
f 1//1 2//1 3//1 4//1
g Upper plate
usemtl glass
f -4 -3 -2
usemtl red
f 5 7 8
`

var library = fstest.MapFS{
	"plates.mtl": {Data: []byte("newmtl red\nKd 1 0 0.5\nNs 100\nnewmtl glass\nKd 0.8 0.9 0.9\nd 0.25\n")},
}

func TestObjectsAndGroupsBecomePartsWithFinishes(t *testing.T) {
	m, err := obj.Read(context.Background(), []byte(plates), library, formats.Options{Name: "plates"})
	require.NoError(t, err)
	require.Len(t, m.Assembly.Nodes, 3)
	assert.Equal(t, "Lower plate", m.Assembly.Nodes[1].Name)
	assert.Equal(t, 4, m.Report.Triangles)
	upper := m.Assembly.Nodes[2]
	require.Len(t, upper.Finishes, 2)
	glass, red := m.Assembly.Finishes[upper.Finishes[0]], m.Assembly.Finishes[upper.Finishes[1]]
	assert.Equal(t, "glass", glass.Name)
	assert.Equal(t, 0.25, glass.Opacity)
	assert.InDelta(t, assembly.Linear(0.5), red.Colour[2], 1e-12, "colours are display values in the file")
	assert.Less(t, red.Roughness, 0.2)
	assert.True(t, m.Report.UnitGuessed)
	assert.InDelta(t, 5, m.Assembly.Bounds().Size().Z, 1e-6)
}

func TestAMissingLibraryCostsTheColoursOnly(t *testing.T) {
	m, err := obj.Read(context.Background(), []byte(plates), fstest.MapFS{}, formats.Options{Name: "plates"})
	require.NoError(t, err)
	assert.Contains(t, strings.Join(m.Report.Ignored, "\n"), `"plates.mtl" was not given`)
}

func TestBadFilesSayWhatAndWhere(t *testing.T) {
	for want, text := range map[string]string{
		"line 3: it names point 9, but there are 1":           "v 0 0 0\n\nf 1 9 1",
		"line 1: three numbers":                               "v 0 0",
		"line 1: \"a\" is not a number":                       "v 0 0 a",
		"line 2: a face needs three":                          "v 0 0 0\nf 1 1",
		"is not beside this file":                             "mtllib ../../etc/passwd\n",
		"line 1: the material library \"/etc/passwd\" is not": "mtllib /etc/passwd\n",
		"no part with a surface":                              "# nothing\n",
		"line 4: it names normal 3":                           "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1//3 2//3 3//3",
		"plates.mtl, line 2: Kd needs three numbers":          "mtllib plates.mtl\n",
	} {
		_, err := obj.Read(
			context.Background(),
			[]byte(text),
			fstest.MapFS{"plates.mtl": {Data: []byte("newmtl a\nKd 1\n")}},
			formats.Options{Name: "x"},
		)
		require.Error(t, err, want)
		assert.Contains(t, err.Error(), want)
	}
}

// A file that this project did not make: npm package assimpjs 0.0.10 (MIT).
func TestARealFile(t *testing.T) {
	folder := filepath.Join("..", "..", "web", "node_modules", "assimpjs", "examples", "testfiles")
	data, err := os.ReadFile(filepath.Join(folder, "cube_with_materials.obj"))
	require.NoError(t, err)
	m, err := obj.Read(context.Background(), data, os.DirFS(folder), formats.Options{Name: "cube"})
	require.NoError(t, err)
	assert.Equal(t, 12, m.Report.Triangles)
	assert.InDelta(t, 1, m.Shapes[0].Volume(), 1e-6)
	names := map[string]bool{}
	for _, f := range m.Assembly.Finishes {
		names[f.Name] = true
	}
	for _, want := range []string{"Red", "Green", "Blue", "White"} {
		assert.True(t, names[want], want)
	}
}

func FuzzRead(f *testing.F) {
	f.Add([]byte(plates))
	f.Fuzz(func(t *testing.T, data []byte) {
		if m, err := obj.Read(context.Background(), data, library, formats.Options{Name: "fuzz"}); err == nil {
			assert.NoError(t, m.Assembly.Check())
		}
	})
}

// A reader that is not wanted any more ends in the middle of a file.
func TestReadingCanBeGivenUp(t *testing.T) {
	ended, end := context.WithCancel(context.Background())
	end()
	_, err := obj.Read(ended, []byte(strings.Repeat("v 0 0 0\n", 5000)), nil, formats.Options{Name: "x"})
	assert.ErrorIs(t, err, context.Canceled)
}
