package removal_test

import (
	"context"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/plan"
	"slowreveal/core/proof"
	"slowreveal/core/removal"
	"slowreveal/core/reveal"
	"slowreveal/core/solid"
	"slowreveal/core/solid/simple"
	"slowreveal/core/space"
	"slowreveal/demo"
)

// filmOf is the film of a plan, proven: nothing goes into anything.
func filmOf(t *testing.T, s removal.Subject, p plan.Plan) proof.Overlaps {
	t.Helper()
	doc, err := plan.Film(&p, s.Assembly, "Plan", plan.Writing{Fresh: "plan"})
	require.NoError(t, err)
	require.NoError(t, reveal.Validate(doc, s.Assembly))
	found, err := proof.Interference(context.Background(), film.Compile(s.Assembly, doc), s.Shapes, proof.Settings{})
	require.NoError(t, err)
	assert.Empty(t, found.List, "a plan that is accepted as it is has no interference")
	return found
}

func names(moves []plan.Move) (list []string) {
	for _, m := range moves {
		var nodes []string
		for _, n := range m.Nodes {
			nodes = append(nodes, string(n))
		}
		list = append(list, strings.Join(nodes, "+"))
	}
	return list
}

// In a shaft that is open at the top only what lies on top can leave.
func TestAStackInAShaftLeavesFromTheTop(t *testing.T) {
	walls := without(bar(cell{-1, -1, -1}, cell{1, 4, 1}), bar(cell{0, 0, 0}, cell{0, 4, 0}))
	p := puzzle{
		"shaft": walls,
		"one":   bar(cell{}, cell{}),
		"two":   bar(cell{0, 1, 0}, cell{0, 1, 0}),
		"three": bar(cell{0, 2, 0}, cell{0, 2, 0}),
		"four":  bar(cell{0, 3, 0}, cell{0, 3, 0}),
	}
	s := p.subject(t)
	got := planned(t, s, plan.Choices{})
	assert.Equal(t, []string{"four", "three", "two", "one"}, names(got.Moves))
	_, _, err := p.works(got.Moves)
	assert.NoError(t, err)
	filmOf(t, s, got)
	assert.Equal(t, []string{"Up is its only way out: 30 mm until it is clear."}, got.Moves[1].Why[1:])
}

// A box with a lid in a box with a lid: from the outside in.
func TestBoxesInBoxesOpenFromTheOutside(t *testing.T) {
	inner := bar(cell{}, cell{2, 2, 2})
	outer := bar(cell{-1, -1, -1}, cell{3, 3, 3})
	p := puzzle{
		"ball":      bar(cell{1, 1, 1}, cell{1, 1, 1}),
		"inner":     without(inner, bar(cell{1, 1, 1}, cell{1, 2, 1}), bar(cell{0, 2, 0}, cell{2, 2, 2})),
		"inner-lid": bar(cell{0, 2, 0}, cell{2, 2, 2}),
		"outer": without(
			outer,
			inner,
			bar(cell{-1, 3, -1}, cell{3, 3, 3}),
		),
		"outer-lid": bar(cell{-1, 3, -1}, cell{3, 3, 3}),
	}
	s := p.subject(t)
	got := planned(t, s, plan.Choices{Stays: []assembly.NodeID{"outer"}})
	order := names(got.Moves)
	assert.Equal(t, "outer-lid", order[0])
	assert.Len(t, order, 4)
	assert.Less(t, slices.Index(order, "inner-lid"), slices.Index(order, "ball"))
	left, _, err := p.works(got.Moves)
	assert.NoError(t, err)
	assert.Len(t, left, 4)
	filmOf(t, s, got)
}

