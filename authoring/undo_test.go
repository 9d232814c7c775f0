package authoring_test

import (
	"errors"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/authoring"
	"slowreveal/core/edit"
	"slowreveal/core/edit/edittest"
	"slowreveal/core/reveal"
	"slowreveal/demo"
	"slowreveal/store"
)

// hand is a person who changes a reveal, on its newest version.
type hand struct {
	t    *testing.T
	s    *authoring.Service
	id   string
	name string
	code string
}

func (h hand) on() authoring.On {
	now, err := h.s.Store.Reveal(ctx, h.id)
	require.NoError(h.t, err)
	return authoring.On{Base: now.Version, Author: h.name, Person: h.code}
}

func (h hand) do(c edit.Command) error {
	_, err := h.s.Do(ctx, h.id, h.on(), authoring.Edit{Command: c})
	return err
}

func (h hand) undo(before int64) error {
	_, err := h.s.Undo(ctx, h.id, h.on(), before)
	return err
}

func (h hand) redo() error {
	_, err := h.s.Redo(ctx, h.id, h.on())
	return err
}

func (h hand) doc() *reveal.Reveal {
	now, err := h.s.Store.Reveal(ctx, h.id)
	require.NoError(h.t, err)
	doc, err := reveal.Parse([]byte(now.Document))
	require.NoError(h.t, err)
	return doc
}

func (h hand) titles() (list []string) {
	for _, s := range h.doc().Steps {
		list = append(list, s.Title)
	}
	return list
}

// retitled sets the title of a step.
func (h hand) retitled(i int, title string) edit.Command {
	step := h.doc().Steps[i]
	step.Cues, step.Title = nil, title
	return edit.Command{Op: edit.SetStep, Step: &step}
}

func two(t *testing.T) (mara, nobody hand) {
	s := open(t)
	_, r := project(t, s)
	return hand{t, s, r.ID, "Mara", uuid.NewString()}, hand{t, s, r.ID, "", uuid.NewString()}
}

func TestEverybodyTakesBackTheirOwn(t *testing.T) {
	mara, other := two(t)
	first := mara.titles()
	require.NoError(t, mara.do(mara.retitled(0, "Mara's")))
	require.NoError(t, other.do(other.retitled(1, "Other's")))
	require.NoError(t, mara.undo(0))
	assert.Equal(t, []string{first[0], "Other's"}, mara.titles()[:2], "the other one's stays")
	var nothing *authoring.NothingLeft
	assert.ErrorAs(t, mara.undo(0), &nothing, "what the other one has done is not hers to take back")
	require.NoError(t, mara.redo())
	require.NoError(t, other.undo(0), "redoing is no change of the other one's")
	assert.Equal(t, []string{"Mara's", first[1]}, mara.titles()[:2])
	require.NoError(t, other.redo())
	assert.Equal(t, []string{"Mara's", "Other's"}, mara.titles()[:2])
	for _, h := range []hand{mara, other} {
		m, err := h.s.Store.Marks(ctx, h.id, h.code, store.NoVersion)
		require.NoError(t, err)
		assert.NotZero(t, m.UndoTo)
		assert.Zero(t, m.RedoTo)
	}
}

func TestWhatOthersHaveBuiltOnIsNotTakenBack(t *testing.T) {
	mara, other := two(t)
	first := mara.titles()
	require.NoError(t, mara.do(mara.retitled(1, "Hers alone")))
	require.NoError(t, mara.do(mara.retitled(0, "Hers")))
	before := mara.on().Base
	require.NoError(t, other.do(other.retitled(0, "Theirs")))
	var depends *authoring.Depends
	require.ErrorAs(t, mara.undo(0), &depends)
	assert.Equal(t, before, depends.Version)
	assert.Equal(
		t,
		"“change a step” cannot be taken back: somebody else has changed the same since (change a step)",
		depends.Error(),
	)
	assert.Equal(t, "Theirs", mara.titles()[0], "nothing was changed")
	// The one before it can be taken back all the same.
	require.NoError(t, mara.undo(depends.Version))
	assert.Equal(t, []string{"Theirs", first[1]}, mara.titles()[:2])
	// When the other one takes theirs back, hers can go too.
	require.NoError(t, other.undo(0))
	assert.Equal(t, "Hers", mara.titles()[0])
	require.NoError(t, mara.undo(0))
	assert.Equal(t, first, mara.titles())
	// And neither can it be done again over what the other one does meanwhile.
	require.NoError(t, other.do(other.retitled(0, "Theirs again")))
	require.ErrorAs(t, mara.redo(), &depends)
	assert.Contains(t, depends.Error(), "cannot be done again")
}

