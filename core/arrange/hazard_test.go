package arrange_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/arrange"
	"slowreveal/core/assembly"
	"slowreveal/demo"
)

func TestWhatHasToBeMindedBelongsToTheArrangement(t *testing.T) {
	a := demo.Pump().Assembly
	hood, rotor := assembly.NodeID("housing/hood"), assembly.NodeID("pump-head/rotor")
	mind := func(h assembly.Hazard, nodes ...assembly.NodeID) arrange.Edit {
		return arrange.Edit{Do: arrange.Mind, Nodes: nodes, Hazard: h}
	}
	edits := []arrange.Edit{mind(assembly.Heavy, hood, rotor), mind(assembly.Sharp, hood), mind("", rotor)}
	for n, want := range [][]assembly.NodeHazard{
		nil,
		{{Node: hood, Hazard: assembly.Heavy}, {Node: rotor, Hazard: assembly.Heavy}},
		{{Node: rotor, Hazard: assembly.Heavy}, {Node: hood, Hazard: assembly.Sharp}},
		{{Node: hood, Hazard: assembly.Sharp}},
	} {
		got, err := arrange.Apply(a, edits[:n])
		require.NoError(t, err)
		assert.ElementsMatch(t, want, got.Assembly.Hazards)
		packed, err := assembly.Pack(got.Assembly)
		require.NoError(t, err)
		back, err := assembly.Unpack(packed)
		require.NoError(t, err)
		assert.ElementsMatch(t, want, back.Hazards, "the page's core knows of it")
	}
	assert.Empty(t, a.Hazards, "the imported assembly stays as it is")
	// A group that goes takes what was said of it along.
	door := assembly.NodeID("pump-head/door")
	got, err := arrange.Apply(a, []arrange.Edit{mind(assembly.Heavy, door), {Do: arrange.Flatten, Node: door}})
	require.NoError(t, err)
	assert.Empty(t, got.Assembly.Hazards)
	_, err = arrange.Apply(a, []arrange.Edit{mind("hot", hood)})
	assert.ErrorContains(t, err, `"hot" is nothing that can be minded`)
	// In a revision without the hood the rest stays.
	kept, lost := arrange.Carry(a, []arrange.Edit{mind(assembly.Heavy, "housing/gone", rotor)})
	require.Len(t, kept, 1)
	assert.Equal(t, []assembly.NodeID{rotor}, kept[0].Nodes)
	assert.Len(t, lost, 1)
}
