package editor_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/editor"
	"slowreveal/core/reveal"
	"slowreveal/demo"
)

// The applicator's motor runs at 36 revolutions a minute over a belt of 3 : 1: all stands as before after five seconds.
// In a film of two seconds the motor at least has turned once.
func TestARoundIsThatOfTheMechanismOrOfWhatIsDriven(t *testing.T) {
	a := demo.Applicator().Assembly
	packed, err := assembly.Pack(a)
	require.NoError(t, err)
	d := new(editor.Editor)
	require.NoError(t, d.OpenAssembly(packed))
	doc := demo.Labelling(a)
	round := func() (r *editor.Round) {
		_, err := d.OpenReveal(reveal.Write(doc))
		require.NoError(t, err)
		out, err := d.Ask([]byte(`{"ask":"round"}`))
		require.NoError(t, err)
		text, err := json.Marshal(out)
		require.NoError(t, err)
		require.NoError(t, json.Unmarshal(text, &r))
		return r
	}
	assert.Equal(t, &editor.Round{Takes: 5 * reveal.Second, Whole: true}, round())
	doc.Steps = doc.Steps[:1]
	doc.Steps[0].Duration = 2 * reveal.Second
	assert.Equal(t, &editor.Round{Takes: 1_666_667}, round())
	doc.Steps[0].Cues = nil
	assert.Nil(t, round(), "nothing runs")
}
