package firstfilm_test

import (
	"bytes"
	"context"
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/plan"
	"slowreveal/core/product"
	"slowreveal/core/proof"
	"slowreveal/core/solid"
	"slowreveal/core/space"
	"slowreveal/firstfilm"
	"slowreveal/formats"
	"slowreveal/formats/importer"
)

func TestMain(m *testing.M) {
	if os.Getenv("SLOWREVEAL_STEPREAD") == "" {
		program, _ := filepath.Abs(filepath.Join("..", "bin", "stepread"))
		os.Setenv("SLOWREVEAL_STEPREAD", program)
	}
	os.Exit(m.Run())
}

// public is an assembly of the CAx Implementor Forum, from the npm package occt-import-js 0.0.23 (tests only).
func public(t *testing.T, file string) *product.Model {
	m, err := importer.Read(
		context.Background(),
		filepath.Join("..", "web", "node_modules", "occt-import-js", "test", "testfiles", "cax-if"),
		[]string{file},
		formats.Options{},
	)
	require.NoError(t, err)
	return m
}

// passing is a part that goes past another one: by what their solids share at the beginning, and on its way.
type passing struct {
	Stays  solid.Mesh  `json:"stays"`
	Goes   solid.Mesh  `json:"goes"`
	Shifts []space.Vec `json:"shifts"`
	what   string
}

const sharedScript = `
import { readFileSync } from 'node:fs'
import { pathToFileURL } from 'node:url'
const wasm = await (await import(pathToFileURL(process.argv[1]))).default()
wasm.setup()
const { Manifold, Mesh } = wasm
const solid = (m) => { // corners in one place are one corner there
  const mesh = new Mesh({ numProp: 3, vertProperties: Float32Array.from(m.Positions), triVerts: Uint32Array.from(m.Triangles) })
  mesh.merge()
  return new Manifold(mesh)
}
console.log(JSON.stringify(JSON.parse(readFileSync(0, 'utf8')).map(({ stays, goes, shifts }) => {
  const a = solid(stays), b = solid(goes)
  return shifts.map((d) => a.intersect(b.translate([d.X, d.Y, d.Z])).volume() / Math.min(a.volume(), b.volume()))
})))`

// Nuts leave before bolts, bolts before brackets; and along each move no two solids share more than they do at rest, by
// another library (npm manifold-3d 3.5.4): at 24 places of its way, and by no more than a thousandth of the smaller
// one, which is what facets make of a bolt in its hole.
func TestAPublicAssemblyComesApart(t *testing.T) {
	for _, file := range []string{"as1-oc-214.stp", "as1-tu-203.stp", "dm1-id-214.stp", "io1-cm-214.stp"} {
		m := public(t, file)
		p, err := firstfilm.Plan(context.Background(), m, plan.Choices{}, nil)
		require.NoError(t, err)
		assert.Empty(t, p.Stuck, file)
		assert.Equal(t, len(p.Moves) > 0, p.Proven, file)
		for _, m := range p.Moves {
			assert.Empty(t, m.Collides, "%s: %s", file, m.Title)
		}
		assert.Len(t, p.Stays, 1, file)
		last := map[string]int{}
		first := map[string]int{}
		for i, move := range p.Moves {
			for _, n := range move.Nodes {
				for _, kind := range []string{"nut", "bolt", "bracket"} {
					if own := string(n)[strings.LastIndex(string(n), "/")+1:]; strings.Contains(
						strings.ToLower(own),
						kind,
					) {
						if _, ok := first[kind]; !ok {
							first[kind] = i
						}
						last[kind] = i
					}
				}
			}
		}
		if strings.HasPrefix(file, "as1") {
			assert.Less(t, last["nut"], first["bolt"], "%s: nuts before bolts", file)
			assert.Less(t, first["bolt"], first["bracket"], "%s: bolts before brackets", file)
		}
		for _, one := range shared(t, passings(m, &p)) {
			for _, share := range one.shares {
				assert.LessOrEqual(t, share, one.shares[0]+1e-3, "%s: %s", file, one.what)
			}
		}
	}
}

