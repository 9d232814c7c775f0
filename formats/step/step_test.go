package step_test

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/product"
	"slowreveal/formats"
	"slowreveal/formats/step"
)

// The files of these tests are those of the npm package occt-import-js 0.0.23
// (LGPL-2.1), which this project did not make; some come from the CAx
// Implementor Forum.
var files = filepath.Join("..", "..", "web", "node_modules", "occt-import-js", "test", "testfiles")

func TestMain(m *testing.M) {
	if os.Getenv("SLOWREVEAL_STEPREAD") == "" {
		root, _ := filepath.Abs(filepath.Join("..", ".."))
		os.Setenv("SLOWREVEAL_STEPREAD", filepath.Join(root, "bin", "stepread"))
	}
	os.Exit(m.Run())
}

func read(t *testing.T, kind, name string, o formats.Options) *product.Model {
	t.Helper()
	if o.Name == "" {
		o.Name = "file"
	}
	m, err := step.Read(context.Background(), kind, filepath.Join(files, filepath.FromSlash(name)), o)
	require.NoError(t, err, name)
	return m
}

// The assembly as1 of the CAx Implementor Forum: 18 parts of 5 kinds in 28
// nodes, as the file's own product structure says.
func TestATreeWithNamesPlacesAndSharedShapes(t *testing.T) {
	m := read(t, "step", "cax-if/as1-oc-214.stp", formats.Options{})
	assert.Equal(t, 18, m.Report.Parts)
	assert.Equal(t, 5, m.Report.Shapes)
	assert.Len(t, m.Assembly.Nodes, 28)
	assert.Equal(t, "millimetre (from the file)", m.Report.Unit)
	assert.Contains(t, m.Report.Detail, "0.1 %")
	count := map[string]int{}
	for i := range m.Assembly.Nodes {
		if n := &m.Assembly.Nodes[i]; n.IsPart() {
			count[strings.TrimRight(n.Name, "_0123456789")]++
		}
	}
	assert.Equal(t, map[string]int{"nut": 8, "bolt": 6, "l-bracket": 2, "plate": 1, "rod": 1}, count)
	size := m.Assembly.Bounds().Size()
	assert.InDelta(t, 180, size.X, 25, "the plate is 180 long, the rod reaches over it")
	colours := 0
	for i := range m.Assembly.Nodes {
		for range m.Assembly.Nodes[i].Finishes {
			colours++
		}
	}
	assert.GreaterOrEqual(t, colours, 18)
	// The plate lies below, the brackets stand on it: Z up has become Y up.
	assert.Less(t, size.Y, size.X)
}

// The same design by other exporters: the same parts wherever they came from.
func TestTheSameDesignByOtherExporters(t *testing.T) {
	oc := read(t, "step", "cax-if/as1-oc-214.stp", formats.Options{})
	tu := read(t, "step", "cax-if/as1-tu-203.stp", formats.Options{})
	assert.Equal(t, oc.Report.Parts, tu.Report.Parts)
	volume := func(m *product.Model) (v float64) {
		for i := range m.Assembly.Nodes {
			if s := m.Assembly.Nodes[i].Shape; s >= 0 {
				v += m.Shapes[s].Volume()
			}
		}
		return v
	}
	assert.InEpsilon(t, volume(oc), volume(tu), 1e-4)
	pe := read(t, "step", "cax-if/as1_pe_203.stp", formats.Options{})
	assert.Equal(t, 18, pe.Report.Parts, "bodies that the file wraps are parts, not subassemblies")
	assert.Equal(t, "inch (from the file)", pe.Report.Unit)
	assert.InEpsilon(t, volume(oc)*25.4*25.4*25.4, volume(pe), 3e-3, "its numbers are nearly the same, its unit is not")
}

// A cube of 1000 × 1000 × 1000 mm, written in three units.
func TestUnitsOfTheFileCount(t *testing.T) {
	for name, unit := range map[string]string{"cube-units/cube-mm.step": "millimetre", "cube-units/cube-in.step": "inch", "cube-units/cube-m.step": "metre"} {
		m := read(t, "step", name, formats.Options{})
		assert.Contains(t, m.Report.Unit, unit)
		assert.InDelta(t, 1000, m.Assembly.Bounds().Size().X, 1e-2, name)
	}
	m := read(t, "step", "cube-units/cube-mm.step", formats.Options{Unit: "in"})
	assert.InDelta(t, 25400, m.Assembly.Bounds().Size().X, 0.1)
	assert.Equal(t, "inch (set by hand; the file says millimetre)", m.Report.Unit)
}

