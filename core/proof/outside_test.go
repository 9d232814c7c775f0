package proof_test

import (
	"bytes"
	"encoding/json"
	"math/rand/v2"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/proof"
	"slowreveal/core/reveal"
	"slowreveal/core/solid"
	"slowreveal/core/solid/simple"
	"slowreveal/core/space"
)

// moment is a pose of the moving body at a time of a film, as the other library takes it: by columns.
type moment struct {
	At     reveal.Micros `json:"-"`
	Inside bool          `json:"-"` // whether it lies in one of our findings
	Matrix [16]float64   `json:"matrix"`
	Clear  bool          `json:"clear"` // whether the smaller or the larger bodies are asked
}

// motion is two pairs of bodies, a little smaller and a little larger than those that our bounds are about, and where
// the second one goes.
type motion struct {
	Smaller, Larger [2]solid.Mesh
	Moments         []moment
}

const volumeScript = `
import { readFileSync } from 'node:fs'
import { pathToFileURL } from 'node:url'
const module = (await import(pathToFileURL(process.argv[1]))).default
const wasm = await module()
wasm.setup()
const { Manifold, Mesh } = wasm
const solid = (m) => new Manifold(new Mesh({ numProp: 3, vertProperties: Float32Array.from(m.Positions), triVerts: Uint32Array.from(m.Triangles) }))
const out = JSON.parse(readFileSync(0, 'utf8')).map(({ Smaller, Larger, Moments }) => {
  const small = Smaller.map(solid), large = Larger.map(solid)
  return Moments.map(({ matrix, clear }) => {
    const [a, b] = clear ? small : large
    const moved = b.transform(matrix), both = a.intersect(moved), volume = both.volume()
    moved.delete(); both.delete()
    return volume
  })
})
console.log(JSON.stringify(out))`

// The running reference is the npm package manifold-3d 3.5.4 (Apache-2.0): the volume that two blocks have in common,
// every millisecond of 200 motions by chance (pulled and turned at once). A proof finds where blocks meet that are 0.1
// mm thinner, and leaves out what is not deeper by another 0.1 mm; those that are a little thinner than both share
// nothing outside of what is found, and those that are a little less thin share something inside of it.
func TestInterferenceAgreesWithAnotherLibrary(t *testing.T) {
	n := 200
	if testing.Short() {
		n = 50
	}
	random := rand.New(rand.NewPCG(3, 5))
	const length, little = 300_000, 0.02 // µs, mm
	var motions []motion
	meetings := 0
	for range n {
		size := func() [3]float64 {
			return [3]float64{4 + 20*random.Float64(), 4 + 20*random.Float64(), 1 + 20*random.Float64()}
		}
		a, b := size(), size()
		thinner := func(s [3]float64, by float64) solid.Mesh {
			return placed(simple.Block(s[0]-by, s[1]-by, s[2]-by), by/2)
		}
		from := space.Vec{X: 30 + 10*random.Float64(), Y: -20 * random.Float64(), Z: 20 * random.NormFloat64()}
		m := scene(
			t,
			part{"still", simple.Block(a[0], a[1], a[2]), space.Vec{}},
			part{"moving", simple.Block(b[0], b[1], b[2]), from},
		)
		along := space.Vec3{-1, 0.4 * random.NormFloat64(), -from.Z / 40}
		cues := []reveal.Cue{
			pull("p", 0, length, along, 60, "moving"),
			{
				ID:       "t",
				Kind:     reveal.KindTurn,
				Targets:  []assembly.NodeID{"moving"},
				Duration: length,
				Easing:   reveal.Smooth,
				Turn: &reveal.Turn{
					Axes:    reveal.OwnAxes,
					About:   space.Vec3{random.NormFloat64(), random.NormFloat64(), random.NormFloat64()},
					Pivot:   space.Vec3{5, 5, 5},
					Degrees: 300 * random.NormFloat64(),
				},
			},
		}
		f := compiled(t, m, cues...)
		report, err := proof.Interference(t.Context(), f, m.Shapes, proof.Settings{})
		require.NoError(t, err)
		require.Empty(t, report.Passed)
		meetings += len(report.List)
		one := motion{
			Smaller: [2]solid.Mesh{thinner(a, 0.2+little), thinner(b, 0.2+little)},
			Larger:  [2]solid.Mesh{thinner(a, 0.1-little), thinner(b, 0.1-little)},
		}
		fr := f.NewFrame()
		for at := reveal.Micros(0); at <= length; at += 1000 {
			f.At(at, fr)
			still := fr.World[1].Inverse()
			place := still.Mul(&fr.World[2])
			k := moment{At: at, Clear: true}
			for _, o := range report.List {
				if at >= o.From && at <= o.To {
					k.Inside, k.Clear = true, false
				}
			}
			r, d := place.R, place.T
			k.Matrix = [16]float64{r[0], r[3], r[6], 0, r[1], r[4], r[7], 0, r[2], r[5], r[8], 0, d.X, d.Y, d.Z, 1}
			one.Moments = append(one.Moments, k)
		}
		motions = append(motions, one)
	}
	require.Greater(t, meetings, n/2)
	in, err := json.Marshal(motions)
	require.NoError(t, err)
	module, err := filepath.Abs("../../web/node_modules/manifold-3d/manifold.js")
	require.NoError(t, err)
	node := exec.Command("node", "--input-type=module", "-e", volumeScript, module)
	node.Stdin = bytes.NewReader(in)
	var said bytes.Buffer
	node.Stderr = &said
	text, err := node.Output()
	require.NoError(t, err, said.String())
	var volumes [][]float64
	require.NoError(t, json.Unmarshal(text, &volumes))
	const nothing = 1e-5 // mm³
	inside, outside, short := 0, 0, 0
	for i, m := range motions {
		for k, at := range m.Moments {
			if at.Inside {
				inside++
				if volumes[i][k] == 0 { // a gap that is shorter than is told of
					short++
				}
			} else {
				outside++
				assert.LessOrEqual(t, volumes[i][k], nothing, "motion %d at %d µs", i, at.At)
			}
		}
	}
	t.Logf(
		"%d motions, %d meetings; %d moments outside of them agree, of %d inside all but %d in short gaps",
		len(motions),
		meetings,
		outside,
		inside,
		short,
	)
	assert.Greater(t, inside, 25*n)
	assert.Less(t, short, inside/500)
}

// placed moves a mesh by the same along all axes.
func placed(m solid.Mesh, by float64) solid.Mesh {
	for i := range m.Positions {
		m.Positions[i] += float32(by)
	}
	return m
}
