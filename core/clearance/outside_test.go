package clearance_test

import (
	"bytes"
	"encoding/json"
	"math"
	"math/rand/v2"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/solid"
	"slowreveal/core/solid/simple"
	"slowreveal/core/space"
)

// pair asks the other library about a solid that stays and one that is moved by
// each of the ways.
type pair struct {
	Stays solid.Mesh  `json:"stays"`
	Goes  solid.Mesh  `json:"goes"`
	Ways  []space.Vec `json:"ways"`
}

// meeting is what it says of one way: the volume that both fill, mm³, and the
// smallest gap between them, mm, at most 10.
type meeting struct {
	Overlap, Gap float64
}

const gapScript = `
import { readFileSync } from 'node:fs'
import { pathToFileURL } from 'node:url'
const module = (await import(pathToFileURL(process.argv[1]))).default
const wasm = await module()
wasm.setup()
const { Manifold, Mesh } = wasm
const solid = (m) => {
  const made = (t) => new Manifold(new Mesh({ numProp: 3, vertProperties: Float32Array.from(m.Positions), triVerts: Uint32Array.from(t) }))
  const s = made(m.Triangles)
  return s.volume() > 0 ? s : made([...m.Triangles].reverse()) // the outside in
}
const out = JSON.parse(readFileSync(0, 'utf8')).map(({ stays, goes, ways }) => {
  const a = solid(stays), b = solid(goes)
  return ways.map((w) => {
    const moved = b.translate([w.X, w.Y, w.Z])
    return { overlap: a.intersect(moved).volume(), gap: a.minGap(moved, 10) }
  })
})
console.log(JSON.stringify(out))`

// The running reference is the npm package manifold-3d 3.5.4 (Apache-2.0): just
// before the clearance the two solids have a gap and share nothing, just behind it
// they share something.
func TestClearanceAgreesWithAnotherLibrary(t *testing.T) {
	random := rand.New(rand.NewPCG(7, 7))
	shapes := []solid.Mesh{
		simple.Block(20, 9, 14),
		joined(simple.Ball(9)),
		simple.Sleeve(5, 9, 12, 24),
		simple.Block(3, 30, 3),
	}
	const short = 0.02 // mm
	var pairs []pair
	var gaps []float64
	count := 40
	if testing.Short() {
		count = 16
	}
	for len(pairs) < count {
		stays, goes := shapes[random.IntN(len(shapes))], shapes[random.IntN(len(shapes))]
		turn := space.AxisAngle(unit(random), 360*random.Float64())
		from := unit(random)
		goes = moved(goes, turn, r3.Scale(45, from))
		s, pose := two(t, stays, goes, space.Vec{})
		direction, _ := space.Normalize(r3.Sub(r3.Scale(0.25, unit(random)), from)) // towards the other, more or less
		found := way(s, pose, direction.X, direction.Y, direction.Z)
		if found.Free || found.Distance < 0.5 {
			continue
		}
		d := found.Distance
		gaps = append(gaps, d)
		pairs = append(pairs, pair{stays, goes, []space.Vec{r3.Scale(d-short, direction), r3.Scale(d+0.3, direction)}})
	}
	in, err := json.Marshal(pairs)
	require.NoError(t, err)
	library, err := filepath.Abs("../../web/node_modules/manifold-3d/manifold.js")
	require.NoError(t, err)
	c := exec.Command("node", "--input-type=module", "-e", gapScript, library)
	c.Stdin = bytes.NewReader(in)
	out, err := c.CombinedOutput()
	require.NoError(t, err, string(out))
	var said [][]meeting
	require.NoError(t, json.Unmarshal(out, &said))
	require.Len(t, said, len(pairs))
	for i, m := range said {
		assert.Zero(t, m[0].Overlap, "pair %d, free for %g mm", i, gaps[i])
		assert.Positive(t, m[0].Gap, "pair %d", i)
		assert.LessOrEqual(t, m[0].Gap, short+1e-3, "pair %d: no further from each other than they have left to go", i)
		assert.Positive(t, m[1].Overlap, "pair %d", i)
	}
}

func unit(random *rand.Rand) space.Vec {
	for {
		v := space.Vec{X: random.NormFloat64(), Y: random.NormFloat64(), Z: random.NormFloat64()}
		if u, ok := space.Normalize(v); ok {
			return u
		}
	}
}

// moved turns a mesh and shifts it.
func moved(m solid.Mesh, r space.Mat3, by space.Vec) solid.Mesh {
	at := space.Rigid{R: r, T: by}
	out := solid.Mesh{Triangles: m.Triangles}
	for i := 0; i < len(m.Positions); i += 3 {
		p := at.Apply(space.Vec{X: float64(m.Positions[i]), Y: float64(m.Positions[i+1]), Z: float64(m.Positions[i+2])})
		out.Positions = append(out.Positions, float32(p.X), float32(p.Y), float32(p.Z))
	}
	return out
}

// joined makes one corner of corners in one place, and drops triangles that have
// no area then: the other library wants a closed surface.
func joined(m solid.Mesh) solid.Mesh {
	known := map[[3]int64]uint32{}
	var out solid.Mesh
	at := make([]uint32, len(m.Positions)/3)
	for i := range at {
		p := m.Positions[3*i : 3*i+3]
		key := [3]int64{
			int64(math.Round(float64(p[0]) * 1e4)),
			int64(math.Round(float64(p[1]) * 1e4)),
			int64(math.Round(float64(p[2]) * 1e4)),
		}
		k, ok := known[key]
		if !ok {
			k = uint32(len(out.Positions) / 3)
			known[key] = k
			out.Positions = append(out.Positions, p...)
		}
		at[i] = k
	}
	for i := 0; i < len(m.Triangles); i += 3 {
		a, b, c := at[m.Triangles[i]], at[m.Triangles[i+1]], at[m.Triangles[i+2]]
		if a != b && b != c && c != a {
			out.Triangles = append(out.Triangles, a, b, c)
		}
	}
	return out
}
