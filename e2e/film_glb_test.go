package e2e

import (
	"bytes"
	"context"
	"encoding/json"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/demo"
	"slowreveal/formats/gltf"
)

// The animated GLB of the example, looked at by two others: the Khronos validator finds
// nothing, and three.js, playing it in Node, has every corner of every part's box within
// 0.01 mm of where the film has it, at times between the keys.
func TestTheAnimatedGLBMovesAsTheFilmDoes(t *testing.T) {
	m := demo.Pump()
	f := film.Compile(m.Assembly, demo.Teardown(m.Assembly))
	glb, err := gltf.WriteFilm(context.Background(), m, f, "Made of m; reveal r")
	require.NoError(t, err)
	path := filepath.Join(t.TempDir(), "film.glb")
	require.NoError(t, os.WriteFile(path, glb, 0o644))
	t.Logf("%d bytes", len(glb))
	cleanInTheValidator(t, path)

	random := rand.New(rand.NewPCG(3, 11))
	times := make([]float64, 120)
	for i := range times {
		times[i] = random.Float64() * float64(f.Duration()) / 1e6
	}
	in, err := json.Marshal(map[string]any{"file": path, "times": times})
	require.NoError(t, err)
	c := exec.Command("node", "film_glb.mjs")
	c.Stdin = bytes.NewReader(in)
	var said bytes.Buffer
	c.Stderr = &said
	text, err := c.Output()
	require.NoError(t, err, said.String())
	var played [][][16]float64
	require.NoError(t, json.Unmarshal(text, &played))
	fr := f.NewFrame()
	worst, moved := 0.0, 0
	for i, at := range times {
		f.At(reveal.Micros(at*1e6), fr)
		for n := range m.Assembly.Nodes {
			node := &m.Assembly.Nodes[n]
			if !node.IsPart() || fr.Opacity[n] == 0 { // what is not seen has no size there
				continue
			}
			box := m.Shapes[node.Shape].Bounds
			for k := range 8 {
				want := fr.World[n].Apply(box.Corner(k))
				worst = max(worst, r3.Norm(r3.Sub(want, placed(&played[i][n], box.Corner(k)))))
			}
			moved++
		}
	}
	assert.Greater(t, moved, 5000)
	assert.Less(t, worst, 0.01, "mm")
	t.Logf("largest distance %.4f mm", worst)
}

// placed applies a matrix in metres to a point in mm.
func placed(m *[16]float64, p space.Vec) space.Vec {
	return space.Vec{
		X: m[0]*p.X + m[4]*p.Y + m[8]*p.Z + m[12]*1000,
		Y: m[1]*p.X + m[5]*p.Y + m[9]*p.Z + m[13]*1000,
		Z: m[2]*p.X + m[6]*p.Y + m[10]*p.Z + m[14]*1000,
	}
}
