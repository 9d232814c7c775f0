package main

import (
	"context"
	"encoding/json"
	"io"
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/proof"
	"slowreveal/core/reveal"
	"slowreveal/localdb/testdb"
)

// command runs the program and returns its exit code, output and errors.
func command(t *testing.T, args ...string) (code int, out, said string) {
	t.Helper()
	capture := func(f **os.File) (back func() string) {
		kept := *f
		r, w, err := os.Pipe()
		require.NoError(t, err)
		*f = w
		text := make(chan string)
		go func() { b, _ := io.ReadAll(r); text <- string(b) }()
		return func() string { *f = kept; w.Close(); return <-text }
	}
	outBack, errBack := capture(&os.Stdout), capture(&os.Stderr)
	code = run(context.Background(), args)
	return code, outBack(), errBack()
}

func example(t *testing.T) (glb, reveal string) {
	t.Helper()
	folder := t.TempDir()
	code, _, said := command(t, "demo", "--out", folder)
	require.Zero(t, code, said)
	return filepath.Join(folder, "dp-40.glb"), filepath.Join(folder, "service-teardown.reveal.json")
}

func TestTheCommandLineMakesAFilmOfTheExample(t *testing.T) {
	glb, reveal := example(t)
	folder := t.TempDir()
	code, _, said := command(
		t,
		"film",
		"--assembly",
		glb,
		"--reveal",
		reveal,
		"--out",
		filepath.Join(folder, "f.mp4"),
		"--size",
		"128x72",
		"--fps",
		"10",
		"--from",
		"1",
		"--to",
		"2",
		"--quiet",
	)
	require.Zero(t, code, said)
	info, err := os.Stat(filepath.Join(folder, "f.mp4"))
	require.NoError(t, err)
	assert.Greater(t, info.Size(), int64(1000))
	code, _, said = command(
		t,
		"still",
		"--assembly",
		glb,
		"--reveal",
		reveal,
		"--out",
		filepath.Join(folder, "s.png"),
		"--size",
		"64x36",
		"--time",
		"3",
	)
	require.Zero(t, code, said)
	assert.FileExists(t, filepath.Join(folder, "s.png"))
	code, out, said := command(t, "sample", "--assembly", glb, "--reveal", reveal, "--time", "9")
	require.Zero(t, code, said)
	var at struct {
		Title string
		Nodes []struct {
			ID      string
			Matrix  [16]float64
			Opacity float64
		}
		Camera struct{ FocalLength float64 }
	}
	require.NoError(t, json.Unmarshal([]byte(out), &at))
	assert.Equal(t, "Undo the four cover screws", at.Title)
	assert.Equal(t, 50.0, at.Camera.FocalLength)
	moved := 0
	for _, n := range at.Nodes {
		if strings.Contains(n.ID, "cover-screw") && n.Matrix[14] > 33 {
			moved++
		}
	}
	assert.Equal(t, 4, moved, "all four screws are on their way out")
	code, out, _ = command(t, "inspect", glb)
	require.Zero(t, code)
	assert.Contains(t, out, `"parts": 80`)
	empty := filepath.Join(folder, "empty.json")
	require.NoError(
		t,
		os.WriteFile(
			empty,
			[]byte(
				`{"format":"slowreveal/reveal/2","title":"x","frame":{"width":64,"height":36,"rate":30},"opening":{"camera":{"target":[0,0,0],"orientation":[0,0,0,1],"distance":500,"focalLength":50}},"steps":[]}`,
			),
			0o644,
		),
	)
	code, out, said = command(t, "validate", "--assembly", glb, "--reveal", empty)
	assert.Equal(t, 0, code, said)
	assert.Equal(t, "valid\n", out)
	code, out, _ = command(t, "validate", "--assembly", glb, "--reveal", reveal)
	assert.Zero(t, code)
	assert.Equal(t, "valid\n", out)
}

