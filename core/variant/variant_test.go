package variant_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/edit/edittest"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/core/variant"
	"slowreveal/demo"
)

// The reference of a variant is the product built without what is not in it, and directed there: nothing of variants is
// in that.
func TestAVariantIsTheProductBuiltWithoutItsParts(t *testing.T) {
	whole := demo.PumpB().Assembly
	doc := demo.Teardown(whole)
	built := taken(whole, "pump-head/heater")
	built.Variants = []assembly.Variant{{ID: "other", Name: "Another"}} // the director minds that there are some
	directed := demo.Teardown(built)
	last := directed.Steps[len(directed.Steps)-1].Cues
	card := last[len(last)-1].Card // it mentions the variant
	card.Title = strings.ReplaceAll(card.Title, variant.Mention, "Standard")

	a, r := variant.Of(whole, doc, "standard").Reduced()
	require.NoError(t, a.Check())
	require.NoError(t, reveal.Validate(r, a))
	assert.Equal(t, built.Parts(), a.Parts())
	assert.Len(t, r.Steps, len(directed.Steps))
	sameFrames(t, film.Compile(built, directed), film.Compile(a, r))
	for i := range r.Steps {
		assert.Equal(t, directed.Steps[i].Title, r.Steps[i].Title)
	}
}

// taken is an assembly without a node and what is in it, by hand.
func taken(a *assembly.Assembly, id assembly.NodeID) *assembly.Assembly {
	out := *a
	out.Nodes = nil
	place := map[assembly.NodeID]int{}
	for _, n := range a.Nodes {
		if n.ID == id || strings.HasPrefix(string(n.ID), string(id)+"/") {
			continue
		}
		if n.Parent >= 0 {
			n.Parent = place[a.Nodes[n.Parent].ID]
		}
		place[n.ID] = len(out.Nodes)
		out.Nodes = append(out.Nodes, n)
	}
	return &out
}

// sameFrames holds two films against one another, node by node, to the bit; b may have nodes that a has not.
func sameFrames(t *testing.T, a, b *film.Film) {
	t.Helper()
	require.Equal(t, a.Duration(), b.Duration())
	x, y, index := a.NewFrame(), b.NewFrame(), b.Assembly.Index()
	for k := range 41 {
		at := a.Duration() * reveal.Micros(k) / 40
		a.At(at, x)
		b.At(at, y)
		require.Equal(t, x.Camera, y.Camera, "at %d", at)
		require.Equal(t, x.Cards, y.Cards, "at %d", at)
		require.Len(t, y.Flow, len(x.Flow))
		require.True(t, slices.Equal(x.Flow, y.Flow), "flow lines at %d", at)
		for i := range a.Assembly.Nodes {
			o, there := index[a.Assembly.Nodes[i].ID]
			require.True(t, there)
			require.Equal(t, x.World[i], y.World[o], "%s at %d", a.Assembly.Nodes[i].ID, at)
			require.Equal(t, x.Opacity[i], y.Opacity[o], "%s at %d", a.Assembly.Nodes[i].ID, at)
			require.Equal(t, x.Tint[i], y.Tint[o])
		}
	}
}

// What the stage shows, where every node keeps its place, is what the files show, which have nothing of the others.
func TestStageAndFilesShowTheSame(t *testing.T) {
	whole := demo.PumpB().Assembly
	doc := demo.Teardown(whole)
	for _, v := range whole.Variants {
		shown := variant.Of(whole, doc, v.ID)
		a, r := shown.Reduced()
		stage, file := film.Compile(shown.Assembly, shown.Reveal), film.Compile(a, r)
		sameFrames(t, file, stage)
		x := stage.NewFrame()
		stage.At(stage.Duration()/2, x)
		for i, absent := range shown.Absent {
			if absent {
				assert.Zero(t, x.Opacity[i], "%s", whole.Nodes[i].ID)
			}
		}
	}
}

