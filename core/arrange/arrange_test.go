package arrange_test

import (
	"encoding/json"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/arrange"
	"slowreveal/core/assembly"
	"slowreveal/core/contact"
	"slowreveal/core/space"
	"slowreveal/demo"
)

type at = map[assembly.NodeID]space.Rigid

// places are the poses of all parts in the world, by id.
func places(a *assembly.Assembly) at {
	m := at{}
	worlds := a.Worlds()
	for i := range a.Nodes {
		if a.Nodes[i].IsPart() {
			m[a.Nodes[i].ID] = worlds[i]
		}
	}
	return m
}

func same(t *testing.T, want, got at) {
	t.Helper()
	require.Len(t, got, len(want))
	for id, w := range want {
		g, ok := got[id]
		require.True(t, ok, id)
		for k := range w.R {
			require.InDelta(t, w.R[k], g.R[k], 1e-9, id)
		}
		require.InDelta(t, 0, math.Abs(w.T.X-g.T.X)+math.Abs(w.T.Y-g.T.Y)+math.Abs(w.T.Z-g.T.Z), 1e-6, id)
	}
}

func apply(t *testing.T, a *assembly.Assembly, edits ...arrange.Edit) arrange.Arranged {
	t.Helper()
	out, err := arrange.Apply(a, edits)
	require.NoError(t, err)
	return out
}

func name(a *assembly.Assembly, id assembly.NodeID) string {
	for i := range a.Nodes {
		if a.Nodes[i].ID == id {
			return a.Nodes[i].Name
		}
	}
	return ""
}

func parent(a *assembly.Assembly, id assembly.NodeID) assembly.NodeID {
	for i := range a.Nodes {
		if a.Nodes[i].ID == id && a.Nodes[i].Parent >= 0 {
			return a.Nodes[a.Nodes[i].Parent].ID
		}
	}
	return ""
}

var knob = assembly.NodeID("housing/dosing-knob")
var panel = assembly.NodeID("housing/front-panel")
var door = assembly.NodeID("pump-head/door")

func TestRegroupingMovesNothing(t *testing.T) {
	pump := demo.Pump().Assembly
	before, err := json.Marshal(pump)
	require.NoError(t, err)
	for what, edits := range map[string][]arrange.Edit{
		"a group within one subassembly": {{Do: arrange.Group, Nodes: []assembly.NodeID{knob, panel}, Name: "Front"}},
		"a group across subassemblies":   {{Do: arrange.Group, Nodes: []assembly.NodeID{knob, door}, Name: "Front"}},
		"two groups of one name":         {{Do: arrange.Group, Nodes: []assembly.NodeID{knob}, Name: "A"}, {Do: arrange.Group, Nodes: []assembly.NodeID{panel}, Name: "A"}},
		"into another subassembly":       {{Do: arrange.Move, Nodes: []assembly.NodeID{knob}, Parent: door}},
		"a subassembly dissolved":        {{Do: arrange.Flatten, Node: door}},
		"grouped and dissolved":          {{Do: arrange.Group, Nodes: []assembly.NodeID{knob, panel}, Name: "Front"}, {Do: arrange.Flatten, Node: "group/front"}},
	} {
		out := apply(t, pump, edits...)
		t.Run(what, func(t *testing.T) { same(t, places(pump), places(out.Assembly)) })
	}
	after, err := json.Marshal(pump)
	require.NoError(t, err)
	assert.Equal(t, string(before), string(after), "the import stays as it is")
}

func TestNamesGroupsAndSets(t *testing.T) {
	pump := demo.Pump().Assembly
	out := apply(
		t,
		pump,
		arrange.Edit{Do: arrange.Rename, Node: knob, Name: "Rate knob"},
		arrange.Edit{Do: arrange.Group, Nodes: []assembly.NodeID{knob, panel}, Name: "Front"},
		arrange.Edit{
			Do:  arrange.AddSet,
			Set: &arrange.PartSet{ID: "s", Name: "Touch first", Nodes: []assembly.NodeID{knob, door}},
		},
		arrange.Edit{Do: arrange.Flatten, Node: door},
	)
	assert.Equal(t, "Rate knob", name(out.Assembly, knob))
	assert.Equal(t, assembly.NodeID("group/front"), parent(out.Assembly, knob))
	assert.Equal(t, assembly.NodeID("housing"), parent(out.Assembly, "group/front"))
	require.Len(t, out.Sets, 1)
	assert.Equal(t, []assembly.NodeID{knob}, out.Sets[0].Nodes, "the door is gone")
	out = apply(
		t,
		pump,
		arrange.Edit{Do: arrange.AddSet, Set: &arrange.PartSet{ID: "s", Name: "A", Nodes: []assembly.NodeID{knob}}},
		arrange.Edit{Do: arrange.ChangeSet, Set: &arrange.PartSet{ID: "s", Name: "B", Nodes: []assembly.NodeID{panel}}},
	)
	assert.Equal(t, "B", out.Sets[0].Name)
	out = apply(
		t,
		pump,
		arrange.Edit{Do: arrange.AddSet, Set: &arrange.PartSet{ID: "s", Name: "A", Nodes: []assembly.NodeID{knob}}},
		arrange.Edit{Do: arrange.RemoveSet, SetID: "s"},
	)
	assert.Empty(t, out.Sets)
}

