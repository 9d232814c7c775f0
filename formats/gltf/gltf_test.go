package gltf_test

import (
	"context"
	"encoding/binary"
	"encoding/json"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/demo"
	"slowreveal/formats"
	"slowreveal/formats/gltf"
)

func TestThePumpComesBackAsItWas(t *testing.T) {
	want := demo.Pump()
	glb, err := gltf.Write(want)
	require.NoError(t, err)
	got, err := gltf.Read(glb, "other name")
	require.NoError(t, err)
	require.Equal(t, len(want.Assembly.Nodes), len(got.Assembly.Nodes))
	assert.Equal(t, want.Report.Triangles, got.Report.Triangles)
	assert.Empty(t, got.Report.Ignored)
	w, g := want.Assembly.Worlds(), got.Assembly.Worlds()
	for i := range w {
		assert.Equal(t, want.Assembly.Nodes[i].ID, got.Assembly.Nodes[i].ID)
		assert.InDelta(t, w[i].T.X, g[i].T.X, 1e-4)
		assert.InDelta(t, w[i].R[0], g[i].R[0], 1e-6)
	}
	wb, gb := want.Assembly.Bounds(), got.Assembly.Bounds()
	assert.InDelta(t, wb.Max.Z, gb.Max.Z, 1e-3)
	for i := range want.Shapes {
		assert.InEpsilon(t, want.Shapes[i].Volume(), got.Shapes[i].Volume(), 1e-4)
	}
}

// glb puts a description and a buffer together.
func glb(t *testing.T, doc map[string]any, bin []byte) []byte {
	t.Helper()
	text, err := json.Marshal(doc)
	require.NoError(t, err)
	for len(text)%4 != 0 {
		text = append(text, ' ')
	}
	for len(bin)%4 != 0 {
		bin = append(bin, 0)
	}
	b := []byte("glTF")
	b = binary.LittleEndian.AppendUint32(b, 2)
	b = binary.LittleEndian.AppendUint32(b, uint32(12+8+len(text)+8+len(bin)))
	b = binary.LittleEndian.AppendUint32(b, uint32(len(text)))
	b = append(append(b, "JSON"...), text...)
	b = binary.LittleEndian.AppendUint32(b, uint32(len(bin)))
	return append(append(b, "BIN\x00"...), bin...)
}

type object = map[string]any

// tetra is a file with one tetrahedron of volume 1/6 m³ = 1/6·10⁹ mm³ whose
// node is changed by the caller.
func tetra(t *testing.T, change func(doc object, bin []byte)) []byte {
	var bin []byte
	for _, f := range []float32{0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1} {
		bin = binary.LittleEndian.AppendUint32(bin, math.Float32bits(f))
	}
	for _, i := range []uint16{0, 2, 1, 0, 1, 3, 0, 3, 2, 1, 2, 3} {
		bin = binary.LittleEndian.AppendUint16(bin, i)
	}
	doc := object{
		"asset": object{"version": "2.0"}, "scene": 0, "scenes": []object{{"nodes": []int{0}}},
		"nodes":       []object{{"name": "body", "mesh": 0}},
		"meshes":      []object{{"primitives": []object{{"attributes": object{"POSITION": 0}, "indices": 1}}}},
		"buffers":     []object{{"byteLength": len(bin)}},
		"bufferViews": []object{{"buffer": 0, "byteLength": 48}, {"buffer": 0, "byteOffset": 48, "byteLength": 24}},
		"accessors": []object{
			{
				"bufferView":    0,
				"componentType": 5126,
				"count":         4,
				"type":          "VEC3",
				"min":           []int{0, 0, 0},
				"max":           []int{1, 1, 1},
			},
			{"bufferView": 1, "componentType": 5123, "count": 12, "type": "SCALAR"},
		},
	}
	if change != nil {
		change(doc, bin)
	}
	return glb(t, doc, bin)
}

func TestMetresBecomeMillimetresAndStretchGoesIntoTheShape(t *testing.T) {
	for name, c := range map[string]struct {
		node object
		want float64
	}{
		"plain":      {object{}, 1e9 / 6},
		"moved":      {object{"translation": []float64{1, 2, 3}, "rotation": []float64{0, math.Sqrt(0.5), 0, math.Sqrt(0.5)}}, 1e9 / 6},
		"scaled":     {object{"scale": []float64{2, 3, 0.5}}, 3e9 / 6},
		"mirrored":   {object{"scale": []float64{-1, 1, 1}}, 1e9 / 6},
		"sheared":    {object{"matrix": []float64{1, 0, 0, 0, 0.5, 1, 0, 0, 0, 0, 1, 0, 5, 0, 0, 1}}, 1e9 / 6},
		"turned out": {object{"scale": []float64{-1, -1, -1}, "rotation": []float64{1, 0, 0, 0}}, 1e9 / 6},
	} {
		m, err := gltf.Read(tetra(t, func(doc object, _ []byte) {
			for k, v := range c.node {
				doc["nodes"].([]object)[0][k] = v
			}
		}), "x")
		require.NoError(t, err, name)
		assert.InEpsilon(t, c.want, m.Shapes[0].Volume(), 1e-5, name)
		pose := m.Assembly.Nodes[0].Pose.Rigid()
		inverse := pose.Inverse()
		round := pose.Mul(&inverse)
		assert.InDelta(t, 1, round.R[0], 1e-9, "the pose is rigid")
	}
}