// The drawer leaves to the front only, behind the door; the door is let into the cabinet and leaves to the front as
// well.
func TestADrawerWaitsForItsDoor(t *testing.T) {
	p := puzzle{
		"cabinet": without(bar(cell{-1, -1, -1}, cell{2, 2, 4}), bar(cell{0, 0, 0}, cell{1, 1, 4})),
		"drawer":  bar(cell{0, 0, 0}, cell{1, 1, 3}),
		"door":    bar(cell{0, 0, 4}, cell{1, 1, 4}),
	}
	s := p.subject(t)
	got := planned(t, s, plan.Choices{})
	assert.Equal(t, []string{"door", "drawer"}, names(got.Moves))
	assert.Equal(t, "Pull off the drawer to the front: after 50 mm it is clear.", got.Moves[1].Instruction)
	filmOf(t, s, got)
	// At the drawer: the door is all that has to leave.
	reach := planned(t, s, plan.Choices{Reach: "drawer"})
	assert.Equal(t, []string{"door", "drawer"}, names(reach.Moves))
}

// A bar with a head goes through a ring and a plate, and a key through the bar: counted in cubes, only the key can
// leave while all are there.
func TestOnlyTheKeyOpensWhatInterlocks(t *testing.T) {
	hole := bar(cell{0, 0, -9}, cell{0, 0, 9})
	p := puzzle{
		"plate": without(bar(cell{-3, -3, 0}, cell{3, 3, 0}), hole),
		"ring":  without(bar(cell{-1, -1, 1}, cell{1, 1, 1}), hole),
		"bar": append(
			without(bar(cell{0, 0, 0}, cell{0, 0, 3}), bar(cell{0, 0, 2}, cell{0, 0, 2})),
			bar(cell{-1, -1, -1}, cell{1, 1, -1})...),
		"key": bar(cell{-2, 0, 2}, cell{2, 0, 2}),
	}
	p["bar"] = append(p["bar"], bar(cell{0, 1, 2}, cell{0, 1, 3})...) // what holds the end of the bar, beside the key
	p["bar"] = append(p["bar"], bar(cell{0, -1, 2}, cell{0, -1, 3})...)
	p["ring"] = without(p["ring"], bar(cell{0, 1, 1}, cell{0, 1, 1}), bar(cell{0, -1, 1}, cell{0, -1, 1}))
	p["bar"] = append(p["bar"], bar(cell{0, 1, 1}, cell{0, 1, 1})...)
	p["bar"] = append(p["bar"], bar(cell{0, -1, 1}, cell{0, -1, 1})...)
	p["plate"] = without(p["plate"], bar(cell{0, -1, 0}, cell{0, 1, 0}))
	p["bar"] = append(p["bar"], bar(cell{0, 1, 0}, cell{0, 1, 0})...)
	p["bar"] = append(p["bar"], bar(cell{0, -1, 0}, cell{0, -1, 0})...)
	p["ring"] = append(p["ring"], bar(cell{-1, -2, 1}, cell{1, -2, 1})...)
	p["ring"] = append(p["ring"], bar(cell{-1, 2, 1}, cell{1, 2, 1})...)
	var first []string
	for _, name := range p.names() {
		var there []cell
		for _, other := range p.names() {
			if other != name {
				there = append(there, p[other]...)
			}
		}
		if slices.ContainsFunc(six, func(d cell) bool { return clear(p[name], there, d, beyond) }) {
			first = append(first, name)
		}
	}
	require.Equal(t, []string{"key"}, first)
	s := p.subject(t)
	got := planned(t, s, plan.Choices{Stays: []assembly.NodeID{"plate"}})
	left, _, err := p.works(got.Moves)
	assert.NoError(t, err)
	require.Len(t, left, 3)
	assert.Equal(t, "key", left[0])
	filmOf(t, s, got)
}

// Two closed rings, each through the other: no order of straight moves and turns frees them, and that is said.
func TestRingsThatHoldEachOtherAreSaidToBeStuck(t *testing.T) {
	ring := func(a, b, c, d cell) []cell { return without(bar(a, b), bar(c, d)) }
	p := puzzle{
		"one": ring(cell{0, 0, 0}, cell{6, 0, 4}, cell{1, 0, 1}, cell{5, 0, 3}),
		"two": ring(cell{5, -3, 2}, cell{11, 3, 2}, cell{6, -2, 2}, cell{10, 2, 2}),
	}
	p["two"] = moved(p["two"], cell{-2, 0, 0})
	got := planned(t, p.subject(t), plan.Choices{})
	assert.Empty(t, got.Moves)
	require.Len(t, got.Stuck, 1)
	assert.Contains(t, got.Stuck[0].Says, "in every direction that was tried")
}