func TestASplitPartKeepsItsPlaceAndItsFinishes(t *testing.T) {
	m := demo.Pump()
	for i := range m.Assembly.Nodes {
		n := &m.Assembly.Nodes[i]
		if !n.IsPart() {
			continue
		}
		shapes, from := m.Shapes[n.Shape].Pieces()
		if len(shapes) < 2 || len(n.Finishes) < 2 {
			continue
		}
		edit := arrange.Edit{Do: arrange.Split, Node: n.ID}
		triangles := 0
		for k, s := range shapes {
			edit.Pieces = append(
				edit.Pieces,
				arrange.Piece{
					Shape: assembly.ShapeRef{
						Hash:      s.Hash(),
						Submeshes: len(s.Submeshes),
						Triangles: len(s.Triangles) / 3,
					},
					Submeshes: from[k],
				},
			)
			triangles += len(s.Triangles) / 3
		}
		assert.Equal(t, len(m.Shapes[n.Shape].Triangles)/3, triangles, "no triangle is lost")
		out := apply(t, m.Assembly, edit)
		was, now := places(m.Assembly)[n.ID], places(out.Assembly)
		assert.NotContains(t, now, n.ID, "it is a subassembly now")
		assert.Equal(t, was.T, now[n.ID+"/piece-1"].T)
		for k := range out.Assembly.Nodes {
			if piece := &out.Assembly.Nodes[k]; piece.ID == n.ID+"/piece-1" {
				assert.Equal(t, n.Finishes[from[0][0]], piece.Finishes[0])
			}
		}
		return
	}
	t.Fatal("the example has no part of several bodies")
}

func TestFinishesGoToEveryPartBelow(t *testing.T) {
	pump := demo.Pump().Assembly
	out := apply(t, pump, arrange.Edit{Do: arrange.Wear, Nodes: []assembly.NodeID{door}, Finish: &arrange.Library[4]})
	n := 0
	for i := range out.Assembly.Nodes {
		node := &out.Assembly.Nodes[i]
		if !node.IsPart() || parent(out.Assembly, node.ID) != door {
			continue
		}
		n++
		for _, f := range node.Finishes {
			assert.Equal(t, "Brass", out.Assembly.Finishes[f].Name)
		}
	}
	assert.Greater(t, n, 3)
	assert.Len(t, out.Assembly.Finishes, len(pump.Finishes)+1)
}

func TestNeighboursAreToldApart(t *testing.T) {
	m := demo.Pump()
	contacts, err := contact.Find(t.Context(), m.Assembly, m.Shapes, contact.Tolerance)
	require.NoError(t, err)
	colours := arrange.Apart(m.Assembly, contacts)
	assert.Len(t, colours, m.Assembly.Parts())
	for _, c := range contacts {
		assert.NotEqual(t, colours[c.A], colours[c.B], "%s and %s touch", c.A, c.B)
	}
	apply(t, m.Assembly, arrange.Edit{Do: arrange.TellApart, Colours: colours})
}

func TestStepsThatCannotBeDoneSayWhy(t *testing.T) {
	pump := demo.Pump().Assembly
	for want, s := range map[string]arrange.Edit{
		"there is no node":   {Do: arrange.Rename, Node: "nowhere", Name: "x"},
		"at least one":       {Do: arrange.Rename, Node: knob, Name: "  "},
		"parts hold nothing": {Do: arrange.Move, Nodes: []assembly.NodeID{panel}, Parent: knob},
		"into itself":        {Do: arrange.Move, Nodes: []assembly.NodeID{"pump-head"}, Parent: door},
		"no group within":    {Do: arrange.Flatten, Node: knob},
		"group of itself":    {Do: arrange.Group, Nodes: []assembly.NodeID{"/"}, Name: "x"},
		"one body":           {Do: arrange.Split, Node: knob},
		"no finish":          {Do: arrange.Wear, Nodes: []assembly.NodeID{knob}},
		"no colour":          {Do: arrange.TellApart, Colours: map[assembly.NodeID]int{knob: 99}},
		"there is no set":    {Do: arrange.RemoveSet, SetID: "x"},
		"has no id":          {Do: arrange.AddSet, Set: &arrange.PartSet{Name: "x"}},
		"is no edit":         {Do: "dance"},
	} {
		_, err := arrange.Apply(pump, []arrange.Edit{s})
		require.Error(t, err, want)
		assert.Contains(t, err.Error(), want)
	}
	for _, text := range []string{`{"do":"rename","x":1}`, `{`, `{} {}`, `{"do":"wear","finish":{"name":"a","colour":[2,0,0],"opacity":1,"metalness":0,"roughness":0}}`} {
		_, err := arrange.Parse([]byte(text))
		assert.Error(t, err, text)
	}
}

