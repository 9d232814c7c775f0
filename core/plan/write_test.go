package plan_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/edit"
	"slowreveal/core/film"
	"slowreveal/core/plan"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/demo"
)

func leg(x, y, z, mm float64) plan.Path {
	return plan.Path{Legs: []reveal.Leg{{Along: space.Vec3{x, y, z}, Distance: mm}}}
}

// three is a plan by hand: two screws on opposite sides, what they hold, and a part of that.
func three() plan.Plan {
	return plan.Plan{Moves: []plan.Move{
		{
			Nodes:       []assembly.NodeID{"housing/hood-screw-m3-8", "housing/hood-screw-m3-8~3"},
			Paths:       []plan.Path{leg(-1, 0, 0, 20), leg(1, 0, 0, 20)},
			Carried:     -1,
			Fastener:    "screw",
			Title:       "Undo two screws",
			Instruction: "Undo them.",
			Tools:       []string{"Hex key 2.5 mm"},
			Thread: &plan.Thread{
				Turns: 12,
				Lead:  0.5,
				Along: space.Vec3{0, 0, 1},
			},
			Beside: []assembly.NodeID{"housing/hood"},
		},
		{
			Nodes:       []assembly.NodeID{"pump-head/door"},
			Paths:       []plan.Path{leg(0, 0, 1, 80)},
			Carried:     -1,
			Title:       "Pull off the door",
			Instruction: "Pull it off.",
		},
		{
			Nodes:       []assembly.NodeID{"pump-head/door/door-gasket"},
			Paths:       []plan.Path{leg(0, 1, 0, 15)},
			Carried:     1,
			Title:       "Pull off the gasket",
			Instruction: "Pull it off.",
		},
	}}
}

func written(
	t *testing.T,
	doc *reveal.Reveal,
	at reveal.Micros,
	w plan.Writing,
) (*assembly.Assembly, *film.Film, plan.Written) {
	a := demo.Pump().Assembly
	p := three()
	w.Fresh = "new"
	out := plan.Insert(&p, a, doc, at, w)
	_, err := edit.Do(doc, a, out.Command)
	require.NoError(t, err)
	return a, film.Compile(a, doc), out
}

func blank(t *testing.T) *reveal.Reveal {
	doc, err := plan.Film(
		&plan.Plan{Moves: three().Moves[:1]},
		demo.Pump().Assembly,
		"Given",
		plan.Writing{Fresh: "given"},
	)
	require.NoError(t, err)
	doc.Steps = nil
	return doc
}

// shift is how far a node has gone in the end, in the world, mm.
func shift(a *assembly.Assembly, f *film.Film, id assembly.NodeID, at reveal.Micros) space.Vec {
	fr := f.NewFrame()
	f.At(at, fr)
	i := a.Index()[id]
	rest := a.Worlds()[i].T
	return space.Vec{X: fr.World[i].T.X - rest.X, Y: fr.World[i].T.Y - rest.Y, Z: fr.World[i].T.Z - rest.Z}
}

func TestMovesBecomeStepsThatEndWhereTheyAreMeantTo(t *testing.T) {
	doc := blank(t)
	a, f, out := written(t, doc, 0, plan.Writing{Fineness: plan.EachMove, NoShots: true})
	assert.Equal(t, [][]int{{0}, {1}, {2}}, out.Steps)
	require.Len(t, doc.Steps, 3)
	end := f.Duration()
	for id, want := range map[assembly.NodeID]space.Vec{"housing/hood-screw-m3-8": {X: -20}, "housing/hood-screw-m3-8~3": {X: 20}, "pump-head/door": {Z: 80}, "pump-head/door/door-gasket": {Y: 15, Z: 80}, "housing/hood": {}} {
		got := shift(a, f, id, end)
		assert.InDelta(t, want.X, got.X, 1e-3, id)
		assert.InDelta(t, want.Y, got.Y, 1e-3, id)
		assert.InDelta(t, want.Z, got.Z, 1e-3, id)
	}
	assert.Equal(t, []string{"Hex key 2.5 mm"}, doc.Steps[0].Tools)
	kinds := map[reveal.Kind]int{}
	for _, c := range doc.Steps[0].Cues {
		kinds[c.Kind]++
	}
	assert.Equal(t, 1, kinds[reveal.KindUnscrew], "in their own axes both go out with one cue")
	assert.Equal(t, 1, kinds[reveal.KindPull])
	for _, s := range doc.Steps {
		assert.GreaterOrEqual(t, s.Duration, s.Done(), "its cues end in it")
	}
}

