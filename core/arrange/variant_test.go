package arrange_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/arrange"
	"slowreveal/core/assembly"
	"slowreveal/demo"
)

type ids = []assembly.NodeID

// absent are the parts that a variant is without.
func absent(a *assembly.Assembly, id assembly.VariantID) (list ids) {
	for i, gone := range a.FindVariant(id).Absent(a) {
		if gone && a.Nodes[i].IsPart() {
			list = append(list, a.Nodes[i].ID)
		}
	}
	return list
}

func TestVariantsAreChangedByWhatIsMeant(t *testing.T) {
	const door, panel, knob = "pump-head/door", "pump-head/door/door-panel", "pump-head/door/latch-knob"
	pump := demo.Pump().Assembly
	in := func(do arrange.Do, id assembly.VariantID, nodes ...assembly.NodeID) arrange.Edit {
		return arrange.Edit{Do: do, VariantID: id, Nodes: nodes}
	}
	edits := []arrange.Edit{
		{Do: arrange.SetVariants, Variants: []assembly.Variant{{ID: "a", Name: "A"}, {ID: "b", Name: "B"}}},
		in(arrange.LeaveOut, "a", panel),
		in(arrange.LeaveOut, "a", door),
	}
	out := apply(t, pump, edits...).Assembly
	assert.Equal(t, ids{door}, out.FindVariant("a").Without, "what is in it need not be named")
	assert.Len(t, absent(out, "a"), 4)
	assert.Empty(t, absent(out, "b"))

	// One part of what is left out comes back, with what holds it.
	edits = append(edits, in(arrange.PutBack, "a", knob))
	out = apply(t, pump, edits...).Assembly
	assert.NotContains(t, absent(out, "a"), assembly.NodeID(knob))
	assert.Len(t, absent(out, "a"), 3)

	edits = append(edits, in(arrange.OnlyIn, "a", door))
	out = apply(t, pump, edits...).Assembly
	assert.Empty(t, absent(out, "a"))
	assert.Len(t, absent(out, "b"), 4)

	// The knob of the dose stands in for the start button in B: it is in B alone.
	edits = append(edits, in(arrange.StandIn, "b", "housing/start-button", "housing/dosing-knob"))
	out = apply(t, pump, edits...).Assembly
	assert.Contains(t, absent(out, "b"), assembly.NodeID("housing/start-button"))
	assert.Contains(t, absent(out, "a"), assembly.NodeID("housing/dosing-knob"))
	edits = append(edits, in(arrange.PutBack, "b", "housing/start-button"))
	assert.Empty(t, apply(t, pump, edits...).Assembly.FindVariant("b").Instead)

	// What a variant says of a group it says of what was in it when the group goes.
	edits = append(edits, arrange.Edit{Do: arrange.Flatten, Node: door})
	assert.Len(t, absent(apply(t, pump, edits...).Assembly, "b"), 4)
}

func TestLooksNamesAndPosesOfAVariant(t *testing.T) {
	pump := demo.Pump().Assembly
	edits := []arrange.Edit{
		{Do: arrange.SetVariants, Variants: []assembly.Variant{{ID: "a", Name: "A"}}},
		{Do: arrange.WearIn, VariantID: "a", Nodes: ids{"housing"}, Finish: &arrange.Library[0]},
		{Do: arrange.WearIn, VariantID: "a", Nodes: ids{"housing/hood"}, Finish: &arrange.Library[4]},
		{Do: arrange.CallIn, VariantID: "a", Node: "housing/hood", Name: "Cover"},
		{Do: arrange.PoseIn, VariantID: "a", Nodes: ids{"housing/hood"}, Poses: []assembly.NodePose{
			{Node: "housing/hood", Pose: assembly.Pose{Move: [3]float64{0, 9, 0}, Turn: [4]float64{0, 0, 0, 1}}}}},
	}
	v := apply(t, pump, edits...).Assembly.FindVariant("a")
	require.Len(t, v.Finishes, 2)
	assert.Equal(t, "Cover", v.Names[0].Name)
	assert.Len(t, v.Poses, 1)
	edits = append(edits,
		arrange.Edit{Do: arrange.WearIn, VariantID: "a", Nodes: ids{"housing/hood"}},
		arrange.Edit{Do: arrange.CallIn, VariantID: "a", Node: "housing/hood"},
		arrange.Edit{Do: arrange.PoseIn, VariantID: "a", Nodes: ids{"housing/hood"}})
	v = apply(t, pump, edits...).Assembly.FindVariant("a")
	assert.Len(t, v.Finishes, 1)
	assert.Empty(t, v.Names)
	assert.Empty(t, v.Poses)
}

func TestVariantsThatCannotBeSayWhy(t *testing.T) {
	pump := demo.Pump().Assembly
	two := arrange.Edit{
		Do:       arrange.SetVariants,
		Variants: []assembly.Variant{{ID: "a", Name: "A"}, {ID: "b", Name: "B"}},
	}
	for why, e := range map[string]arrange.Edit{
		"no variant":             {Do: arrange.LeaveOut, VariantID: "c", Nodes: ids{"housing"}},
		"in every variant":       {Do: arrange.LeaveOut, VariantID: "a", Nodes: ids{assembly.Root}},
		"no node":                {Do: arrange.LeaveOut, VariantID: "a", Nodes: ids{"nothing"}},
		"two nodes":              {Do: arrange.StandIn, VariantID: "a", Nodes: ids{"housing"}},
		"lies in another":        {Do: arrange.StandIn, VariantID: "a", Nodes: ids{"housing", "housing/hood"}},
		"called \"b\" already":   {Do: arrange.SetVariants, Variants: []assembly.Variant{{ID: "c", Name: "b"}}},
		"a variant has a name":   {Do: arrange.SetVariants, Variants: []assembly.Variant{{ID: "c", Name: " "}}},
		"there is no variant":    {Do: arrange.RemoveVariant, VariantID: "c"},
		"its turn no rotation":   {Do: arrange.PoseIn, VariantID: "a", Nodes: ids{"housing"}, Poses: []assembly.NodePose{{Node: "housing"}}},
		"values of a finish lie": {Do: arrange.SetVariants, Variants: []assembly.Variant{{ID: "c", Name: "C", Finishes: []assembly.NodeFinish{{Nodes: ids{"housing"}, Finish: assembly.Finish{Opacity: 2}}}}}},
	} {
		_, err := arrange.Apply(pump, []arrange.Edit{two, e})
		assert.ErrorContains(t, err, why)
	}
}

func TestVariantsAreCarriedToAnotherRevision(t *testing.T) {
	pump := demo.Pump().Assembly
	edits := []arrange.Edit{
		{
			Do:       arrange.SetVariants,
			Variants: []assembly.Variant{{ID: "a", Name: "A", Without: ids{"housing/hood", "gone"}}},
		},
		{Do: arrange.LeaveOut, VariantID: "a", Nodes: ids{"gone", "housing/base"}},
	}
	kept, lost := arrange.Carry(pump, edits)
	assert.Equal(t, ids{"housing/hood", "housing/base"}, apply(t, pump, kept...).Assembly.FindVariant("a").Without)
	assert.Len(t, lost, 2)
}
