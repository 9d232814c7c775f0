package clientpage

import (
	"encoding/binary"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/reveal"
	"slowreveal/core/solid"
	"slowreveal/core/solid/simple"
	"slowreveal/demo"
)

// reader reads what pack has written, by its description.
type reader struct {
	t *testing.T
	b []byte
}

func (r *reader) whole() int {
	v, n := binary.Uvarint(r.b)
	require.Positive(r.t, n)
	r.b = r.b[n:]
	return int(v)
}

func (r *reader) difference() int {
	v, n := binary.Varint(r.b)
	require.Positive(r.t, n)
	r.b = r.b[n:]
	return int(v)
}

func (r *reader) float() float64 {
	v := math.Float32frombits(binary.LittleEndian.Uint32(r.b))
	r.b = r.b[4:]
	return float64(v)
}

func (r *reader) signed() float64 {
	v := int8(r.b[0])
	r.b = r.b[1:]
	return float64(v)
}

// Positions are within half a step of a 65,535th of the box of what they were, directions within a degree, and what
// belongs together still does.
func TestPackedShapesAreWhatTheyWere(t *testing.T) {
	for _, s := range demo.Pump().Shapes {
		r := &reader{t, pack(nil, s)}
		vertices, triangles, submeshes, edges := r.whole(), r.whole(), r.whole(), r.whole()
		assert.Equal(
			t,
			[4]int{len(s.Positions) / 3, len(s.Triangles) / 3, len(s.Submeshes), len(s.Edges)},
			[4]int{vertices, triangles, submeshes, edges},
		)
		require.Equal(t, s.Closed(), r.whole() == 1)
		var low, step [3]float64
		for k := range 3 {
			low[k] = r.float()
		}
		for k := range 3 {
			step[k] = r.float()
		}
		positions := make([]float64, 3*vertices)
		for k := range 3 {
			at := uint16(0)
			for i := range vertices {
				at += binary.LittleEndian.Uint16(r.b)
				r.b = r.b[2:]
				positions[3*i+k] = low[k] + step[k]*float64(at)
				if math.Abs(positions[3*i+k]-float64(s.Positions[3*i+k])) > 0.51*step[k]+1e-4 {
					t.Fatalf("vertex %d is %g mm off", i, positions[3*i+k]-float64(s.Positions[3*i+k]))
				}
			}
		}
		for i := range vertices {
			n := [3]float64{r.signed(), r.signed(), r.signed()}
			l := math.Sqrt(n[0]*n[0] + n[1]*n[1] + n[2]*n[2])
			cos := (n[0]*float64(s.Normals[3*i]) + n[1]*float64(s.Normals[3*i+1]) + n[2]*float64(s.Normals[3*i+2])) / l
			if cos < math.Cos(math.Pi/180) {
				t.Fatalf("normal %d: %v of %v", i, n, s.Normals[3*i:3*i+3])
			}
		}
		at := 0
		for _, v := range s.Triangles {
			at += r.difference()
			require.Equal(t, int(v), at)
		}
		for _, m := range s.Submeshes {
			require.Equal(t, [2]int{int(m.First), int(m.Count)}, [2]int{r.whole(), r.whole()})
		}
		at = 0
		for _, e := range s.DrawnEdges() {
			for _, end := range [][3]float32{e.A, e.B} {
				at += r.difference()
				for k := range 3 {
					if s.Positions[3*at+k] != end[k] {
						t.Fatalf("an edge ends at vertex %d, which is elsewhere", at)
					}
				}
			}
			for range 6 {
				r.signed()
			}
			require.Equal(t, byte(e.Shows), r.b[0])
			r.b = r.b[1:]
			require.Equal(t, float64(min(e.Apart, 1e30)), r.float())
		}
		assert.Empty(t, r.b)
	}
}

func TestWhatAllRevealsSuppressIsTakenOut(t *testing.T) {
	m := demo.Pump()
	one, other := demo.Teardown(m.Assembly), demo.Teardown(m.Assembly)
	one.Opening.Suppressed = []assembly.NodeID{"control-board", "planet-stage"}
	other.Opening.Suppressed = []assembly.NodeID{"control-board"}
	kept, err := leave(m, []*reveal.Reveal{one, other})
	require.NoError(t, err)
	require.NoError(t, kept.model.Assembly.Check())
	assert.Len(t, kept.model.Shapes, len(kept.model.Assembly.Shapes))
	names := ""
	for i := range kept.model.Assembly.Nodes {
		n := &kept.model.Assembly.Nodes[i]
		names += n.Name + " " + string(n.ID) + "\n"
		if n.IsPart() {
			assert.Equal(t, m.Assembly.Shapes[m.Assembly.Nodes[i].Shape].Hash, kept.model.Assembly.Shapes[n.Shape].Hash)
		}
	}
	assert.NotContains(t, names, "Circuit board")
	assert.NotContains(t, names, "control-board")
	assert.Contains(t, names, "Sun gear", "the other reveal shows it")
	for i, text := range kept.docs {
		assert.NotContains(t, string(text), "control-board")
		doc, err := reveal.Parse(text)
		require.NoError(t, err, "reveal %d", i)
		require.NoError(t, reveal.Validate(doc, kept.model.Assembly))
	}
	whole, err := leave(m, []*reveal.Reveal{demo.Teardown(m.Assembly)})
	require.NoError(t, err)
	assert.Equal(t, m.Assembly, whole.model.Assembly)
}

func TestThePageIsSmallEnoughToSend(t *testing.T) {
	var set Settings
	require.NoError(t, set.Fill())
	m := demo.Pump()
	page, err := Write(m, []*reveal.Reveal{demo.Teardown(m.Assembly)}, set, nil)
	require.NoError(t, err)
	assert.Less(t, len(page), 3_000_000)
	assert.Contains(t, string(page), "CAUTION", "also without scripts the steps are there")
	assert.Equal(t, 1, strings.Count(string(page), "<title>Service teardown</title>"))
	fine, _, err := solid.New(simple.Sleeve(6, 10, 15, 2000))
	require.NoError(t, err)
	m.Shapes[0] = fine
	before, err := Write(m, []*reveal.Reveal{demo.Teardown(m.Assembly)}, set, nil)
	require.NoError(t, err)
	set.Simplify = 0.05
	after, err := Write(m, []*reveal.Reveal{demo.Teardown(m.Assembly)}, set, nil)
	require.NoError(t, err)
	assert.Less(t, len(after), len(before)-30_000, "%d", len(before))
	set.Simplify = -1
	assert.ErrorContains(t, set.Fill(), "simplified")
	set.Simplify = 0
	large := demo.Stress(1000, 1000)
	page, err = Write(large, []*reveal.Reveal{demo.StressReveal(large.Assembly, 100)}, set, nil)
	require.NoError(t, err)
	assert.Less(t, len(page), 25_000_000)
	t.Logf("%d parts: %d bytes", large.Assembly.Parts(), len(page))
}

func TestSettingsThatCannotBeAreRefused(t *testing.T) {
	for want, s := range map[string]Settings{
		"price": {Fields: []string{"price"}}, "red": {Colour: "red"}, "soon": {Until: "soon"}, "x y": {Language: "x y"},
	} {
		assert.ErrorContains(t, s.Fill(), want)
	}
}
