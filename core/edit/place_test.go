package edit_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/edit"
	"slowreveal/core/reveal"
	"slowreveal/demo"
)

func stepsOf(r *reveal.Reveal) (ids []string) {
	for _, s := range r.Steps {
		ids = append(ids, string(s.ID))
	}
	return ids
}

// plain is a reveal with empty steps of these names.
func plain(t *testing.T, ids ...string) *reveal.Reveal {
	t.Helper()
	r := demo.Teardown(demo.Pump().Assembly)
	r.Steps = nil
	for _, id := range ids {
		r.Steps = append(r.Steps, reveal.Step{ID: reveal.StepID(id), Title: id, Duration: reveal.Second})
	}
	return r
}

func add(id string, index int) edit.Command {
	return edit.Command{
		Op:    edit.InsertStep,
		Index: index,
		Step:  &reveal.Step{ID: reveal.StepID(id), Title: id, Duration: reveal.Second},
	}
}

// What is put behind a step stays behind it, whatever others have put into the list, or taken out of it.
func TestAPlaceIsKnownByItsNeighbours(t *testing.T) {
	a := demo.Pump().Assembly
	for _, c := range []struct {
		name           string
		mine, theirs   edit.Command
		want           []string
		takenBackAgain []string
	}{
		{"a step, and one before it", add("mine", 2), add("theirs", 0), []string{"theirs", "a", "b", "mine", "c", "d"}, []string{"theirs", "a", "b", "c", "d"}},
		{"a step whose neighbour goes", add("mine", 2), edit.Command{Op: edit.RemoveStep, StepID: "b"}, []string{"a", "mine", "c", "d"}, []string{"a", "c", "d"}},
		{"a step at the end", add("mine", 4), add("theirs", 1), []string{"a", "theirs", "b", "c", "d", "mine"}, []string{"a", "theirs", "b", "c", "d"}},
		{"a step that moves", edit.Command{Op: edit.MoveStep, StepID: "a", Index: 2}, add("theirs", 1), []string{"theirs", "b", "c", "a", "d"}, nil},
	} {
		here, there := plain(t, "a", "b", "c", "d"), plain(t, "a", "b", "c", "d")
		_, err := edit.DoNoting(here, a, &c.mine)
		require.NoError(t, err, c.name)
		_, err = edit.Do(there, a, c.theirs)
		require.NoError(t, err, c.name)
		back, err := edit.Do(there, a, c.mine)
		require.NoError(t, err, c.name)
		assert.Equal(t, c.want, stepsOf(there), c.name)
		if c.takenBackAgain != nil {
			_, err = edit.Do(there, a, back)
			require.NoError(t, err, c.name)
			assert.Equal(t, c.takenBackAgain, stepsOf(there), c.name)
		}
	}
}

// A step that was removed comes back where it was, also when the list has changed before it.
func TestWhatWasRemovedComesBackWhereItWas(t *testing.T) {
	a := demo.Pump().Assembly
	r := plain(t, "a", "b", "c", "d")
	back, err := edit.Do(r, a, edit.Command{Op: edit.RemoveStep, StepID: "c"})
	require.NoError(t, err)
	theirs, err := edit.Do(r, a, add("theirs", 0))
	require.NoError(t, err)
	other, err := edit.Do(r, a, edit.Command{Op: edit.RemoveStep, StepID: "b"})
	require.NoError(t, err)
	_, err = edit.Do(r, a, back)
	require.NoError(t, err)
	assert.Equal(t, []string{"theirs", "a", "c", "d"}, stepsOf(r))
	for _, c := range []edit.Command{other, theirs} {
		_, err = edit.Do(r, a, c)
		require.NoError(t, err)
	}
	assert.Equal(t, []string{"a", "b", "c", "d"}, stepsOf(r))
	_, err = edit.Do(r, a, add("nowhere", 9))
	assert.ErrorContains(t, err, "not between 0 and 4")
}
