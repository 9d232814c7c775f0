package edit_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/edit"
	"slowreveal/core/edit/edittest"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/demo"
)

// A long random history, undone, gives the first document byte for byte; every
// state on the way compiles and evaluates; a refused command changes nothing.
func TestCommandThenInverseIsIdentity(t *testing.T) {
	a := demo.Pump().Assembly
	r := demo.Teardown(a)
	first := string(reveal.Write(r))
	h := edittest.New(42, a)
	var undo []edit.Command
	refused := 0
	n := 3_500
	if testing.Short() {
		n = 800
	}
	for range n {
		before := string(reveal.Write(r))
		c := h.Command(r, 0)
		text, err := json.Marshal(c)
		require.NoError(t, err)
		parsed, err := edit.Parse(text)
		require.NoError(t, err)
		inverse, err := edit.Do(r, a, parsed)
		if err != nil {
			refused++
			require.Equal(t, before, string(reveal.Write(r)), "a refused command changed the document")
			continue
		}
		undo = append(undo, inverse)
		f := film.Compile(a, r)
		fr := f.NewFrame()
		f.At(f.Duration()/2, fr)
		for _, w := range fr.World {
			require.True(t, space.Finite(w.T))
		}
	}
	assert.Greater(t, len(undo), n*3/7)
	assert.Greater(t, refused, n/70)
	for i := len(undo) - 1; i >= 0; i-- {
		text, err := json.Marshal(undo[i])
		require.NoError(t, err)
		parsed, err := edit.Parse(text)
		require.NoError(t, err)
		_, err = edit.Do(r, a, parsed)
		require.NoError(t, err)
	}
	assert.Equal(t, first, string(reveal.Write(r)))
}

func TestShiftingKeepsTheSpacingAtTheEdge(t *testing.T) {
	a := demo.Pump().Assembly
	r := demo.Teardown(a)
	cues := r.Steps[1].Cues
	ids := []reveal.CueID{cues[1].ID, cues[2].ID}
	gap := cues[2].Offset - cues[1].Offset
	_, err := edit.Do(r, a, edit.Command{Op: edit.ShiftCues, CueIDs: ids, By: -60 * reveal.Second})
	require.NoError(t, err)
	assert.Equal(t, reveal.Micros(0), r.Steps[1].Cues[1].Offset)
	assert.Equal(t, gap, r.Steps[1].Cues[2].Offset)
	_, err = edit.Do(r, a, edit.Command{Op: edit.StretchCue, CueIDs: ids[:1], By: -60 * reveal.Second, Edge: edit.End})
	require.NoError(t, err)
	assert.Equal(t, edit.ShortestDrag, r.Steps[1].Cues[1].Duration)
}

func TestCommandsThatCannotBe(t *testing.T) {
	a := demo.Pump().Assembly
	r := demo.Teardown(a)
	for name, text := range map[string]string{
		"unknown op": `{"op":"explode"}`, "no step": `{"op":"removeStep","stepId":"gone"}`, "no title": `{"op":"setTitle"}`,
		"empty title": `{"op":"setTitle","title":""}`, "no cue": `{"op":"setCue"}`, "far": `{"op":"moveStep","stepId":"step-1","index":99}`,
		"behind": `{"op":"moveStep","stepId":"step-8","index":0}`, "nothing": `{"op":"shiftCues","by":5}`,
	} {
		c, err := edit.Parse([]byte(text))
		require.NoError(t, err, name)
		_, err = edit.Do(r, a, c)
		assert.Error(t, err, name)
	}
	for _, text := range []string{`{"op":"setTitle","tilte":"x"}`, `{}{}`, ``, `[]`} {
		_, err := edit.Parse([]byte(text))
		assert.Error(t, err, text)
	}
}

// What an edit is called says what a hand did, not what followed from it.
func TestAnEditIsCalledAfterWhatWasDone(t *testing.T) {
	pull := &reveal.Cue{ID: "a", Kind: reveal.KindPull}
	orbit := &reveal.Cue{ID: "b", Kind: reveal.KindOrbit}
	for want, c := range map[string]edit.Command{
		"add a pull":                            {Op: edit.Batch, Commands: []edit.Command{{Op: edit.InsertCue, Cue: pull}, {Op: edit.ChangeDuration, By: 5}}},
		"change an orbit":                       {Op: edit.SetCue, Cue: orbit},
		"move a cue to another step":            {Op: edit.Batch, Commands: []edit.Command{{Op: edit.MoveCue, CueID: "a"}, {Op: edit.SetCue, Cue: pull}}},
		"add a pull, 2 times":                   {Op: edit.Batch, Commands: []edit.Command{{Op: edit.InsertCue, Cue: pull}, {Op: edit.InsertCue, Cue: pull}}},
		"add a step and 1 more":                 {Op: edit.Batch, Commands: []edit.Command{{Op: edit.InsertStep}, {Op: edit.InsertCue, Cue: pull}}},
		"change the length of a step":           {Op: edit.ChangeDuration, By: 5},
		"add an orbit":                          {Op: edit.InsertCue, Cue: orbit},
		"move a cue to another step and 1 more": {Op: edit.Batch, Commands: []edit.Command{{Op: edit.MoveCue, CueID: "a"}, {Op: edit.SetCue, Cue: orbit}}},
	} {
		assert.Equal(t, want, edit.Describe(c))
	}
}
