package editor_test

import (
	"encoding/json"
	"fmt"
	"math"
	"math/rand/v2"
	"reflect"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/compose"
	"slowreveal/core/edit"
	"slowreveal/core/editor"
	"slowreveal/core/film"
	"slowreveal/core/look"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/demo"
)

func open(t *testing.T) (*editor.Editor, editor.State) {
	t.Helper()
	a := demo.Pump().Assembly
	text, err := assembly.Pack(a)
	require.NoError(t, err)
	d := new(editor.Editor)
	require.NoError(t, d.OpenAssembly(text))
	s, err := d.OpenReveal(reveal.Write(demo.Teardown(a)))
	require.NoError(t, err)
	return d, s
}

func TestAPreviewLeavesNoTrace(t *testing.T) {
	d, s := open(t)
	before := string(reveal.Write(s.Reveal))
	for _, by := range []string{"500000", "900000", "-200000"} {
		s, err := d.Preview([]byte(`{"op":"shiftCues","cueIds":["cue-2"],"by":` + by + `}`))
		require.NoError(t, err)
		assert.NotEmpty(t, s.Bars)
		assert.Nil(t, s.Inverse)
	}
	s, err := d.Preview([]byte(`{"op":"setTitle","title":"tried out"}`))
	require.NoError(t, err)
	assert.NotEqual(t, before, string(reveal.Write(s.Reveal)))
	_, err = d.Preview([]byte(`{"op":"removeStep","stepId":"no such step"}`))
	assert.Error(t, err)
	s, err = d.Settle()
	require.NoError(t, err)
	assert.Equal(t, before, string(reveal.Write(s.Reveal)))
	s, err = d.Apply([]byte(`{"op":"setTitle","title":"other"}`))
	require.NoError(t, err)
	require.NotNil(t, s.Inverse)
	back, err := json.Marshal(s.Inverse)
	require.NoError(t, err)
	s, err = d.Apply(back)
	require.NoError(t, err)
	assert.Equal(t, before, string(reveal.Write(s.Reveal)))
}

func TestTheArraysHoldTheFrame(t *testing.T) {
	d, _ := open(t)
	d.At(34 * reveal.Second)
	moved := append([]float32(nil), d.Matrices...)
	assert.Equal(t, float32(1), moved[15])
	assert.Less(t, d.Opacities[len(d.Opacities)-1], float32(0.01), "the control board has faded")
	d.AtRest()
	assert.NotEqual(t, moved, d.Matrices)
	for _, o := range d.Opacities {
		assert.Equal(t, float32(1), o)
	}
	dark := float32(0)
	for _, v := range d.ContactShadow() {
		dark = max(dark, v)
	}
	assert.Greater(t, dark, float32(0.5), "the feet stand on the ground")
	assert.LessOrEqual(t, dark, float32(1))
}

func TestQuestions(t *testing.T) {
	d, _ := open(t)
	for question, want := range map[string]string{
		`{"ask":"quantity","with":{"kind":"length","text":"2*35"}}`: `70`,
		`{"ask":"snap","with":{"time":1010000}}`:                    `1000000`,
		`{"ask":"timecode","with":{"time":8400000}}`:                `"00:08.40 252"`,
		`{"ask":"bounds"}`: `[[-55,-62,-117],[95,56,47]]`,
		`{"ask":"field","with":{"focalLength":18,"aspect":2}}`: `[1,0.5]`,
	} {
		v, err := d.Ask([]byte(question))
		require.NoError(t, err, question)
		text, err := json.Marshal(v)
		require.NoError(t, err)
		assert.JSONEq(t, want, string(text), question)
	}
	for _, bad := range []string{`{"ask":"meaning"}`, `x`, `{"ask":"digest","time":1000000}`, `{"ask":"quantity","with":{"kind":"length","text":"far"}}`, `{"ask":"fit","with":{"nodes":5}}`} {
		_, err := d.Ask([]byte(bad))
		assert.Error(t, err, bad)
	}
}