// No eye sees screws on opposite sides: the camera goes to one side, they are undone, and then to the other.
func TestEachSideIsLookedAtByItself(t *testing.T) {
	doc := blank(t)
	a, f, _ := written(t, doc, 0, plan.Writing{Fineness: plan.EachMove})
	var kinds []reveal.Kind
	for _, c := range doc.Steps[0].Cues {
		kinds = append(kinds, c.Kind)
	}
	side := []reveal.Kind{reveal.KindShot, reveal.KindUnscrew, reveal.KindPull}
	assert.Equal(t, append(side, side...), kinds)
	fr := f.NewFrame()
	for _, b := range f.Schedule.Bars {
		if b.Kind != reveal.KindUnscrew {
			continue
		}
		out := space.Vec{X: -1}
		if b.Targets[0] == "housing/hood-screw-m3-8~3" {
			out.X = 1
		}
		f.At(b.Start, fr)
		eye := film.Eye(fr.Camera)
		towards := r3.Dot(out, r3.Unit(r3.Sub(eye.T, fr.World[a.Index()[b.Targets[0]]].T)))
		assert.Greater(t, towards, 0.0, "the camera stands on the side of %s", b.Targets[0])
	}
}

func TestAPlanGoesOnBehindTheStepThatRuns(t *testing.T) {
	doc := blank(t)
	doc.Steps = []reveal.Step{
		{ID: "a", Title: "A", Duration: 2 * reveal.Second},
		{ID: "b", Title: "B", Duration: 2 * reveal.Second},
	}
	written(t, doc, reveal.Second, plan.Writing{Fineness: plan.EachMove, NoShots: true})
	var order []reveal.StepID
	for _, s := range doc.Steps {
		order = append(order, s.ID)
		for _, c := range s.Cues {
			assert.NotEqual(t, reveal.KindShot, c.Kind)
		}
	}
	assert.Equal(t, []reveal.StepID{"a", "new-1", "new-2", "new-3", "b"}, order)
}

func TestAllAtOnceEndsWhereTheStepsDo(t *testing.T) {
	for _, how := range []plan.AllAtOnce{plan.Together, plan.Layers} {
		doc := blank(t)
		a, f, out := written(t, doc, 0, plan.Writing{AllAtOnce: how, Duration: 4 * reveal.Second})
		require.Len(t, doc.Steps, 2)
		assert.Len(t, out.Steps, 1)
		apart := shift(a, f, "pump-head/door/door-gasket", 4*reveal.Second)
		assert.InDelta(t, 15, apart.Y, 1e-3)
		assert.InDelta(t, 80, apart.Z, 1e-3)
		assert.Zero(t, shift(a, f, "pump-head/door/door-gasket", f.Duration()), "and back")
		halfway := shift(a, f, "pump-head/door/door-gasket", 2*reveal.Second)
		assert.True(t, halfway.Z > 0 && halfway.Z < 80.001)
	}
}

// All at once a part that has to be turned to leave is turned too: it stands in the end as after the steps.
func TestAllAtOnceTurnsWhatTheStepsTurn(t *testing.T) {
	for _, after := range []int{0, 1} {
		p := plan.Plan{Moves: []plan.Move{{
			Nodes: []assembly.NodeID{"pump-head/door"},
			Paths: []plan.Path{
				{
					Legs: []reveal.Leg{
						{Along: space.Vec3{0, 0, 1}, Distance: 30},
						{Along: space.Vec3{1, 0, 0}, Distance: 50},
					},
				},
			},
			Carried: -1,
			Swing:   &plan.Swing{About: space.Vec3{0, 1, 0}, Pivot: space.Vec3{-40, 0, 60}, Degrees: -70, After: after},
		}}}
		a := demo.Pump().Assembly
		end := func(w plan.Writing, at reveal.Micros) space.Rigid {
			doc := blank(t)
			w.Fresh = "new"
			_, err := edit.Do(doc, a, plan.Insert(&p, a, doc, 0, w).Command)
			require.NoError(t, err)
			f := film.Compile(a, doc)
			if at == 0 {
				at = f.Duration()
			}
			fr := f.NewFrame()
			f.At(at, fr)
			return fr.World[a.Index()["pump-head/door"]]
		}
		steps := end(plan.Writing{}, 0)
		once := end(plan.Writing{AllAtOnce: plan.Together, Duration: 4 * reveal.Second}, 4*reveal.Second)
		for i := range steps.R {
			assert.InDelta(t, steps.R[i], once.R[i], 1e-9)
		}
		assert.InDelta(t, 0, r3.Norm(r3.Sub(steps.T, once.T)), 1e-6)
	}
}