// A key with a bar across it hangs below a slot that runs the other way: it has to be turned by a quarter, and drawn
// out.
func TestABayonetIsTurnedAndDrawnOut(t *testing.T) {
	plate := without(bar(cell{-4, 0, -4}, cell{4, 0, 4}), bar(cell{-3, 0, 0}, cell{3, 0, 0}))
	case_ := append(without(bar(cell{-5, -5, -5}, cell{5, 0, 5}), bar(cell{-4, -4, -4}, cell{4, 0, 4})), plate...)
	round := func(m solid.Mesh, by float32, at space.Vec) solid.Mesh { // a little thinner than the slot
		for i := 0; i < len(m.Positions); i += 3 {
			m.Positions[i] = m.Positions[i]*by + float32(at.X)
			m.Positions[i+1] = m.Positions[i+1] + float32(at.Y)
			m.Positions[i+2] = m.Positions[i+2]*by + float32(at.Z)
		}
		return m
	}
	key := round(simple.Block(6, 50, 6), 1, space.Vec{X: 2, Y: -20, Z: 2})
	across := round(simple.Block(6, 6, 50), 1, space.Vec{X: 2, Y: -20, Z: -20})
	for _, v := range across.Triangles {
		key.Triangles = append(key.Triangles, v+8)
	}
	key.Positions = append(key.Positions, across.Positions...)
	s := subject(t, map[string]solid.Mesh{"case": mesh(case_), "key": key})
	got := planned(t, s, plan.Choices{Stays: []assembly.NodeID{"case"}})
	require.Len(t, got.Moves, 1)
	require.NotNil(t, got.Moves[0].Swing)
	assert.InDelta(t, 90, abs(got.Moves[0].Swing.Degrees), 31, "about a quarter: what the play of the slot allows")
	assert.Contains(t, got.Moves[0].Instruction, "Turn the key")
	filmOf(t, s, got)
}

func abs(x float64) float64 { return max(x, -x) }

// A hook goes out of its eye sideways, and then up.
func TestAHookLeavesAlongTwoLegs(t *testing.T) {
	p := puzzle{
		"base": append(
			bar(cell{0, 0, 0}, cell{8, 0, 2}),
			append(bar(cell{0, 1, 0}, cell{0, 3, 2}), bar(cell{1, 3, 0}, cell{2, 3, 2})...)...),
		"block": bar(cell{1, 1, 0}, cell{3, 2, 2}),
		"stop":  bar(cell{7, 1, 0}, cell{8, 3, 2}),
	}
	p["base"] = append(
		p["base"],
		append(p["stop"], append(bar(cell{0, 0, -1}, cell{8, 3, -1}), bar(cell{0, 0, 3}, cell{8, 3, 3})...)...)...)
	delete(p, "stop")
	s := p.subject(t)
	got := planned(t, s, plan.Choices{})
	require.Len(t, got.Moves, 1)
	assert.Equal(t, []string{"block"}, names(got.Moves))
	assert.GreaterOrEqual(t, len(got.Moves[0].Paths[0].Legs), 2)
	filmOf(t, s, got)
}

// What was put together comes apart: 500 assemblies of chance, each move counted cube by cube.
func TestWhatWasPutTogetherComesApart(t *testing.T) {
	n := 500
	if testing.Short() {
		n = 60
	}
	moves, slanting := 0, 0
	for seed := range n {
		random := rand.New(rand.NewPCG(uint64(seed), 23))
		p := grown(random, 4+random.IntN(4))
		got := planned(t, p.subject(t), plan.Choices{})
		left, aslant, err := p.works(got.Moves)
		moves, slanting = moves+len(got.Moves), slanting+aslant
		require.NoError(t, err, "seed %d: %v", seed, names(got.Moves))
		require.Len(t, left, len(p)-1, "seed %d: %v", seed, got.Stuck)
	}
	assert.Less(t, float64(slanting), 0.02*float64(moves), "of %d moves", moves)
}