// Proof of a reveal that does nothing finds nothing, and one that draws the motor through its housing ends with 3.
func TestProofEndsWithThreeWhereThereAreFaults(t *testing.T) {
	glb, _ := example(t)
	folder := t.TempDir()
	doc := func(cues string) string {
		file := filepath.Join(folder, "doc.json")
		require.NoError(
			t,
			os.WriteFile(
				file,
				[]byte(
					`{"format":"slowreveal/reveal/2","title":"x","frame":{"width":64,"height":36,"rate":30},"opening":{"camera":{"target":[0,0,0],"orientation":[0,0,0,1],"distance":500,"focalLength":50}},"steps":[{"id":"s","title":"s","duration":2000000,"cues":[`+cues+`]}]}`,
				),
				0o644,
			),
		)
		return file
	}
	code, out, said := command(t, "proof", "--assembly", glb, "--reveal", doc(``))
	assert.Zero(t, code, said)
	assert.Contains(
		t,
		out,
		"0 of 3160 pairs of parts move against each other and come near; looked at for 2.00 s with 11 checks.\nOpen: 0 faults, 0 warnings, 0 hints.",
	)
	sideways := doc(
		`{"id":"c","kind":"pull","targets":["pump-head/rotor-cover"],"offset":0,"duration":1000000,"easing":"linear","pull":{"axes":"assembly","along":[1,0,0],"distance":30}}`,
	)
	code, out, said = command(t, "proof", "--assembly", glb, "--reveal", sideways)
	assert.Equal(t, 3, code, said)
	assert.Contains(t, out, "Rotor cover")
	assert.Contains(t, out, "deeper in each other than at rest, from 0.")
	assert.Contains(t, out, "“30 mm” of step 1.")
	code, out, _ = command(t, "proof", "--json", "--assembly", glb, "--reveal", sideways)
	assert.Equal(t, 3, code)
	var r proof.Outcome
	require.NoError(t, json.Unmarshal([]byte(out), &r))
	require.NotEmpty(t, r.Findings)
	first := r.Findings[0]
	assert.Equal(t, proof.Fault, first.Level)
	assert.Equal(t, []reveal.CueID{"c"}, first.Cues)
	assert.Greater(t, first.Depth, 0.1)
	// A set of outputs is refused, and nothing is made; what was found is handed on.
	set, into := filepath.Join(folder, "set.json"), filepath.Join(folder, "set")
	require.NoError(t, os.WriteFile(set, []byte(`[{"kind":"stills","name":"one"}]`), 0o644))
	code, _, said = command(
		t,
		"pack",
		"--proof",
		"--refuse-faults",
		"--assembly",
		glb,
		"--reveal",
		sideways,
		"--set",
		set,
		"--out",
		into,
	)
	assert.Equal(t, 1, code)
	assert.Contains(t, said, "nothing was made: the film has")
	page, err := os.ReadFile(filepath.Join(into, "proof.html"))
	require.NoError(t, err)
	assert.Contains(t, string(page), "Rotor cover")
	files, err := os.ReadDir(into)
	require.NoError(t, err)
	assert.Len(t, files, 2, "proof.html and proof.json")

	code, _, said = command(t, "proof", "--tolerance", "11", "--assembly", glb, "--reveal", sideways)
	assert.Equal(t, 1, code)
	assert.Contains(t, said, "is not between 0 and 10 mm")
}

func TestWhatIsWrongIsSaidOnStandardError(t *testing.T) {
	glb, reveal := example(t)
	folder := t.TempDir()
	broken := filepath.Join(folder, "broken.glb")
	data, err := os.ReadFile(glb)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(broken, data[:len(data)/2], 0o644))
	text, err := os.ReadFile(reveal)
	require.NoError(t, err)
	absent := filepath.Join(folder, "absent.json")
	require.NoError(
		t,
		os.WriteFile(absent, []byte(strings.ReplaceAll(string(text), "rotor-screw", "screw-that-is-gone")), 0o644),
	)
	out, link := filepath.Join(folder, "x.mp4"), filepath.Join(folder, "link.png")
	require.NoError(t, os.Symlink(glb, link))
	for _, c := range []struct {
		code int
		want string
		args []string
	}{
		{2, "unexpected", []string{"explode"}},
		{2, "--assembly", []string{"film", "--out", out}},
		{1, "no-such.glb", []string{"inspect", "no-such.glb"}},
		{1, "cut off", []string{"inspect", broken}},
		{1, "screw-that-is-gone", []string{"validate", "--assembly", glb, "--reveal", absent}},
		{1, "screw-that-is-gone", []string{"film", "--assembly", glb, "--reveal", absent, "--out", out}},
		{1, "0 frames", []string{"film", "--assembly", glb, "--reveal", reveal, "--out", out, "--from", "3", "--to", "3"}},
		{1, "odd", []string{"film", "--assembly", glb, "--reveal", reveal, "--out", out, "--size", "641x360"}},
		{1, "like 1920x1080", []string{"film", "--assembly", glb, "--reveal", reveal, "--out", out, "--size", "big"}},
		{2, "is no time in seconds", []string{"sample", "--assembly", glb, "--reveal", reveal, "--time", "NaN"}},
		{2, "lies before the beginning", []string{"sample", "--assembly", glb, "--reveal", reveal, "--time=-3"}},
		{2, "is no number", []string{"film", "--assembly", glb, "--reveal", reveal, "--out", out, "--speed", "inf"}},
		{1, "not to the standard output", []string{"still", "--assembly", glb, "--reveal", reveal, "--time", "3", "--out", "-"}},
		{1, "is no ordinary file", []string{"still", "--assembly", glb, "--reveal", reveal, "--time", "3", "--out", "/dev/null"}},
		{1, "is a folder", []string{"still", "--assembly", glb, "--reveal", reveal, "--time", "3", "--out", folder}},
		{1, "is no ordinary file", []string{"still", "--assembly", glb, "--reveal", reveal, "--time", "3", "--out", link}},
		{1, "which is .png", []string{"still", "--assembly", glb, "--reveal", reveal, "--time", "3", "--out", filepath.Join(folder, "x.doc")}},
		{1, "which is .mp4", []string{"film", "--format", "mp4-h264", "--assembly", glb, "--reveal", reveal, "--out", filepath.Join(folder, "x.mov")}},
		{1, "loopback", []string{"serve", "--addr", "0.0.0.0:80"}},
		{1, "database", []string{"work", "--data", folder}},
	} {
		code, _, said := command(t, c.args...)
		assert.Equal(t, c.code, code, c.args)
		assert.Contains(t, said, c.want)
		assert.NotContains(t, said, "goroutine", "never a panic")
	}
	left, err := filepath.Glob(filepath.Join(folder, "x.mp4*"))
	require.NoError(t, err)
	assert.Empty(t, left)
}