// What a move is written with when only it is accepted: what has taken it along comes before it.
func TestSomeMovesAlone(t *testing.T) {
	doc := blank(t)
	a, f, out := written(t, doc, 0, plan.Writing{Moves: []int{1, 2}, Fineness: plan.Few})
	assert.Equal(t, [][]int{{1, 2}}, out.Steps)
	assert.InDelta(t, 80, shift(a, f, "pump-head/door", f.Duration()).Z, 1e-3)
	assert.Zero(t, shift(a, f, "housing/hood-screw-m3-8", f.Duration()))
}

func TestMovesAreJoinedAndSplitByHand(t *testing.T) {
	_, _, out := written(
		t,
		blank(t),
		0,
		plan.Writing{Fineness: plan.EachMove, Join: []assembly.NodeID{"pump-head/door"}},
	)
	assert.Equal(t, [][]int{{0, 1}, {2}}, out.Steps)
	_, _, out = written(
		t,
		blank(t),
		0,
		plan.Writing{Fineness: plan.Few, Split: []assembly.NodeID{"pump-head/door/door-gasket"}},
	)
	assert.Equal(t, []int{2}, out.Steps[len(out.Steps)-1])
}

func TestPaceIsHowFastThingsGo(t *testing.T) {
	slow, fast := blank(t), blank(t)
	written(t, slow, 0, plan.Writing{})
	written(t, fast, 0, plan.Writing{Pace: 2})
	for i, c := range slow.Steps[0].Cues {
		assert.InDelta(t, float64(c.Duration)/2, float64(fast.Steps[0].Cues[i].Duration), 20_000)
	}
}

func TestWhereNothingLeavesTheFilmShowsItFromAllSides(t *testing.T) {
	a := demo.Pump().Assembly
	doc, err := plan.Film(&plan.Plan{}, a, "One", plan.Writing{Fresh: "one"})
	require.NoError(t, err)
	require.NoError(t, reveal.Validate(doc, a))
	assert.Len(t, doc.Steps, 2)
	assert.Equal(t, reveal.KindOrbit, doc.Steps[1].Cues[1].Kind)
}

// What has left fades away once all has been done with it: the door when its gasket is off.
func TestWhatHasLeftFadesAway(t *testing.T) {
	a := demo.Pump().Assembly
	p := three()
	p.Fade = true
	doc := blank(t)
	out := plan.Insert(&p, a, doc, 0, plan.Writing{Fineness: plan.EachMove, Fresh: "new"})
	_, err := edit.Do(doc, a, out.Command)
	require.NoError(t, err)
	faded := func(step int) (nodes []assembly.NodeID) {
		for _, c := range doc.Steps[step].Cues {
			if c.Kind == reveal.KindFade {
				nodes = append(nodes, c.Targets...)
			}
		}
		return nodes
	}
	assert.Equal(t, p.Moves[0].Nodes, faded(0))
	assert.Empty(t, faded(1))
	assert.Equal(t, []assembly.NodeID{"pump-head/door"}, faded(2))
	f := film.Compile(a, doc)
	fr := f.NewFrame()
	f.At(f.Duration(), fr)
	assert.Zero(t, fr.Opacity[a.Index()["pump-head/door/door-gasket"]])
}

// What the author says has to be minded is a notice of the step in which it counts first: of what is held by screws that
// in which these are undone, and said once.
func TestWhatHasToBeMindedIsNoticed(t *testing.T) {
	a := demo.Pump().Assembly
	a.Hazards = []assembly.NodeHazard{
		{Node: "housing/hood", Hazard: assembly.Heavy},
		{Node: "pump-head/door/door-gasket", Hazard: assembly.Sharp},
		{Node: "housing/hood-screw-m3-8", Hazard: assembly.Live},
		{Node: "pump-head/rotor", Hazard: assembly.Sprung},
	}
	require.NoError(t, a.Check())
	p := three()
	doc, err := plan.Film(&p, a, "Plan", plan.Writing{Fresh: "plan", Fineness: plan.EachMove})
	require.NoError(t, err)
	require.NoError(t, reveal.Validate(doc, a))
	var said []string
	for _, s := range doc.Steps {
		if s.Notice != nil {
			said = append(said, s.Title+" – "+string(s.Notice.Signal)+": "+s.Notice.Text)
		}
	}
	assert.Equal(t, []string{
		"Undo two screws – DANGER: “Hood screw M3 × 8” carries a voltage: switch the supply off, and make sure that it stays " +
			"off. “Hood” is heavy: hold it before it comes free.",
		// The gasket leaves with the door, and is in the hand from then on.
		"Pull off the door – CAUTION: “Door gasket” has sharp edges: wear gloves.",
	}, said)
	a.Hazards = nil
	doc, err = plan.Film(&p, a, "Plan", plan.Writing{Fresh: "plan"})
	require.NoError(t, err)
	for _, s := range doc.Steps {
		assert.Nil(t, s.Notice, "nothing is said that the author has not said")
	}
}