// Against all orders that there are, the least number of removals.
func TestGettingAtAPartTakesTheLeastRemovals(t *testing.T) {
	for seed := range 60 {
		random := rand.New(rand.NewPCG(uint64(seed), 5))
		p := grown(random, 7)
		for _, target := range []string{"part-1", "part-3"} {
			want := p.least(target, "part-0")
			got := planned(
				t,
				p.subject(t),
				plan.Choices{Reach: assembly.NodeID(target), Stays: []assembly.NodeID{"part-0"}},
			)
			left, _, err := p.works(got.Moves)
			require.NoError(t, err, "seed %d", seed)
			require.Len(t, left, want, "seed %d: %s by way of %v", seed, target, left)
			require.Equal(t, target, left[len(left)-1])
		}
	}
}

// The example: all of it, in words, and nothing goes into anything.
func TestTheExamplesTeardown(t *testing.T) {
	s := of(t, demo.Pump())
	got := planned(t, s, plan.Choices{})
	order := strings.Join(names(got.Moves), " ")
	for _, pair := range [][2]string{{"cover-screw", "pump-head/rotor-cover"}, {"hood-screw", "housing/hood "}, {"pump-head/hinge-pin", "pump-head/door "}, {"flange-screw", "drive/motor-flange"}, {"track-screw", "pump-head/track-block"},
		{"rotor-cover", "pump-head/tube"}, {"pump-head/door", "rotor-cover"}, {"panel-screw", "housing/front-panel"}} {
		a, b := strings.Index(order, pair[0]), strings.Index(order+" ", pair[1])
		require.True(t, a >= 0 && b >= 0, "%v in %s", pair, order)
		assert.Less(t, a, b, "%s before %s", pair[0], pair[1])
	}
	filmOf(t, s, got)
	words := map[string]plan.Move{}
	for _, m := range got.Moves {
		words[m.Title] = m
	}
	hood := words["Undo the four hood screws"]
	assert.Equal(t, "Undo the four hood screws M3 × 8 at the sides with a 2.5 mm hex key, crosswise.", hood.Instruction)
	assert.Equal(t, []string{"Hex key 2.5 mm"}, hood.Tools)
	assert.Contains(t, words["Lift off the hood"].Instruction, "straight up")
	assert.LessOrEqual(t, len(got.Stuck), 2)
}

// What is left out stays, and all the rest leaves around it: the panel that it sits in has to be tilted.
func TestWhatIsLeftOutStays(t *testing.T) {
	s := of(t, demo.Pump())
	got := planned(t, s, plan.Choices{Without: []assembly.NodeID{"housing/display"}})
	for _, m := range got.Moves {
		for _, n := range m.Nodes {
			assert.False(t, strings.HasPrefix(string(n), "housing/display"), n)
		}
	}
	last := got.Moves[len(got.Moves)-1]
	assert.Equal(t, []assembly.NodeID{"housing/front-panel"}, last.Nodes)
	filmOf(t, s, got)
}