// A group that a joint moves as one is not dissolved; what moved on a group moves on what holds that when it is.
func TestAGroupWithAJointIsDissolvedOrSaysWhyNot(t *testing.T) {
	a := demo.Pump().Assembly
	a.Joints, a.Couplings = nil, nil
	on := func(body, base assembly.NodeID) arrange.Edit {
		return arrange.Edit{Do: arrange.SetJoints, Joints: []assembly.Joint{
			{ID: "j", Name: "Hinge", Kind: assembly.Revolute, Body: body, Base: base, Axis: space.Vec3{0, 1, 0}},
		}}
	}
	flat := arrange.Edit{Do: arrange.Flatten, Node: door}
	_, err := arrange.Apply(a, []arrange.Edit{on(door, a.Nodes[0].ID), flat})
	require.ErrorContains(t, err, `the joint "Hinge" moves "Door" as one: keep the group, or remove the joint first`)
	out, err := arrange.Apply(a, []arrange.Edit{on("pump-head/door/latch-knob", door), flat})
	require.NoError(t, err)
	require.Len(t, out.Assembly.Joints, 1)
	assert.Equal(t, assembly.NodeID("pump-head"), out.Assembly.Joints[0].Base)
}

func TestJointsAreSetAndTakenAway(t *testing.T) {
	a := demo.Pump().Assembly
	a.Joints, a.Couplings = nil, nil
	body, base := a.Nodes[1].ID, a.Nodes[0].ID
	joint := func(id string) assembly.Joint {
		return assembly.Joint{
			ID:   assembly.JointID(id),
			Name: id,
			Kind: assembly.Revolute,
			Body: body,
			Base: base,
			Axis: space.Vec3{0, 0, 1},
		}
	}
	turned := joint("one")
	turned.Rest = 30
	edits := []arrange.Edit{
		{Do: arrange.SetJoints, Joints: []assembly.Joint{joint("one"), joint("two")}, Couplings: []assembly.Coupling{
			{ID: "both", Kind: assembly.Ratio, Joint: "two", By: "one", Ratio: 2},
		}},
		{Do: arrange.SetJoints, Joints: []assembly.Joint{turned}},
	}
	out, err := arrange.Apply(a, edits)
	require.NoError(t, err)
	assert.Equal(t, []assembly.Joint{turned, joint("two")}, out.Assembly.Joints)
	assert.Len(t, out.Assembly.Couplings, 1)
	assert.Empty(t, a.Joints, "the import stays as it is")

	out, err = arrange.Apply(a, append(edits, arrange.Edit{Do: arrange.Unjoint, JointIDs: []assembly.JointID{"one"}}))
	require.NoError(t, err)
	assert.Len(t, out.Assembly.Joints, 1)
	assert.Empty(t, out.Assembly.Couplings, "a coupling goes with its joint")

	_, err = arrange.Apply(a, append(edits, arrange.Edit{Do: arrange.Unjoint, JointIDs: []assembly.JointID{"three"}}))
	assert.ErrorContains(t, err, `no joint "three"`)
	wrong := joint("four")
	wrong.Min, wrong.Max = new(5.0), new(3.0)
	_, err = arrange.Apply(a, []arrange.Edit{{Do: arrange.SetJoints, Joints: []assembly.Joint{wrong}}})
	assert.ErrorContains(t, err, "inside out")
	lost := joint("five")
	lost.Base = "nowhere"
	_, err = arrange.Apply(a, []arrange.Edit{{Do: arrange.SetJoints, Joints: []assembly.Joint{lost}}})
	assert.ErrorContains(t, err, `no node "nowhere"`)
}

// What of an arrangement means something in another revision is carried over; the rest is told.
func TestAnArrangementIsCarriedOver(t *testing.T) {
	a := demo.Pump().Assembly
	a.Joints, a.Couplings = nil, nil
	edits := []arrange.Edit{
		{Do: arrange.Rename, Node: "housing/hood", Name: "Top"},
		{Do: arrange.Rename, Node: "gone", Name: "Never"},
		{
			Do:  arrange.AddSet,
			Set: &arrange.PartSet{ID: "s", Name: "S", Nodes: []assembly.NodeID{"housing/hood", "gone"}},
		},
		{Do: arrange.SetJoints, Joints: []assembly.Joint{
			{ID: "j", Name: "J", Kind: assembly.Revolute, Body: "gone", Base: "/", Axis: space.Vec3{0, 0, 1}},
			{ID: "k", Name: "K", Kind: assembly.Revolute, Body: "housing/hood", Base: "/", Axis: space.Vec3{0, 0, 1}},
		}, Couplings: []assembly.Coupling{{ID: "c", Name: "C", Kind: assembly.Ratio, Joint: "j", By: "k", Ratio: 1}}},
		{Do: arrange.Group, Nodes: []assembly.NodeID{"gone"}, Name: "Nothing"},
	}
	kept, lost := arrange.Carry(a, edits)
	assert.Len(t, kept, 3)
	assert.Len(t, lost, 5)
	out, err := arrange.Apply(a, kept)
	require.NoError(t, err)
	assert.Equal(t, []assembly.NodeID{"housing/hood"}, out.Sets[0].Nodes)
	assert.Len(t, out.Assembly.Joints, 1)
	assert.Empty(t, out.Assembly.Couplings)
}
