package importer_test

import (
	"context"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/demo"
	"slowreveal/formats"
	"slowreveal/formats/gltf"
	"slowreveal/formats/importer"
)

func TestMain(m *testing.M) {
	if os.Getenv("SLOWREVEAL_STEPREAD") == "" {
		root, _ := filepath.Abs(filepath.Join("..", ".."))
		os.Setenv("SLOWREVEAL_STEPREAD", filepath.Join(root, "bin", "stepread"))
	}
	os.Exit(m.Run())
}

const corner = "solid corner\nfacet normal 0 0 0\nouter loop\nvertex 0 0 0\nvertex 10 0 0\nvertex 0 10 0\nendloop\nendfacet\nendsolid corner\n"

// put lays files, given as name and content in turn, into a folder.
func put(t *testing.T, files ...string) (folder string, names []string) {
	t.Helper()
	folder = t.TempDir()
	for i := 0; i+1 < len(files); i += 2 {
		require.NoError(t, os.WriteFile(filepath.Join(folder, files[i]), []byte(files[i+1]), 0o644))
		names = append(names, files[i])
	}
	return folder, names
}

// A stand of two studs on a base in three files, written by OpenCascade 7.6.3:
// one holds the tree and names the other two.
func TestSTEPFilesThatReferToEachOther(t *testing.T) {
	m, err := importer.Read(
		context.Background(),
		"testdata",
		[]string{"part_base.stp", "stand.stp", "part_stud.stp"},
		formats.Options{},
	)
	require.NoError(t, err)
	assert.Equal(t, "stand", m.Assembly.Nodes[0].Name)
	assert.Equal(t, 3, m.Report.Parts)
	assert.Equal(t, 2, m.Report.Shapes, "both studs share one")
	assert.Empty(t, m.Report.Ignored)
	size := m.Assembly.Bounds().Size()
	assert.InDelta(t, 40, size.X, 1e-3)
	assert.InDelta(t, 35, size.Y, 1e-3)
}

func TestAMissingPartIsNamedAndTheRestArrives(t *testing.T) {
	var files []string
	for _, name := range []string{"stand.stp", "part_base.stp"} {
		data, err := os.ReadFile(filepath.Join("testdata", name))
		require.NoError(t, err)
		files = append(files, name, string(data))
	}
	folder, names := put(t, files...)
	m, err := importer.Read(context.Background(), folder, names, formats.Options{})
	require.NoError(t, err)
	assert.Equal(t, 1, m.Report.Parts)
	assert.Contains(t, strings.Join(m.Report.Ignored, "\n"), "part_stud.stp is missing")
}

func TestSeveralSTLFilesAreOneAssembly(t *testing.T) {
	folder, names := put(t, "left.stl", corner, "right.stl", strings.ReplaceAll(corner, "10", "20"))
	m, err := importer.Read(context.Background(), folder, names, formats.Options{Name: "pair"})
	require.NoError(t, err)
	require.Len(t, m.Assembly.Nodes, 3)
	assert.Equal(t, "pair", m.Assembly.Nodes[0].Name)
	assert.Equal(t, "left", m.Assembly.Nodes[1].Name)
}

func TestEveryFormatComesThroughOneDoor(t *testing.T) {
	glb, err := gltf.Write(demo.Stress(4, 60))
	require.NoError(t, err)
	for format, files := range map[string][]string{
		"GLB": {"a.GLB", string(glb)},
		"STL": {"a.stl", corner},
		"OBJ": {"a.obj", "mtllib a.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n", "a.mtl", "newmtl x\nKd 1 1 1\n"},
	} {
		folder, names := put(t, files...)
		m, err := importer.Read(context.Background(), folder, names, formats.Options{})
		require.NoError(t, err, format)
		assert.Contains(t, m.Report.Format, format)
	}
}

// glTF with its buffer beside it, from the test data of github.com/qmuntal/gltf
// v0.28.0 (BSD-2-Clause), which this project did not make.
func TestGLTFWithItsBufferBesideIt(t *testing.T) {
	text := `{"asset":{"version":"2.0"},"scene":0,"scenes":[{"nodes":[0]}],"nodes":[{"mesh":0,"name":"Plate"}],
		"meshes":[{"primitives":[{"attributes":{"POSITION":0}}]}],
		"accessors":[{"bufferView":0,"componentType":5126,"count":3,"type":"VEC3","min":[0,0,0],"max":[1,1,0]}],
		"bufferViews":[{"buffer":0,"byteLength":36}],"buffers":[{"byteLength":36,"uri":"plate%20one.bin"}]}`
	points := make([]byte, 36)
	points[14], points[15] = 0x80, 0x3f // 1.0 as x of the second point
	points[30], points[31] = 0, 0
	points[28+2-2], points[29] = 0, 0
	copy(points[28:32], []byte{0, 0, 0x80, 0x3f}) // 1.0 as y of the third
	folder, names := put(t, "plate.gltf", text, "plate one.bin", string(points))
	m, err := importer.Read(context.Background(), folder, names, formats.Options{})
	require.NoError(t, err)
	assert.InDelta(t, 1000, m.Assembly.Bounds().Size().X, 1e-3)
	for _, uri := range []string{"../plate%20one.bin", "/etc/passwd", "http://example.com/a.bin", "C:%5Ca.bin", "..%2Fplate.bin"} {
		folder, names := put(
			t,
			"plate.gltf",
			strings.Replace(text, "plate%20one.bin", uri, 1),
			"plate one.bin",
			string(points),
		)
		_, err := importer.Read(context.Background(), folder, names, formats.Options{})
		require.Error(t, err, uri)
		assert.Contains(t, err.Error(), "only files that lie beside", uri)
	}
	folder, names = put(t, "plate.gltf", text)
	_, err = importer.Read(context.Background(), folder, names, formats.Options{})
	assert.ErrorContains(t, err, `"plate one.bin", which is missing`)
}

func TestFilesThatCannotBeOneAssembly(t *testing.T) {
	for want, names := range map[string][]string{
		"no plain file name":   {"../a.stl"},
		"both hold":            {"a.stl", "b.glb"},
		"are not read":         {"a.docx"},
		"there is no assembly": {"a.mtl"},
		"files came together":  make([]string, 0),
	} {
		if want == "files came together" {
			for range importer.MaxFiles + 1 {
				names = append(names, "a.stl")
			}
		}
		assert.ErrorContains(t, importer.Check(names), want)
	}
	folder, names := put(t, "a.stl", corner)
	_, err := importer.Read(context.Background(), folder, names, formats.Options{Unit: "cubit"})
	assert.ErrorContains(t, err, "cubit")
	_, err = importer.Read(context.Background(), folder, names, formats.Options{Detail: "finest"})
	assert.ErrorContains(t, err, "finest")
}