// Where nothing goes down, the feet go another way; what is preferred is taken.
func TestDirectionsAreRuledOutAndPreferred(t *testing.T) {
	p := puzzle{"base": bar(cell{0, 0, 0}, cell{4, 0, 4}), "block": bar(cell{1, 1, 1}, cell{3, 3, 3})}
	s := p.subject(t)
	way := func(c plan.Choices) space.Vec3 {
		c.Stays = []assembly.NodeID{"base"}
		got := planned(t, s, c)
		require.Len(t, got.Moves, 1)
		return got.Moves[0].Paths[0].Legs[0].Along
	}
	assert.Equal(t, space.Vec3{0, 1, 0}, way(plan.Choices{}))
	assert.NotEqual(t, space.Vec3{0, 1, 0}, way(plan.Choices{Avoid: []space.Vec3{{0, 1, 0}}}))
	assert.Equal(t, space.Vec3{1, 0, 0}, way(plan.Choices{Prefer: []space.Vec3{{1, 0, 0}}}))
	all := []space.Vec3{{1, 0, 0}, {-1, 0, 0}, {0, 1, 0}, {0, -1, 0}, {0, 0, 1}, {0, 0, -1}}
	assert.Equal(
		t,
		space.Vec3{0, 1, 0},
		way(plan.Choices{Avoid: all, Given: []plan.Given{{Nodes: []assembly.NodeID{"block"}}}}),
		"what the author wants goes all the same",
	)
	wide := planned(t, s, plan.Choices{Spacing: 77, Stays: []assembly.NodeID{"base"}})
	assert.InDelta(
		t,
		77,
		wide.Moves[0].Paths[0].Legs[0].Distance,
		1.5,
		"it stands on the base: the gap is as wide as was asked for",
	)
	assert.Equal(t, 77.0, wide.Spacing)
}

// What has left by hand before the plan begins stands in its way: the plan goes on around it.
func TestAPlanGoesAroundWhatHasLeftBefore(t *testing.T) {
	m := demo.Pump()
	s := of(t, m)
	p := plan.Plan{}
	doc, err := plan.Film(&p, m.Assembly, "Given", plan.Writing{Fresh: "given"})
	require.NoError(t, err)
	doc.Steps = []reveal.Step{{ID: "a", Title: "A", Duration: 2 * reveal.Second, Cues: []reveal.Cue{
		{
			ID:       "knob",
			Kind:     reveal.KindPull,
			Targets:  []assembly.NodeID{"housing/dosing-knob"},
			Duration: reveal.Second,
			Easing:   reveal.Smooth,
			Pull:     &reveal.Pull{Axes: reveal.AssemblyAxes, Along: space.Vec3{0, 0, 1}, Distance: 60},
		},
		{
			ID:       "hood",
			Kind:     reveal.KindPull,
			Targets:  []assembly.NodeID{"housing/hood"},
			Duration: reveal.Second,
			Easing:   reveal.Smooth,
			Pull:     &reveal.Pull{Axes: reveal.AssemblyAxes, Along: space.Vec3{0, 1, 0}, Distance: 120},
		}}}}
	f := film.Compile(m.Assembly, doc)
	fr := f.NewFrame()
	f.At(f.Duration(), fr)
	s.At.World, s.At.Opacity = fr.World, fr.Opacity
	got := planned(t, s, plan.Choices{})
	assert.Greater(t, len(got.Moves), 30)
	written := plan.Insert(&got, m.Assembly, doc, f.Duration(), plan.Writing{Fresh: "new"})
	for _, c := range written.Command.Commands {
		doc.Steps = append(doc.Steps, *c.Step)
	}
	require.NoError(t, reveal.Validate(doc, m.Assembly))
	found, err := proof.Interference(context.Background(), film.Compile(m.Assembly, doc), m.Shapes, proof.Settings{})
	require.NoError(t, err)
	for _, o := range found.List {
		for _, c := range o.Cues {
			assert.False(t, strings.HasPrefix(string(c), "new"), "%s goes into %s by %s", o.Moving, o.Still, c)
		}
	}
}

// Parts that fade away need not go far: none of the example's farther than it must to be clear, and a gap.
func TestPartsThatFadeAwayGoNoFartherThanTheyMust(t *testing.T) {
	s := of(t, demo.Pump())
	far := func(p plan.Plan) (sum float64) {
		for _, m := range p.Moves {
			if m.Carried < 0 {
				sum += m.Paths[0].Legs[0].Distance
			}
		}
		return sum
	}
	stand, fade := planned(t, s, plan.Choices{}), planned(t, s, plan.Choices{Fade: true})
	assert.Less(t, far(fade), 0.5*far(stand))
	filmOf(t, s, fade)
}
