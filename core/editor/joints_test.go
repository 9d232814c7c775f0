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

// applicator is an editor with the applicator in it, a document for it, and what asks of the document as it is then:
// with the length of its film.
func applicator(t *testing.T) (*reveal.Reveal, func(what string, answer any) reveal.Micros) {
	t.Helper()
	a := demo.Applicator().Assembly
	packed, err := assembly.Pack(a)
	require.NoError(t, err)
	d := new(editor.Editor)
	require.NoError(t, d.OpenAssembly(packed))
	doc := demo.Labelling(a)
	return doc, func(what string, answer any) reveal.Micros {
		opened, err := d.OpenReveal(reveal.Write(doc))
		require.NoError(t, err)
		out, err := d.Ask([]byte(what))
		require.NoError(t, err)
		text, err := json.Marshal(out)
		require.NoError(t, err)
		require.NoError(t, json.Unmarshal(text, answer))
		return opened.Schedule.Duration
	}
}

// The applicator's motor runs at 36 revolutions a minute over a belt of 3 : 1: all stands as before after five seconds.
// In a film of two seconds the motor at least has turned once.
func TestARoundIsThatOfTheMechanismOrOfWhatIsDriven(t *testing.T) {
	doc, ask := applicator(t)
	round := func() (r *editor.Round) {
		ask(`{"ask":"round"}`, &r)
		return r
	}
	assert.Equal(t, &editor.Round{Takes: 5 * reveal.Second, Whole: true}, round())
	doc.Steps = doc.Steps[:1]
	doc.Steps[0].Duration = 2 * reveal.Second
	assert.Equal(t, &editor.Round{Takes: 1_666_667}, round())
	doc.Steps[0].Cues = nil
	assert.Nil(t, round(), "nothing runs")
}

// A strip to begin with goes over a round of what runs, or over two seconds, and never beyond the film.
func TestAStripBeginsWithARound(t *testing.T) {
	doc, ask := applicator(t)
	var length reveal.Micros
	strip := func(at string) (s editor.Strip) {
		length = ask(`{"ask":"strip","with":{"time":`+at+`}}`, &s)
		return s
	}
	assert.Equal(t, editor.Strip{Count: 6, From: reveal.Second, Over: 5 * reveal.Second}, strip("1000000"))
	late := strip("900000000")
	assert.Equal(t, length, late.From+late.Over, "it ends with the film")
	doc.Steps = doc.Steps[:1]
	doc.Steps[0].Cues = nil
	doc.Steps[0].Duration = 3 * reveal.Second
	assert.Equal(t, editor.Strip{Count: 6, Over: 2 * reveal.Second}, strip("0"))
	doc.Steps[0].Duration = reveal.Second
	assert.Equal(t, editor.Strip{Count: 6, Over: reveal.Second}, strip("500000"))
}