func TestImportAndSeedFillTheDatabase(t *testing.T) {
	glb, _ := example(t)
	place := []string{"--data", t.TempDir(), "--database", testdb.URL()}
	code, _, said := command(t, append([]string{"seed"}, place...)...)
	require.Zero(t, code, said)
	code, out, said := command(t, append([]string{"import", glb, "--project", "Second pump"}, place...)...)
	require.Zero(t, code, said)
	assert.Contains(t, out, `"name": "Second pump"`)
	code, _, said = command(t, append([]string{"seed"}, place...)...)
	assert.Zero(t, code, said)
}

const cornerSTL = "solid corner\nfacet normal 0 0 0\nouter loop\nvertex 0 0 0\nvertex 10 0 0\nvertex 0 10 0\nendloop\nendfacet\nendsolid corner\n"

// Files of configurations become one product, which films show in each of its variants.
func TestSeveralFilesAreGatheredIntoVariants(t *testing.T) {
	folder := t.TempDir()
	code, _, said := command(t, "demo", "--out", folder)
	require.Zero(t, code, said)
	product := filepath.Join(folder, "product.glb")
	code, out, said := command(t, "gather", "--name", "DP-40", "--out", product,
		filepath.Join(folder, "dp-40.glb"), filepath.Join(folder, "dp-40-b.glb"))
	require.Zero(t, code, said)
	assert.Contains(t, out, "2 variants")
	still := filepath.Join(folder, "still.png")
	code, _, said = command(t, "still", "--assembly", product, "--variant", "dp-40-b", "--reveal",
		filepath.Join(folder, "service-teardown-b.reveal.json"), "--time", "30", "--size", "64x36", "--out", still)
	require.Zero(t, code, said)
	code, _, said = command(t, "gather", "--out", product, filepath.Join(folder, "dp-40.glb"))
	assert.NotZero(t, code)
	assert.Contains(t, said, "at least two configurations")
	code, _, said = command(
		t,
		"gather",
		"--out",
		product,
		filepath.Join(folder, "dp-40.glb"),
		filepath.Join(folder, "la-3.glb"),
	)
	assert.NotZero(t, code)
	assert.Contains(t, said, "hardly a part in common")
}

func TestInspectSaysEverythingForEveryFormat(t *testing.T) {
	t.Setenv("SLOWREVEAL_STEPREAD", stepread(t))
	folder := t.TempDir()
	stl := filepath.Join(folder, "corner.stl")
	require.NoError(t, os.WriteFile(stl, []byte(cornerSTL), 0o644))
	code, out, said := command(t, "inspect", "--unit", "in", stl)
	require.Zero(t, code, said)
	var seen inspection
	require.NoError(t, json.Unmarshal([]byte(out), &seen))
	assert.Contains(t, seen.Report.Unit, "inch (set by hand")
	assert.InDelta(t, 254, seen.Bounds[1][0], 1e-3)
	assert.Equal(t, 1, seen.Open, "one open surface")
	stand := filepath.Join("..", "..", "formats", "importer", "testdata", "stand.stp")
	code, out, said = command(t, "inspect", stand)
	require.Zero(t, code, said)
	seen = inspection{}
	require.NoError(t, json.Unmarshal([]byte(out), &seen))
	assert.Equal(t, 3, seen.Report.Parts)
	require.Len(t, seen.Shapes, 2)
	assert.InDelta(t, 12000+2*math.Pi*9*25, seen.Volume, 40, "a block of 40 × 30 × 10 and two studs of 6 × 25")
	assert.Equal(t, 2, seen.Shapes[1].Like)
	require.NotNil(t, seen.Shapes[1].Fastener)
	assert.Equal(t, "Ø6", seen.Shapes[1].Fastener.Size)
	require.Len(t, seen.Contacts, 2, "each stud stands on the base")
	for _, c := range seen.Contacts {
		assert.InEpsilon(t, math.Pi*9, c.Area, 0.05)
	}
	code, _, said = command(t, "inspect", filepath.Join(folder, "nothing.step"))
	assert.NotZero(t, code)
	assert.Contains(t, said, "nothing.step")
	code, _, said = command(t, "inspect", "--unit", "cubit", stl)
	assert.NotZero(t, code)
	assert.Contains(t, said, "cubit")
}

func stepread(t *testing.T) string {
	t.Helper()
	path, err := filepath.Abs(filepath.Join("..", "..", "bin", "stepread"))
	require.NoError(t, err)
	return path
}
