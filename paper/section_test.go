package paper_test

import (
	"context"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/linedrawing"
	"slowreveal/core/reveal"
	"slowreveal/core/solid/simple"
	"slowreveal/core/space"
	"slowreveal/demo"
	"slowreveal/formats"
	"slowreveal/paper"
)

// pipe is an upright pipe, 6 and 10 mm in radius and 40 long, alone.
func pipe(t *testing.T) *paper.Subject {
	t.Helper()
	b := formats.NewBuilder(context.Background(), formats.Options{Name: "pipe"}, "computed")
	finish := b.Finish(formats.DefaultFinish)
	root := b.Node(-1, assembly.Node{Name: "all", Shape: -1, Pose: assembly.PoseOf(space.Identity)})
	shape, err := b.Mesh("pipe", simple.Sleeve(6, 10, 40, 96))
	require.NoError(t, err)
	b.Node(
		root,
		assembly.Node{Name: "pipe", Shape: shape, Finishes: []int{finish}, Pose: assembly.PoseOf(space.Identity)},
	)
	m, err := b.Model()
	require.NoError(t, err)
	r := reveal.New("pipe", reveal.Camera{Orientation: space.NoRotation, Distance: 200, FocalLength: 50})
	r.Steps = []reveal.Step{{ID: "a", Title: "a", Duration: reveal.Second}}
	return paper.NewSubject(m, film.Compile(m.Assembly, r))
}

func from(side string) reveal.Camera {
	c := reveal.Camera{Orientation: space.NoRotation, Distance: 200, FocalLength: 50, Orthographic: true}
	for _, v := range film.Views() {
		if v.Name == side {
			c.Orientation = v.Orientation
		}
	}
	return c
}

// lengthOf is how long the lines of a kind are on the picture plane, mm.
func lengthOf(v *paper.View, kind linedrawing.Kind) (sum float64) {
	for i := range v.Lines {
		l := &v.Lines[i]
		for k := 1; k < len(l.Points) && l.Kind == kind; k++ {
			sum += math.Hypot(l.Points[k].X-l.Points[k-1].X, l.Points[k].Y-l.Points[k-1].Y)
		}
	}
	return sum
}

// Lines a step apart are as long together as the face is large, over the step; the step is a quarter of a strip's width,
// 4 mm, but no less than half of an eightieth of the diagonal, 49 mm: 1 mm. The face is two strips of 4 × 40.
func TestACutFaceIsHatchedEvenly(t *testing.T) {
	s := pipe(t)
	fr := s.At(0)
	section := &paper.Section{Axis: "x"}
	v, err := s.View(context.Background(), fr, from(section.Side()), paper.ViewSettings{Section: section})
	require.NoError(t, err)
	size := math.Sqrt(20*20+20*20+40*40) / 80
	step := math.Max(math.Min(size, 1), size/2)
	assert.InEpsilon(t, 2*4*40/step, lengthOf(v, linedrawing.Hatch), 0.03)
	// From the other side nothing of it is seen.
	flip := &paper.Section{Axis: "x", Flip: true}
	assert.Equal(t, "left", flip.Side())
	v, err = s.View(context.Background(), fr, from("left"), paper.ViewSettings{Section: section})
	require.NoError(t, err)
	assert.Less(t, lengthOf(v, linedrawing.Hatch), 0.5)
	// What is not met is whole.
	v, err = s.View(
		context.Background(),
		fr,
		from("right"),
		paper.ViewSettings{Section: &paper.Section{Axis: "x", At: 30}},
	)
	require.NoError(t, err)
	assert.Zero(t, lengthOf(v, linedrawing.Hatch))
	_, err = s.View(
		context.Background(),
		fr,
		from("right"),
		paper.ViewSettings{Section: &paper.Section{Axis: "x", At: -30}},
	)
	assert.ErrorIs(t, err, paper.ErrNothing)
}

// Screws stay whole in a section through their axes: what of one is seen is as long as in the product that is not cut,
// looked at through what is before it.
func TestFastenersAreNotCut(t *testing.T) {
	m := demo.Pump()
	s := paper.NewSubject(m, film.Compile(m.Assembly, demo.Teardown(m.Assembly)))
	screw := m.Assembly.Index()["pump-head/rotor/rotor-screw-m4-16"]
	section := &paper.Section{Axis: "x"}
	v, err := s.View(context.Background(), s.At(0), from("right"), paper.ViewSettings{Section: section})
	require.NoError(t, err)
	hatched := map[int]bool{}
	own := 0
	for i := range v.Lines {
		if v.Lines[i].Kind == linedrawing.Hatch {
			hatched[v.Lines[i].Node] = true
		} else if v.Lines[i].Node == screw {
			own++
		}
	}
	assert.False(t, hatched[screw])
	assert.Greater(t, own, 2, "it is seen, whole")
	assert.Greater(t, len(hatched), 20)
	index := m.Assembly.Index()
	for _, id := range []assembly.NodeID{"housing/hood", "drive/motor", "planet-stage/bearing-608"} {
		assert.True(t, hatched[index[id]], id)
	}
	for _, wrong := range []paper.Section{{Axis: "w"}, {Axis: "x", At: math.Inf(1)}, {Axis: "x", At: math.NaN()}} {
		assert.Error(t, wrong.Check())
	}
}

// A note that points at what has been cut away is not drawn, one that points at what is left is.
func TestNotesOfWhatIsCutAwayAreLeftOut(t *testing.T) {
	m := demo.Pump()
	s := paper.NewSubject(m, film.Compile(m.Assembly, demo.Teardown(m.Assembly)))
	fonts, err := paper.NewFonts()
	require.NoError(t, err)
	at := reveal.Micros(0)
	for len(s.At(at).Notes) == 0 {
		at += reveal.Second / 2
		require.Less(t, at, s.Film.Duration())
	}
	fr := s.At(at)
	note := fr.Notes[0]
	x := fr.World[0].Inverse()
	place := x.Apply(note.At.Vec()).X
	drawn := func(section *paper.Section) string {
		set := paper.StillSettings{Section: section}
		require.NoError(t, set.Fill())
		page, err := s.Still(context.Background(), fonts, at, nil, 16.0/9, set, nil)
		require.NoError(t, err)
		svg, err := page.SVG()
		require.NoError(t, err)
		return string(svg)
	}
	whole := strings.Count(drawn(nil), "<text")
	assert.Positive(t, whole)
	away := strings.Count(drawn(&paper.Section{Axis: "x", At: place - 1}), "<text")
	left := strings.Count(drawn(&paper.Section{Axis: "x", At: place - 1, Flip: true}), "<text")
	assert.Less(t, away, left)
}
