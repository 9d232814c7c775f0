package threemf_test

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/binary"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/hpinc/go3mf"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/product"
	"slowreveal/formats"
	"slowreveal/formats/threemf"
)

const head = `<?xml version="1.0" encoding="UTF-8"?>
<model unit="inch" xml:lang="en-US" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02"><resources>
<basematerials id="1"><base name="Brass" displaycolor="#C9A454"/><base name="Clear" displaycolor="#FFFFFF40"/></basematerials>
<object id="2" name="Wedge" type="model" pid="1" pindex="0"><mesh>
<vertices><vertex x="0" y="0" z="0"/><vertex x="1" y="0" z="0"/><vertex x="0" y="1" z="0"/><vertex x="0" y="0" z="1"/></vertices>
<triangles><triangle v1="0" v2="2" v3="1"/><triangle v1="0" v2="1" v3="3"/><triangle v1="1" v2="2" v3="3"/><triangle v1="0" v2="3" v3="2" pid="1" p1="1"/></triangles>
</mesh></object>`

const tail = `</resources><build><item objectid="3"/></build></model>`

const pair = `<object id="3" name="Pair" type="model"><components><component objectid="2"/><component objectid="2" transform="1 0 0 0 1 0 0 0 1 4 0 0"/><component objectid="2" transform="2 0 0 0 1 0 0 0 1 0 8 0"/></components></object>`

// pack makes a package of one model.
func pack(t testing.TB, model string) []byte {
	t.Helper()
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for name, text := range map[string]string{
		"[Content_Types].xml": `<?xml version="1.0"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>`,
		"_rels/.rels":         `<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Target="/3D/3dmodel.model" Id="rel0" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>`,
		"3D/3dmodel.model":    model,
	} {
		w, err := z.Create(name)
		require.NoError(t, err)
		_, err = w.Write([]byte(text))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return out.Bytes()
}

func read(data []byte) (*product.Model, error) {
	return threemf.Read(context.Background(), data, formats.Options{Name: "x"})
}

func TestComponentsBecomeATreeInMillimetres(t *testing.T) {
	m, err := read(pack(t, head+pair+tail))
	require.NoError(t, err)
	require.Len(t, m.Assembly.Nodes, 4)
	assert.Equal(t, "Pair", m.Assembly.Nodes[0].Name)
	assert.Equal(t, "inch (from the file)", m.Report.Unit)
	assert.Equal(t, 2, m.Report.Shapes, "the stretched one is a shape of its own")
	assert.Equal(t, m.Assembly.Nodes[1].Shape, m.Assembly.Nodes[2].Shape)
	assert.InDelta(t, 4*25.4, m.Assembly.Nodes[2].Pose.Move[0], 1e-4)
	assert.InDelta(t, 25.4*25.4*25.4/6, m.Shapes[0].Volume(), 0.1)
	size := m.Assembly.Bounds().Size()
	assert.InDelta(t, 25.4*5, size.X, 1e-3)
	assert.InDelta(t, 25.4, size.Y, 1e-3, "Z points up in 3MF")
	f := m.Assembly.Finishes[m.Assembly.Nodes[1].Finishes[1]]
	assert.Equal(t, "Clear", f.Name)
	assert.InDelta(t, 64.0/255, f.Opacity, 1e-3)
	assert.Contains(t, strings.Join(m.Report.Repaired, "\n"), "stretched")
}

func TestBadPackagesSayWhat(t *testing.T) {
	loop := `<object id="3" name="Loop" type="model"><components><component objectid="3"/></components></object>`
	for want, data := range map[string][]byte{
		"not a 3MF package":    []byte("PK nothing"),
		"inside itself":        pack(t, head+loop+tail),
		"object 9 is not":      pack(t, head+`<object id="3" type="model"><components><component objectid="9"/></components></object>`+tail),
		"names vertex 7":       pack(t, strings.Replace(head, `v3="3"/>`, `v3="7"/>`, 1)+pair+tail),
		"not readable as 3MF":  pack(t, "<model"),
		"unpacks to more than": lying(t, 1<<31),
		"times its size":       pack(t, head+strings.Repeat(" ", 64<<20)+pair+tail),
	} {
		_, err := read(data)
		require.Error(t, err, want)
		assert.Contains(t, err.Error(), want)
	}
}

// lying says in its directory that the model is very large.
func lying(t *testing.T, size uint32) []byte {
	data := pack(t, head+pair+tail)
	at := bytes.LastIndex(data, []byte("PK\x01\x02"))
	for at >= 0 {
		binary.LittleEndian.PutUint32(data[at+24:], size)
		at = bytes.LastIndex(data[:at], []byte("PK\x01\x02"))
	}
	return data
}

// Files that this project did not make: test data of github.com/hpinc/go3mf
// v0.24.2 (BSD-2-Clause).
func TestRealFiles(t *testing.T) {
	dir, err := exec.Command("go", "list", "-m", "-f", "{{.Dir}}", "github.com/hpinc/go3mf").Output()
	require.NoError(t, err)
	for _, name := range []string{"cube.3mf", "super_boogoku_tiny.3mf"} {
		path := filepath.Join(strings.TrimSpace(string(dir)), "testdata", name)
		data, err := os.ReadFile(path)
		require.NoError(t, err)
		m, err := read(data)
		require.NoError(t, err, name)
		var raw go3mf.Model
		file, err := go3mf.OpenReader(path)
		require.NoError(t, err)
		file.Strict = false
		require.NoError(t, file.Decode(&raw))
		require.NoError(t, file.Close())
		triangles := 0
		require.NoError(t, raw.WalkObjects(func(_ string, o *go3mf.Object) error {
			if o.Mesh != nil {
				triangles += len(o.Mesh.Triangles.Triangle)
			}
			return nil
		}))
		left := triangles - m.Report.Triangles // what had no area or was there twice
		assert.GreaterOrEqual(t, left, 0, name)
		assert.LessOrEqual(t, left, triangles/50, "%s: %v", name, m.Report.Repaired)
		for _, s := range m.Shapes {
			assert.Positive(t, s.Volume(), name)
		}
	}
}

func FuzzRead(f *testing.F) {
	f.Add(pack(f, head+pair+tail))
	f.Fuzz(func(t *testing.T, data []byte) {
		if m, err := read(data); err == nil {
			assert.NoError(t, m.Assembly.Check())
		}
	})
}

// FuzzModel puts the bytes where the model of a good package is.
func FuzzModel(f *testing.F) {
	f.Add([]byte(head + pair + tail))
	f.Fuzz(func(t *testing.T, model []byte) {
		if m, err := read(pack(t, string(model))); err == nil {
			assert.NoError(t, m.Assembly.Check())
		}
	})
}