// A page that does not know of an edit yet takes its own back all the same, and is told what it missed.
func TestAnUndoOnAnOldVersionIsOnesOwn(t *testing.T) {
	mara, other := two(t)
	require.NoError(t, mara.do(mara.retitled(0, "Hers")))
	on := mara.on()
	require.NoError(t, other.do(other.retitled(1, "Theirs")))
	out, err := mara.s.Undo(ctx, mara.id, on, 0)
	require.NoError(t, err)
	require.Len(t, out.Since, 2)
	assert.Equal(t, []bool{false, true}, []bool{out.Since[0].Own, out.Since[1].Own})
	assert.Equal(t, "undo", out.Since[1].Kind)
	assert.EqualValues(t, 3, out.RedoTo)
	assert.Zero(t, out.UndoTo)
}

// Three people change, undo and redo as chance has it: the document is always what those changes make of
// it that nobody has taken back, in their order.
func TestTheDocumentIsWhatStands(t *testing.T) {
	s := open(t)
	p, r := project(t, s)
	revision, err := s.Store.Revision(ctx, p.ID)
	require.NoError(t, err)
	m, err := s.Model(ctx, revision.ID, false)
	require.NoError(t, err)
	base := reveal.Clone(demo.Teardown(m.Assembly))
	random := rand.New(rand.NewPCG(5, 8))
	chances := edittest.New(11, m.Assembly)
	var people []hand
	for _, name := range []string{"Mara", "Ines", ""} {
		people = append(people, hand{t, s, r.ID, name, uuid.NewString()})
	}
	stands := map[string][]edit.Command{} // by person: what they have done and not taken back
	undone := map[string][]edit.Command{}
	var order []edit.Command
	without := func(c edit.Command) {
		order = slices.DeleteFunc(order, func(o edit.Command) bool { return same(o, c) })
	}
	depended, reversed, times := 0, 0, 260
	if testing.Short() {
		times = 130
	}
	for range times {
		h := people[random.IntN(3)]
		mine := stands[h.code]
		switch kind := random.IntN(5); {
		case kind < 3:
			c := chances.Command(h.doc(), 0)
			if c.Op == edit.Replace || h.do(c) != nil {
				continue
			}
			stands[h.code], undone[h.code] = append(mine, c), nil
			order = append(order, c)
		case kind == 3:
			err := h.undo(0)
			var depends *authoring.Depends
			if errors.As(err, &depends) {
				depended++
				continue
			}
			if len(mine) == 0 {
				require.Error(t, err)
				continue
			}
			var refused *store.Refused
			if errors.As(err, &refused) {
				continue
			}
			require.NoError(t, err)
			last := mine[len(mine)-1]
			stands[h.code], undone[h.code] = mine[:len(mine)-1], append(undone[h.code], last)
			without(last)
			reversed++
		default:
			again := undone[h.code]
			if h.redo() != nil {
				continue
			}
			require.NotEmpty(t, again)
			last := again[len(again)-1]
			stands[h.code], undone[h.code] = append(mine, last), again[:len(again)-1]
			order = append(order, last)
			reversed++
		}
		want := reveal.Clone(base)
		for i, c := range order {
			_, err := edit.Do(want, m.Assembly, c)
			require.NoError(t, err, "change %d of %d", i, len(order))
		}
		require.Equal(t, edittest.Sorted(want), edittest.Sorted(people[0].doc()))
	}
	assert.Greater(t, reversed, times/7)
	assert.Positive(t, depended)
}

// same tells commands made by chance apart: each has an id, a time or a number of its own.
func same(a, b edit.Command) bool { return assert.ObjectsAreEqual(a, b) }