// A hood screw sits at the side: its own +Z looks outwards along the
// assembly's −X or +X.
func TestWaysAreShownInTheWorld(t *testing.T) {
	d, _ := open(t)
	v, err := d.Ask([]byte(`{"ask":"ways","with":{"nodes":["housing/hood-screw-m3-8"]}}`))
	require.NoError(t, err)
	ways := v.(compose.Ways)
	require.Len(t, ways.Ways, 18)
	for _, w := range ways.Ways {
		if w.Label == "+Z" && w.Axes == reveal.OwnAxes {
			assert.InDelta(t, -1, w.World[0], 1e-9)
		}
		if w.Label == "+Z" && w.Axes == reveal.AssemblyAxes {
			assert.InDelta(t, 1, w.World[2], 1e-9)
		}
	}
	assert.InDelta(t, 10, ways.Distance, 1e-9)
}

func TestNothingWorksOnAnEmptyDesk(t *testing.T) {
	d := new(editor.Editor)
	d.At(0)
	d.AtRest()
	_, err := d.OpenReveal(nil)
	assert.Error(t, err)
	_, err = d.Apply(nil)
	assert.Error(t, err)
	_, err = d.Settle()
	assert.Error(t, err)
	assert.Error(t, d.OpenAssembly([]byte(`{"nodes":[]}`)))
}

// Dragged along a line: the point of the line nearest to the line of sight.
func TestTheHandDragsAlongALine(t *testing.T) {
	d, _ := open(t)
	answer, err := d.Ask([]byte(`{"ask":"drag","with":{"point":[1,2,3],"along":[0,0,2],"ray":[[100,2,13],[-1,0,0]]}}`))
	require.NoError(t, err)
	assert.InDelta(t, 10, answer, 1e-12)
	// Of two lines that pass each other, by brute force.
	answer, err = d.Ask(
		[]byte(`{"ask":"drag","with":{"point":[0,0,0],"along":[1,1,0],"ray":[[5,-3,40],[0.1,0.2,-1]]}}`),
	)
	require.NoError(t, err)
	best, at := math.Inf(1), 0.0
	for s := -20.0; s < 20; s += 0.01 {
		for u := 30.0; u < 50; u += 0.01 {
			n := math.Sqrt(0.01 + 0.04 + 1)
			x, y, z := 5+0.1*u/n-s/math.Sqrt2, -3+0.2*u/n-s/math.Sqrt2, 40-u/n
			if far := x*x + y*y + z*z; far < best {
				best, at = far, s
			}
		}
	}
	assert.InDelta(t, at, answer, 0.02)
	_, err = d.Ask([]byte(`{"ask":"drag","with":{"along":[0,0,1],"ray":[[0,0,9],[0,0,-1]]}}`))
	assert.ErrorContains(t, err, "end on")
}

func TestAMovementSaysWhereItLeads(t *testing.T) {
	d, s := open(t)
	var id reveal.CueID
	for _, b := range s.Schedule.Bars {
		if b.Kind == reveal.KindPull && id == "" {
			id = b.Cue
		}
	}
	ask := func(at int) editor.Reach {
		answer, err := d.Ask([]byte(fmt.Sprintf(`{"ask":"reach","with":{"cue":%q,"time":%d}}`, id, at)))
		require.NoError(t, err)
		return *answer.(*editor.Reach)
	}
	before, after := ask(0), ask(20_000_000)
	assert.NotEqual(t, before.From, before.To, "it says so before it has begun")
	assert.Equal(t, before.To[2]-before.From[2], after.To[2]-after.From[2])
	none, err := d.Ask([]byte(`{"ask":"reach","with":{"cue":"nobody"}}`))
	require.NoError(t, err)
	assert.Nil(t, none)
}