// block is a product of four parts: two of them stand in for one another.
func block() *assembly.Assembly {
	a := &assembly.Assembly{
		Name:     "block",
		Shapes:   []assembly.ShapeRef{{Hash: "s", Submeshes: 1, Min: space.Vec3{-1, -1, -1}, Max: space.Vec3{1, 1, 1}}},
		Finishes: []assembly.Finish{{Name: "grey", Opacity: 1}},
		Nodes: []assembly.Node{
			{ID: "block", Name: "Block", Parent: -1, Shape: -1, Pose: assembly.PoseOf(space.Identity)},
		},
	}
	for i, id := range []assembly.NodeID{"base", "round", "square", "lid"} {
		a.Nodes = append(a.Nodes, assembly.Node{
			ID: id, Name: string(id), Finishes: []int{0}, Pose: assembly.PoseOf(space.Translation(space.Vec{X: float64(4 * i)})),
		})
	}
	a.Variants = []assembly.Variant{
		{ID: "r", Name: "Round", Without: []assembly.NodeID{"square"}},
		{ID: "s", Name: "Square", Instead: []assembly.Exchange{{Of: "round", By: "square"}}},
		{ID: "n", Name: "Open", Without: []assembly.NodeID{"round", "square", "lid"}},
	}
	return a
}

func pulled(id string, targets ...assembly.NodeID) reveal.Cue {
	return reveal.Cue{
		ID: reveal.CueID(id), Kind: reveal.KindPull, Targets: targets, Duration: reveal.Second, Easing: reveal.Linear,
		Pull: &reveal.Pull{Axes: reveal.AssemblyAxes, Along: space.Vec3{0, 1, 0}, Distance: 10},
	}
}

// directed takes the lid off {variant}, then the middle, and puts both back.
func directed() *reveal.Reveal {
	r := reveal.New(
		"Take {variant} apart",
		reveal.Camera{Orientation: space.NoRotation, Distance: 100, FocalLength: 50},
	)
	note := reveal.Cue{
		ID: "note", Kind: reveal.KindNote, Targets: []assembly.NodeID{"round"}, Duration: reveal.Second,
		Easing: reveal.Linear, Note: &reveal.Note{Text: "The middle of {variant}"},
	}
	twin := reveal.Cue{ID: "twin", Kind: reveal.KindPull, Twin: "lid", Targets: []assembly.NodeID{"base"}}
	r.Steps = []reveal.Step{
		{ID: "1", Title: "Lid", Duration: 2 * reveal.Second, Cues: []reveal.Cue{pulled("lid", "lid")}},
		{ID: "2", Title: "Middle", Duration: 3 * reveal.Second, Cues: []reveal.Cue{pulled("middle", "round"), note},
			Wordings: []reveal.Wording{{Variant: "s", Title: "Square middle"}}},
		{ID: "3", Title: "Back", Duration: reveal.Second, Retrace: &reveal.Retrace{Steps: []reveal.StepID{"1", "2"}}},
		{ID: "4", Title: "Base", Duration: reveal.Second, Cues: []reveal.Cue{twin}},
	}
	return r
}

func TestWhatIsDirectedForOneIsDirectedForWhatStandsInForIt(t *testing.T) {
	a, r := variant.Of(block(), directed(), "s").Reduced()
	require.NoError(t, reveal.Validate(r, a))
	assert.Equal(t, "Take Square apart", r.Title)
	assert.Equal(t, "Square middle", r.Steps[1].Title)
	assert.Equal(t, []assembly.NodeID{"square"}, r.Steps[1].Cues[0].Targets)
	assert.Equal(t, "The middle of Square", r.Steps[1].Cues[1].Note.Text)
	f := film.Compile(a, r)
	fr := f.NewFrame()
	f.At(3*reveal.Second, fr)
	assert.Equal(t, space.Vec{X: 8, Y: 10}, fr.World[a.Index()["square"]].T)
	_, there := a.Index()["round"]
	assert.False(t, there)
}

func TestStepsWithNothingToDoTakeNoTime(t *testing.T) {
	shown := variant.Of(block(), directed(), "n")
	for i, muted := range []bool{true, true, true, false} {
		assert.Equal(t, muted, shown.Reveal.Steps[i].Muted, "step %d", i+1)
	}
	a, r := shown.Reduced()
	require.NoError(t, reveal.Validate(r, a))
	require.Len(t, r.Steps, 1)
	assert.Equal(t, reveal.Second, film.Compile(a, r).Duration())
	assert.Equal(t, 10.0, r.Steps[0].Cues[0].Pull.Distance, "the twin has what it shared")

	keep := directed()
	keep.Variants = &reveal.Variants{KeepGaps: true}
	_, r = variant.Of(block(), keep, "n").Reduced()
	require.Len(t, r.Steps, 4)
	assert.Equal(t, film.Compile(block(), keep).Duration(), film.Compile(a, r).Duration())
	assert.Empty(t, r.Steps[1].Title, "what it would say is of what is not there")
}

