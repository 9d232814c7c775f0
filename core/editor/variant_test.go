package editor_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/editor"
	"slowreveal/core/reveal"
	"slowreveal/demo"
)

// What stands on the stage changes with the variant, the document does not; edits go on while one is shown.
func TestVariantsAreShown(t *testing.T) {
	a := demo.PumpB().Assembly
	text, err := assembly.Pack(a)
	require.NoError(t, err)
	d := new(editor.Editor)
	require.NoError(t, d.OpenAssembly(text))
	written := reveal.Write(demo.Teardown(a))
	s, err := d.OpenReveal(written)
	require.NoError(t, err)
	require.NotNil(t, s.Dressed, "the reveal is for a variant")
	assert.EqualValues(t, "standard", s.Dressed.Variant)
	assert.Len(t, s.Dressed.Absent, 6, "the heater, and what is in it")
	standard := s.Schedule.Duration

	s, err = d.Variant("left-hand")
	require.NoError(t, err)
	d.At(0)
	door := a.Index()["pump-head/door"]
	turned := d.Matrices[16*door]
	moved := map[assembly.NodeID]bool{}
	for _, n := range s.Dressed.Nodes {
		moved[n.ID] = true
	}
	assert.Equal(t, map[assembly.NodeID]bool{"pump-head/door": true, "pump-head/hinge-pin": true}, moved)
	s, err = d.Variant("left-hand")
	require.NoError(t, err)
	assert.Nil(t, s.Dressed, "it is shown already")

	s, err = d.Variant("heated")
	require.NoError(t, err)
	d.At(0)
	assert.InDelta(t, -1, turned*d.Matrices[16*door], 1e-6, "the door is turned round")
	assert.Empty(t, s.Dressed.Absent)
	assert.Greater(t, s.Schedule.Duration, standard, "there is a heater to be taken off")
	assert.Equal(t, string(written), string(reveal.Write(s.Reveal)), "the document is the whole product's")
	s, err = d.Apply([]byte(`{"op":"setTitle","title":"otherwise"}`))
	require.NoError(t, err)
	assert.Equal(t, "otherwise", s.Reveal.Title)

	s, err = d.Variant("nobody's")
	require.NoError(t, err)
	assert.Empty(t, s.Dressed.Variant, "one that is not there is the whole product")
	d.Close()
	_, err = d.Variant("heated")
	assert.Error(t, err)
}

func TestVariantsAreComparedAsTheProductHasThem(t *testing.T) {
	text, err := assembly.Pack(demo.PumpB().Assembly)
	require.NoError(t, err)
	d := new(editor.Editor)
	require.NoError(t, d.OpenAssembly(text))
	for _, shown := range []assembly.VariantID{"", "standard"} { // whatever is shown
		_, err := d.Variant(shown)
		require.NoError(t, err)
		answer, err := d.Ask([]byte(`{"ask":"differences"}`))
		require.NoError(t, err)
		assert.Equal(t, editor.Differences{Fewer: []int{5, 0, 5}, Rows: []editor.Difference{
			{Node: "pump-head/door", In: []bool{true, true, true}},
			{Node: "pump-head/hinge-pin", In: []bool{true, true, true}},
			{Node: "pump-head/rotor-cover", In: []bool{true, true, true}},
			{Node: "pump-head/heater", In: []bool{false, true, false}},
		}}, answer)
	}
}