// Bars dragged on the film alone show what carrying the drag out would show, on the
// way and after it.
func TestADragShowsWhatItsEndWillBe(t *testing.T) {
	random := rand.New(rand.NewPCG(3, 9))
	quick := 0
	n := 60
	if testing.Short() {
		n = 16
	}
	for range n {
		d, s := open(t)
		var ids []reveal.CueID
		for _, step := range s.Reveal.Steps {
			for _, c := range step.Cues {
				if c.Kind != reveal.KindNote && random.IntN(6) == 0 {
					ids = append(ids, c.ID)
				}
			}
		}
		if len(ids) == 0 {
			continue
		}
		c := edit.Command{Op: edit.ShiftCues, CueIDs: ids}
		if random.IntN(2) == 0 {
			c.Op, c.Edge = edit.StretchCue, []edit.Edge{edit.Start, edit.End}[random.IntN(2)]
		}
		var shown editor.State
		for range 3 {
			c.By = reveal.Micros(random.IntN(3_000_000) - 1_500_000)
			text, err := json.Marshal(c)
			require.NoError(t, err)
			shown, err = d.Preview(text)
			require.NoError(t, err)
		}
		at := reveal.Micros(random.IntN(51_000_000))
		d.At(at)
		matrices, opacities, camera := slices.Clone(d.Matrices), slices.Clone(d.Opacities), d.Camera
		_, err := d.Settle()
		require.NoError(t, err)
		operation := compose.Operation{Do: compose.Shift, CueIDs: ids, By: c.By, Edge: c.Edge}
		if c.Op == edit.StretchCue {
			operation.Do = compose.Stretch
		}
		made, err := compose.Apply(&compose.Subject{Reveal: s.Reveal}, operation)
		require.NoError(t, err)
		leaves := slices.ContainsFunc(made.Command.Commands, func(c edit.Command) bool { return c.Op == edit.MoveCue })
		text, err := json.Marshal(made.Command)
		require.NoError(t, err)
		patched, err := d.Apply(text)
		require.NoError(t, err)
		full, err := d.Settle() // compiles anew
		for _, m := range patched.Bars {
			assert.Equal(t, full.Schedule.Bars[m.Index].Start, m.Bar.Start)
			assert.Equal(t, full.Schedule.Bars[m.Index].Duration, m.Bar.Duration)
		}
		for _, c := range patched.Steps {
			assert.Equal(t, full.Schedule.Steps[c.Index], c.Span)
		}
		require.NoError(t, err)
		after := full
		for _, m := range shown.Bars {
			if leaves { // it lies in another step then, with other runs backwards; its own bar is where it was seen
				if k := slices.IndexFunc(after.Schedule.Bars, func(b film.Bar) bool { return b.Cue == m.Bar.Cue && !b.Retraced }); !m.Bar.Retraced {
					assert.Equal(t, after.Schedule.Bars[k].Start, m.Bar.Start)
					assert.Equal(t, after.Schedule.Bars[k].Duration, m.Bar.Duration)
				}
				continue
			}
			quick++
			assert.Equal(t, after.Schedule.Bars[m.Index].Start, m.Bar.Start)
			assert.Equal(t, after.Schedule.Bars[m.Index].Duration, m.Bar.Duration)
		}
		if leaves {
			continue
		}
		d.At(at)
		require.Equal(t, d.Matrices, matrices)
		require.Equal(t, d.Opacities, opacities)
		require.Equal(t, d.Camera, camera)
	}
	assert.Greater(t, quick, n/2, "most drags need no compiling")
}

func TestTheOrderOfPartsIsThatOfTheMomentShown(t *testing.T) {
	d, _ := open(t)
	index := demo.Pump().Assembly.Index()
	knob := int32(index["housing/dosing-knob"])
	panel := int32(index["housing/front-panel"])
	base := int32(index["housing/base"])
	order := []int32{knob, panel, base}
	front := look.Eye{At: space.Vec{Z: 400}, Ahead: space.Vec{Z: -1}}
	assert.False(t, d.Order(order, front), "nothing has been shown yet")
	d.At(34 * reveal.Second)
	require.True(t, d.Order(order, front))
	assert.Equal(t, []int32{base, panel, knob}, order)
	require.True(t, d.Order(order, look.Eye{At: space.Vec{Z: -400}, Ahead: space.Vec{Z: 1}}))
	assert.Equal(t, []int32{knob, panel, base}, order)
	for _, bad := range []int32{-1, 9999} {
		strange := []int32{knob, bad, base}
		assert.False(t, d.Order(strange, front))
		assert.Equal(t, []int32{knob, bad, base}, strange)
	}
}