func TestWhichVariantIsShown(t *testing.T) {
	a, r := block(), directed()
	find := func(asked string) assembly.VariantID {
		id, err := variant.Find(a, r, asked)
		require.NoError(t, err)
		return id
	}
	assert.Empty(t, find(""))
	assert.EqualValues(t, "s", find(" square"))
	r.Variants = &reveal.Variants{For: "r"}
	assert.EqualValues(t, "r", find(""))
	assert.Empty(t, find("-"))
	r.Variants.For = "gone by now"
	assert.Empty(t, find(""))
	_, err := variant.Find(a, r, "Triangle")
	assert.ErrorContains(t, err, "Round, Square, Open")

	assert.Equal(t, "Take apart", variant.Of(a, r, "").Reveal.Title, "nobody asks for one")
	plain := reveal.New("No mention", r.Opening.Camera)
	assert.Same(t, plain, variant.Of(a, plain, "").Reveal)
}

func TestJointsOfWhatIsNotThereAreNotThere(t *testing.T) {
	a := block()
	joint := func(id assembly.JointID, body assembly.NodeID) assembly.Joint {
		return assembly.Joint{ID: id, Kind: assembly.Revolute, Body: body, Base: "base", Axis: space.Vec3{0, 0, 1}}
	}
	a.Joints = []assembly.Joint{joint("round", "round"), joint("lid", "lid")}
	a.Couplings = []assembly.Coupling{{ID: "c", Kind: assembly.Ratio, Joint: "lid", By: "round", Ratio: 2}}
	require.NoError(t, a.Check())
	out := variant.Of(a, nil, "s").Assembly
	require.NoError(t, out.Check())
	assert.Len(t, out.Joints, 1)
	assert.Empty(t, out.Couplings)
}

// Whatever is left out of whatever is directed, what comes of it is valid, says nothing of what is not in it, and is on
// the stage what it is in files.
func TestVariantsByChance(t *testing.T) {
	chance := rand.New(rand.NewPCG(4, 4))
	whole := demo.PumpB().Assembly
	for seed := range uint64(60) {
		r := reveal.New("By chance", reveal.Camera{Orientation: space.NoRotation, Distance: 400, FocalLength: 50})
		edittest.New(seed, whole).Change(r, 60)
		r.Variants = &reveal.Variants{KeepGaps: seed%3 == 0}
		v := assembly.Variant{ID: "v", Name: "V"}
		for range 1 + chance.IntN(6) {
			v.Without = append(v.Without, whole.Nodes[1+chance.IntN(len(whole.Nodes)-1)].ID)
		}
		of, by := whole.Nodes[1+chance.IntN(len(whole.Nodes)-1)].ID, whole.Nodes[1+chance.IntN(len(whole.Nodes)-1)].ID
		if of != by && !slices.Contains(v.Without, by) {
			v.Instead = []assembly.Exchange{{Of: of, By: by}}
		}
		a := *whole
		a.Variants = []assembly.Variant{v}
		require.NoError(t, a.Check())
		before := string(reveal.Write(r))
		shown := variant.Of(&a, r, "v")
		assert.Equal(t, before, string(reveal.Write(r)), "the document is as it was")
		less, doc := shown.Reduced()
		require.NoError(t, less.Check())
		require.NoError(t, reveal.Validate(doc, less), "seed %d", seed)
		sameFrames(t, film.Compile(less, doc), film.Compile(shown.Assembly, shown.Reveal))
		text, err := json.Marshal([]any{less, doc})
		require.NoError(t, err)
		for i, absent := range shown.Absent {
			if absent {
				told := strings.Contains(string(text), fmt.Sprintf("%q", a.Nodes[i].ID))
				assert.False(t, told, "seed %d tells of %s", seed, a.Nodes[i].ID)
			}
		}
	}
}