// passings lists the parts of a plan that go past others which are still there, all in the place where the assembly has
// them.
func passings(m *product.Model, p *plan.Plan) (list []passing) {
	a := m.Assembly
	index, worlds := a.Index(), a.Worlds()
	box := func(i int) space.Box { return a.Shapes[a.Nodes[i].Shape].Bounds().Moved(&worlds[i]) }
	gone := make([]bool, len(a.Nodes))
	below := func(i, top int) bool {
		for i >= 0 && i != top {
			i = a.Nodes[i].Parent
		}
		return i == top
	}
	for _, move := range p.Moves {
		goes := map[int]space.Vec{}
		for k, id := range move.Nodes {
			for i := range a.Nodes {
				if a.Nodes[i].IsPart() && below(i, index[id]) && !gone[i] {
					goes[i] = r3.Scale(
						move.Paths[k].Legs[0].Distance,
						worlds[0].R.Apply(move.Paths[k].Legs[0].Along.Vec()),
					)
				}
			}
		}
		for i, by := range goes {
			for o := range a.Nodes {
				if _, too := goes[o]; too || gone[o] || !a.Nodes[o].IsPart() || move.Carried >= 0 ||
					solid.Meets(box(o), box(i), by) > 1 {
					continue
				}
				one := passing{
					Stays: placed(m.Shapes[a.Nodes[o].Shape], &worlds[o]),
					Goes:  placed(m.Shapes[a.Nodes[i].Shape], &worlds[i]),
					what:  string(a.Nodes[i].ID) + " past " + string(a.Nodes[o].ID),
				}
				for k := range 25 {
					one.Shifts = append(one.Shifts, r3.Scale(float64(k)/24, by))
				}
				list = append(list, one)
			}
		}
		if move.Carried < 0 {
			for i := range goes {
				gone[i] = true
			}
		}
	}
	return list
}

func placed(s *solid.Shape, at *space.Rigid) solid.Mesh {
	out := solid.Mesh{Triangles: s.Triangles}
	for i := 0; i < len(s.Positions); i += 3 {
		p := at.Apply(space.Vec{X: float64(s.Positions[i]), Y: float64(s.Positions[i+1]), Z: float64(s.Positions[i+2])})
		out.Positions = append(out.Positions, float32(p.X), float32(p.Y), float32(p.Z))
	}
	return out
}

type sharing struct {
	what   string
	shares []float64
}

// shared asks the other library.
func shared(t *testing.T, list []passing) (out []sharing) {
	if len(list) == 0 {
		return nil
	}
	in, err := json.Marshal(list)
	require.NoError(t, err)
	library, err := filepath.Abs("../web/node_modules/manifold-3d/manifold.js")
	require.NoError(t, err)
	c := exec.Command("node", "--input-type=module", "-e", sharedScript, library)
	c.Stdin = bytes.NewReader(in)
	said, err := c.CombinedOutput()
	require.NoError(t, err, string(said))
	var shares [][]float64
	require.NoError(t, json.Unmarshal(said, &shares))
	for i := range shares {
		out = append(out, sharing{list[i].what, shares[i]})
	}
	return out
}

// A public assembly that nobody has arranged becomes a film without a fault.
func TestAFirstFilmHasNoFault(t *testing.T) {
	m := public(t, "as1-oc-214.stp")
	p, err := firstfilm.Plan(context.Background(), m, plan.Choices{}, nil)
	require.NoError(t, err)
	looker, err := firstfilm.NewLooker(m)
	require.NoError(t, err)
	doc, found, err := looker.Make(context.Background(), &p, plan.Writing{Fresh: "first"})
	require.NoError(t, err)
	assert.Zero(t, found.Open(proof.Fault), found.Findings)
	for _, f := range found.Findings {
		// what has been seen before goes back fast, seen as a whole
		back := doc.FindStep(f.Step) >= 0 && doc.Steps[doc.FindStep(f.Step)].Retrace != nil
		assert.False(t, f.Level == proof.Warning && !back, f.Says)
	}
	assert.GreaterOrEqual(t, len(doc.Steps), 8)
}