func TestTheVersionTellsPicturesApart(t *testing.T) {
	d, s := open(t)
	show := func(at reveal.Micros) int32 { d.At(at); return d.Version }
	begin := show(0)
	assert.Equal(t, begin, show(0))
	assert.Equal(t, begin, show(100_000), "nothing moves yet")
	opening := show(2 * reveal.Second)
	assert.NotEqual(t, begin, opening)
	assert.NotEqual(t, opening, show(0), "it is shown anew")
	// Every picture in which something stands elsewhere has another version.
	last, version := append([]float32(nil), d.Matrices...), d.Version
	for at := reveal.Micros(0); at < s.Schedule.Duration; at += reveal.Second / 2 {
		d.At(at)
		if !slices.Equal(last, d.Matrices) {
			assert.NotEqual(t, version, d.Version, "at %d", at)
		}
		last, version = append(last[:0], d.Matrices...), d.Version
	}
	before := show(20 * reveal.Second)
	_, err := d.Apply([]byte(`{"op":"setTitle","title":"other"}`))
	require.NoError(t, err)
	assert.Equal(t, before, show(20*reveal.Second), "a title is not in the picture")
	d.AtRest()
	assert.NotEqual(t, before, d.Version)
	assert.Zero(
		t,
		testing.AllocsPerRun(10, func() { d.Version++; d.ContactShadow() }),
		"the page's arrays stay where they are",
	)
}

// Whatever is asked, and of whatever time: what is on the stage stays as it is, to the last number, and so
// do the shadow and the order that are found of it.
func TestAQuestionMovesNothingOnTheStage(t *testing.T) {
	d, _ := open(t)
	nodes := []int32{5, 20, 33, 48}
	eye := look.Eye{At: space.Vec{X: 400, Y: 300, Z: 500}, Ahead: space.Vec{X: -0.5, Y: -0.4, Z: -0.7}}
	// seen is everything that the page reads.
	seen := func() []any {
		order := slices.Clone(nodes)
		require.True(t, d.Order(order, eye))
		return []any{
			slices.Clone(d.Matrices),
			slices.Clone(d.Opacities),
			slices.Clone(d.Tints),
			slices.Clone(d.Surfaces),
			slices.Clone(d.Flow),
			d.Camera,
			d.Version,
			slices.Clone(d.ContactShadow()),
			order,
		}
	}
	for _, at := range []reveal.Micros{12_400_000, 31_000_000} {
		d.At(at)
		before := seen()
		for _, q := range []string{
			`{"ask":"reach","with":{"cue":"cue-19","time":20000000}}`, `{"ask":"notes","with":{"time":3000000}}`, `{"ask":"cards","with":{"time":50000000}}`, `{"ask":"compose","with":{"do":"openHere","time":44000000}}`,
			`{"ask":"digest","with":{"time":25000000}}`, `{"ask":"place","with":{"time":9000000}}`, `{"ask":"ways","with":{"nodes":["pump-head/rotor"]}}`, `{"ask":"fit","with":{"nodes":[],"from":{"target":[0,0,0],"orientation":[0,0,0,1],"distance":1,"focalLength":50},"aspect":1.7,"margin":0.2}}`,
			`{"ask":"compose","with":{"do":"spread","fresh":"x","nodes":["pump-head/rotor","drive"],"distance":20}}`, `{"ask":"timecode","with":{"time":1000000}}`, `{"ask":"bounds"}`, `{"ask":"shadow"}`,
			`{"ask":"edgeAt","with":{"node":"drive","lines":[],"point":[0,0,0],"distance":1}}`,
		} {
			_, err := d.Ask([]byte(q))
			require.NoError(t, err, q)
			assert.True(t, reflect.DeepEqual(before, seen()), "%s moved something", q)
		}
	}
}

func TestAClosedDeskHoldsNothing(t *testing.T) {
	d := &editor.Editor{}
	text, err := assembly.Pack(demo.Pump().Assembly)
	require.NoError(t, err)
	require.NoError(t, d.OpenAssembly(text))
	d.AtRest()
	d.Close()
	assert.Empty(t, d.Matrices)
	assert.Nil(t, d.ContactShadow())
	_, err = d.Ask([]byte(`{"ask":"bounds"}`))
	assert.Error(t, err)
}