func TestIGES(t *testing.T) {
	m := read(t, "iges", "cube-10x10mm/Cube 10x10.igs", formats.Options{})
	assert.Equal(t, 1, m.Report.Parts)
	assert.InDelta(t, 1000, m.Shapes[0].Volume(), 1e-2)
	assert.Contains(t, m.Report.Unit, "millimetre")
}

// The kernel's other build, under Node: an independent way from the same files
// to triangles.
func TestSinglePartsAgainstTheBuildForNode(t *testing.T) {
	names := []string{
		"cax-if/sg1-c5-214.stp",
		"cax-if/io1-cm-214.stp",
		"rounded-cube/rounded-cube.step",
		"conical-surface/conical-surface.step",
		"simple-basic-cube/cube.stp",
	}
	script := `
const occt = await (await import(process.argv[1])).default()
const { readFileSync } = await import('node:fs')
for (const file of process.argv.slice(2)) {
  const r = occt.ReadStepFile(readFileSync(file), { linearUnit: 'millimeter' })
  const low = [1e9, 1e9, 1e9], high = [-1e9, -1e9, -1e9]
  let volume = 0
  for (const m of r.meshes) {
    const p = m.attributes.position.array, t = m.index.array
    p.forEach((v, i) => { low[i % 3] = Math.min(low[i % 3], v); high[i % 3] = Math.max(high[i % 3], v) })
    for (let i = 0; i < t.length; i += 3) {
      const [a, b, c] = [0, 1, 2].map((k) => p.slice(3 * t[i + k], 3 * t[i + k] + 3))
      volume += (a[0] * (b[1] * c[2] - b[2] * c[1]) + a[1] * (b[2] * c[0] - b[0] * c[2]) + a[2] * (b[0] * c[1] - b[1] * c[0])) / 6
    }
  }
  console.log(JSON.stringify({ size: high.map((v, i) => v - low[i]), volume }))
}`
	library, err := filepath.Abs(filepath.Join(files, "..", "..", "dist", "occt-import-js.js"))
	require.NoError(t, err)
	args := []string{"--input-type=module", "-e", script, library}
	for _, name := range names {
		path, err := filepath.Abs(filepath.Join(files, filepath.FromSlash(name)))
		require.NoError(t, err)
		args = append(args, path)
	}
	out, err := exec.Command("node", args...).CombinedOutput()
	require.NoError(t, err, string(out))
	d := json.NewDecoder(bytes.NewReader(out))
	for _, name := range names {
		var want struct {
			Size   [3]float64
			Volume float64
		}
		require.NoError(t, d.Decode(&want))
		m := read(t, "step", name, formats.Options{Up: "y", Detail: "fine"})
		size := m.Assembly.Bounds().Size()
		for k, v := range []float64{size.X, size.Y, size.Z} {
			assert.InEpsilon(t, want.Size[k], v, 5e-3, name)
		}
		sum := 0.0
		for i := range m.Assembly.Nodes {
			if s := m.Assembly.Nodes[i].Shape; s >= 0 {
				sum += m.Shapes[s].Volume()
			}
		}
		if m.Shapes[0].Closed() { // the cone is an open surface
			assert.InEpsilon(t, want.Volume, sum, 1e-2, name)
		}
	}
}

func TestDetailIsAChoice(t *testing.T) {
	coarse := read(t, "step", "cax-if/as1-oc-214.stp", formats.Options{Detail: "coarse"})
	fine := read(t, "step", "cax-if/as1-oc-214.stp", formats.Options{Detail: "fine"})
	assert.Greater(t, fine.Report.Triangles, 2*coarse.Report.Triangles)
}

func write(t *testing.T, folder, name, text string) string {
	t.Helper()
	path := filepath.Join(folder, name)
	require.NoError(t, os.WriteFile(path, []byte(text), 0o644))
	return path
}

func envelope(body string) string {
	return "ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION((''),'2;1');\nFILE_NAME('','',(''),(''),'','','');\nFILE_SCHEMA(('AUTOMOTIVE_DESIGN'));\nENDSEC;\nDATA;\n" + body + "\nENDSEC;\nEND-ISO-10303-21;\n"
}