func TestBadFilesAreRefusedWithTheirReason(t *testing.T) {
	good := tetra(t, nil)
	node := func(k string, v any) func(object, []byte) {
		return func(doc object, _ []byte) { doc["nodes"].([]object)[0][k] = v }
	}
	huge := append([]byte(nil), good...)
	binary.LittleEndian.PutUint32(huge[12:], 0xFFFFFFF0)
	for _, c := range []struct {
		name, want string
		data       []byte
	}{
		{"empty", "not a GLB", nil},
		{"text", "not a GLB", []byte(strings.Repeat("hello ", 20))},
		{"version 1", "version 1", append([]byte("glTF\x01\x00\x00\x00"), good[8:]...)},
		{"cut off", "cut off", good[:len(good)-30]},
		{"huge chunk", "more than there are", huge},
		{"huge buffer", "buffer 0 says", tetra(t, func(d object, _ []byte) { d["buffers"].([]object)[0]["byteLength"] = 1 << 40 })},
		{"huge accessor", "more than the file can hold", tetra(t, func(d object, _ []byte) { d["accessors"].([]object)[0]["count"] = 1 << 30 })},
		{"negative offset", "", tetra(t, func(d object, _ []byte) { d["accessors"].([]object)[0]["byteOffset"] = 4000 })},
		{"no accessor", "accessor 7", tetra(t, func(d object, _ []byte) {
			d["meshes"].([]object)[0]["primitives"].([]object)[0]["indices"] = 7
		})},
		{"cycle", "inside itself", tetra(t, node("children", []int{0}))},
		{"no such child", "node 9", tetra(t, node("children", []int{9}))},
		{"no such mesh", "mesh 4", tetra(t, node("mesh", 4))},
		{"flat", "scale is zero", tetra(t, node("scale", []float64{0, 1, 1}))},
		{"nothing", "scale is zero", tetra(t, node("scale", []float64{0, 0, 0}))},
		{"NaN point", "mesh 0: vertex 0 is not a finite point", tetra(t, func(_ object, bin []byte) { binary.LittleEndian.PutUint32(bin, 0x7FC00000) })},
		{"corner beyond", "names point 200", tetra(t, func(_ object, bin []byte) { binary.LittleEndian.PutUint16(bin[48:], 200) })},
		{"no triangles", "no part with a surface", tetra(t, func(d object, _ []byte) { d["meshes"].([]object)[0]["primitives"] = []object{} })},
		{"needs an extension", "KHR_draco", tetra(t, func(d object, _ []byte) { d["extensionsRequired"] = []string{"KHR_draco_mesh_compression"} })},
		{"outside file", "", tetra(t, func(d object, _ []byte) { d["buffers"].([]object)[0]["uri"] = "../../etc/passwd" })},
	} {
		_, err := gltf.Read(c.data, "x")
		require.Error(t, err, c.name)
		assert.Contains(t, err.Error(), c.want, c.name)
	}
}

func FuzzRead(f *testing.F) {
	small, err := gltf.Write(demo.Stress(3, 40))
	require.NoError(f, err)
	f.Add(small)
	f.Add([]byte("glTF\x02\x00\x00\x00\x14\x00\x00\x00\x00\x00\x00\x00JSON"))
	f.Fuzz(func(t *testing.T, data []byte) {
		if m, err := gltf.Read(data, "fuzz"); err == nil {
			assert.NoError(t, m.Assembly.Check())
		}
	})
}

// Strips and fans are triangles (glTF 2.0, 3.7.2.1): a tetrahedron as a strip is closed, its faces look
// outwards, and its volume is a sixth.
func TestStripsAndFansAreTriangles(t *testing.T) {
	as := func(mode int, corners ...uint16) []byte {
		return tetra(t, func(d object, bin []byte) {
			for i, c := range corners {
				binary.LittleEndian.PutUint16(bin[48+2*i:], c)
			}
			d["accessors"].([]object)[1]["count"] = len(corners)
			d["meshes"].([]object)[0]["primitives"].([]object)[0]["mode"] = mode
		})
	}
	m, err := gltf.Read(as(5, 0, 2, 1, 3, 0, 2), "x")
	require.NoError(t, err)
	assert.Equal(t, 12, len(m.Shapes[0].Triangles))
	assert.InEpsilon(t, 1e9/6, m.Shapes[0].Volume(), 1e-5)
	m, err = gltf.Read(as(6, 0, 1, 3, 2, 1), "x")
	require.NoError(t, err)
	assert.Equal(t, 9, len(m.Shapes[0].Triangles), "three faces around the corner 0")
}

// What is in a file and not taken is in the report.
func TestWhatIsNotTakenIsReported(t *testing.T) {
	m, err := gltf.Read(tetra(t, func(d object, _ []byte) {
		d["materials"] = []object{
			{"name": "Lamp", "emissiveFactor": []float64{1, 1, 0}, "doubleSided": true, "alphaMode": "MASK"},
		}
		p := d["meshes"].([]object)[0]["primitives"].([]object)[0]
		p["material"] = 0
		p["attributes"] = object{"POSITION": 0, "COLOR_0": 0}
		d["nodes"] = []object{
			{"name": "body", "mesh": 0, "children": []int{1}},
			{"name": "gone", "mesh": 0, "scale": []float64{0, 0, 0}},
		}
	}), "x")
	require.NoError(t, err)
	said := strings.Join(m.Report.Ignored, "\n")
	for _, want := range []string{"colours for single points", "shines by itself", "mask", "two sides", `"gone" is scaled to nothing`} {
		assert.Contains(t, said, want)
	}
	assert.Len(t, m.Assembly.Nodes, 1)
}

// A reader that is not wanted any more ends.
func TestReadingCanBeGivenUp(t *testing.T) {
	ended, end := context.WithCancel(context.Background())
	end()
	_, err := gltf.ReadWith(ended, tetra(t, nil), nil, formats.Options{Name: "x"})
	assert.ErrorIs(t, err, context.Canceled)
}
