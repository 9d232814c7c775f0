package film_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

func arrowOf(id reveal.CueID, at, length, ahead reveal.Micros, targets ...assembly.NodeID) reveal.Cue {
	return reveal.Cue{
		ID: id, Kind: reveal.KindArrow, Targets: targets, Offset: at, Duration: length, Easing: reveal.Linear,
		Arrow: &reveal.Arrow{Ahead: ahead},
	}
}

// An arrow is as long as the motion that it shows: straight along a pull, an arc about the axis of a turn, as far as
// 300° of one that goes on and on; it is there while its cue lasts, and what does not move has none.
func TestAnArrowIsAsLongAsTheMotion(t *testing.T) {
	turn := reveal.Cue{
		ID: "t", Kind: reveal.KindTurn, Targets: []assembly.NodeID{"cover/screw"}, Offset: 4 * s, Duration: 2 * s, Easing: reveal.Linear,
		Turn: &reveal.Turn{Axes: reveal.OwnAxes, About: space.Vec3{0, 0, 1}, Degrees: 90},
	}
	f, fr := compile(t, script(reveal.Step{ID: "a", Duration: 8 * s, Cues: []reveal.Cue{
		pull("p", s, 2*s, reveal.AssemblyAxes, space.Vec3{1, 0, 0}, 50, "cover"), turn,
		arrowOf(
			"along",
			s,
			2*s,
			0,
			"cover",
		), arrowOf("about", 4*s, s, 2*s, "cover/screw"), arrowOf("none", 7*s, s/2, 0, "cover"),
	}}))
	length := func() (sum float64, n int) {
		for _, g := range fr.Flow {
			if g.From != g.To && g.Opacity > 0 {
				sum += r3.Norm(r3.Sub(g.To, g.From))
				n++
			}
		}
		return sum, n
	}
	f.At(s/2, fr)
	_, n := length()
	assert.Zero(t, n)
	f.At(2*s, fr)
	_, n = length()
	require.Greater(t, n, 2)
	rails := 0.0
	for _, g := range fr.Flow {
		if d := r3.Sub(g.To, g.From); g.From != g.To && math.Abs(d.X) > 0.999*r3.Norm(d) {
			rails += d.X
			assert.Equal(t, reveal.Solid, g.Line)
			assert.InDelta(t, 1, g.Opacity, 1e-9)
		}
	}
	tip := 0.0
	cover := f.Assembly.BoundsOf()[f.Assembly.Index()["cover"]]
	for _, g := range fr.Flow {
		tip = max(tip, g.To.X)
	}
	assert.InDelta(t, 50, tip-cover.Max.X, 1e-6, "it begins in front of the part, and ends as far on as that goes")
	assert.Greater(t, rails, 120.0, "at least three strokes, but for the head")
	f.At(4*s+s/2, fr)
	_, n = length()
	require.Greater(t, n, 2, "its middle stands still: a point at its side is followed")
	// An arc about the axis, which is the screw's own, at two thirds of its reach, over a quarter of a circle.
	index := f.Assembly.Index()
	screw := f.Assembly.Shapes[f.Assembly.Nodes[index["cover/screw"]].Shape].Bounds()
	reach := max(screw.Size().X, screw.Size().Y) / 2
	world := fr.World[index["cover/screw"]]
	back := world.Inverse()
	from, to := math.Inf(1), math.Inf(-1)
	for _, g := range fr.Flow {
		if g.From == g.To {
			continue
		}
		p := back.Apply(g.To)
		assert.InDelta(t, 0.66*reach, math.Hypot(p.X, p.Y), 0.3*reach)
		a := math.Atan2(p.Y, p.X)
		from, to = min(from, a), max(to, a)
	}
	assert.InDelta(t, math.Pi/2, to-from, 0.35)
	f.At(7*s+s/4, fr)
	_, n = length()
	assert.Zero(t, n, "it does not move")
}