func TestBadFilesSayWhat(t *testing.T) {
	good, err := os.ReadFile(filepath.Join(files, "cax-if", "as1-oc-214.stp"))
	require.NoError(t, err)
	folder := t.TempDir()
	for want, text := range map[string]string{
		"is not a STEP file":         "solid x",
		"is cut off":                 string(good[:len(good)/2]),
		"could not be understood":    envelope(""),
		"only files that lie beside": envelope("#1=DOCUMENT_FILE('../../etc/passwd','',$,#2,'',$);"),
	} {
		_, err := step.Read(
			context.Background(),
			"step",
			write(t, folder, "bad.step", text),
			formats.Options{Name: "x"},
		)
		require.Error(t, err, want)
		assert.Contains(t, err.Error(), want)
	}
	_, err = step.Read(
		context.Background(),
		"iges",
		write(t, folder, "bad.igs", strings.Repeat("lorem ipsum ", 400)),
		formats.Options{Name: "x"},
	)
	assert.Error(t, err)
}

// Whatever the kernel does over a hostile file, it does in its own process, and
// the import ends in words.
func TestAFileThatBreaksTheKernelEndsInWords(t *testing.T) {
	const depth = 1_000_000
	deep := envelope("#1=FOO(" + strings.Repeat("(", depth) + strings.Repeat(")", depth) + ");")
	_, err := step.Read(
		context.Background(),
		"step",
		write(t, t.TempDir(), "deep.step", deep),
		formats.Options{Name: "x"},
	)
	require.Error(t, err)
	assert.Contains(t, err.Error(), "the geometry kernel broke down over this file")
}

func TestTheProgramKeepsItsBounds(t *testing.T) {
	program, err := step.Program()
	require.NoError(t, err)
	run := func(path string, bounds ...string) (string, error) {
		said, err := exec.Command(program, append(bounds, path)...).CombinedOutput()
		return string(said), err
	}
	said, err := run(filepath.Join(files, "cax-if", "as1-oc-214.stp"), "--memory", "60")
	require.Error(t, err)
	assert.Contains(t, said, "error the file needs more memory than is allowed")

	var points strings.Builder
	for i := range 500_000 {
		fmt.Fprintf(&points, "#%d=CARTESIAN_POINT('',(1.,2.,3.));\n", i+1)
	}
	_, err = run(write(t, t.TempDir(), "many.step", envelope(points.String())), "--memory", "6144", "--seconds", "1")
	assert.ErrorContains(t, err, "CPU time limit exceeded")
}

func TestMissingFilesAreNamed(t *testing.T) {
	good, err := os.ReadFile(filepath.Join(files, "cube-units", "cube-mm.step"))
	require.NoError(t, err)
	end := bytes.LastIndex(good, []byte("ENDSEC;"))
	with := string(
		good[:end],
	) + "#90001=DOCUMENT_FILE('bracket.stp','',$,#90002,'',$);\n#90002=DOCUMENT_TYPE('geometry');\n" + string(
		good[end:],
	)
	assert.Equal(t, []string{"bracket.stp"}, step.References([]byte(with)))
	m, err := step.Read(
		context.Background(),
		"step",
		write(t, t.TempDir(), "top.step", with),
		formats.Options{Name: "x"},
	)
	require.NoError(t, err)
	assert.Contains(t, strings.Join(m.Report.Ignored, "\n"), "the file bracket.stp is missing")
}

func TestACancelledReadEnds(t *testing.T) {
	ctx, cancel := context.WithCancel(context.Background())
	o := formats.Options{Name: "x", Detail: "fine", Progress: func(string, float64) { cancel() }}
	begun := time.Now()
	_, err := step.Read(ctx, "step", filepath.Join(files, "cax-if", "as1-oc-214.stp"), o)
	require.Error(t, err)
	assert.Less(t, time.Since(begun), 20*time.Second)
}

func TestAMissingProgramIsNamedWithItsRemedy(t *testing.T) {
	t.Setenv("SLOWREVEAL_STEPREAD", filepath.Join(t.TempDir(), "stepread"))
	_, err := step.Read(
		context.Background(),
		"step",
		filepath.Join(files, "simple-basic-cube", "cube.stp"),
		formats.Options{Name: "x"},
	)
	require.Error(t, err)
	assert.Contains(t, fmt.Sprint(err), "stepread")
}
