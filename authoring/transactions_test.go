package authoring_test

import (
	"context"
	"fmt"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/authoring"
	"slowreveal/core/arrange"
	"slowreveal/core/assembly"
	"slowreveal/core/edit"
	"slowreveal/core/reveal"
	"slowreveal/localdb/testdb"
	"slowreveal/store"
)

// open gives every test of this package a store with a single connection: whoever asked for a second
// one inside of a transaction would never get it.
func open(t *testing.T) *authoring.Service {
	t.Helper()
	return authoring.New(testdb.Open(t, store.Options{Connections: 1}))
}

func TestWhatRunsInsideOfATransactionIsGivenNothingElse(t *testing.T) {
	testdb.OnlyItsTransaction(t, "Service", "unit", "change", "draft")
}

func insert(id string) authoring.Edit {
	return authoring.Edit{
		Key: uuid.NewString(),
		Command: edit.Command{
			Op:   edit.InsertStep,
			Step: &reveal.Step{ID: reveal.StepID(id), Title: id, Duration: reveal.Second},
		},
	}
}

// Fifty authors at once, on one reveal and on several, with one connection: all of it is stored.
func TestManyAuthorsAtOnceAreAllServed(t *testing.T) {
	s := open(t)
	_, one := project(t, s)
	_, two := project(t, s)
	begun := time.Now()
	var all sync.WaitGroup
	for k := range 50 {
		all.Go(func() {
			r := []store.StoredReveal{one, two}[k%2]
			for n := range 2 {
				out, err := s.Do(ctx, r.ID, at(0), insert(fmt.Sprintf("author-%d-%d", k, n)))
				for err == store.ErrBusy {
					out, err = s.Do(ctx, r.ID, at(0), insert(fmt.Sprintf("author-%d-%d", k, n)))
				}
				if assert.NoError(t, err) {
					assert.NoError(t, out.Why)
				}
			}
		})
	}
	all.Wait()
	for _, r := range []store.StoredReveal{one, two} {
		now, err := s.Store.Reveal(ctx, r.ID)
		require.NoError(t, err)
		doc, err := reveal.Parse([]byte(now.Document))
		require.NoError(t, err)
		before, err := reveal.Parse([]byte(r.Document))
		require.NoError(t, err)
		assert.Len(t, doc.Steps, len(before.Steps)+50)
		assert.EqualValues(t, 50, now.Version)
	}
	t.Logf("100 edits by 50 authors over one connection took %v", time.Since(begun).Round(time.Millisecond))
}

func TestARequestThatIsGivenUpLetsItsConnectionGo(t *testing.T) {
	s := open(t)
	_, r := project(t, s)
	short, cancel := context.WithTimeout(ctx, 200*time.Millisecond)
	defer cancel()
	other := authoring.New(testdb.Open(t))
	lock, err := other.Store.SQL().Beginx()
	require.NoError(t, err)
	_, err = lock.Exec(`select 1 from reveals where id = $1 for update`, r.ID)
	require.NoError(t, err)
	_, err = s.Do(short, r.ID, at(0), title("never"))
	assert.Error(t, err)
	require.NoError(t, lock.Rollback())
	_, err = s.Do(ctx, r.ID, at(0), title("after it"))
	assert.NoError(t, err)
}

// An edit whose answer was lost is sent again, alone or with others behind it: it is done once.
func TestTheSameKeyTwiceIsOneEdit(t *testing.T) {
	s := open(t)
	_, r := project(t, s)
	first, second := insert("first"), insert("second")
	_, err := s.Do(ctx, r.ID, at(0), first)
	require.NoError(t, err)
	_, err = s.Do(ctx, r.ID, at(1), insert("somebody else's"))
	require.NoError(t, err)
	out, err := s.Do(ctx, r.ID, at(0), first, second)
	require.NoError(t, err)
	assert.EqualValues(t, 3, out.Reveal.Version)
	require.Len(t, out.Since, 3)
	assert.Equal(t, first.Key, *out.Since[0].Key)
	assert.Equal(t, second.Key, *out.Since[2].Key)
	assert.Equal(t, 1, strings.Count(string(out.Reveal.Document), `"title":"first"`))
	again, err := s.Do(ctx, r.ID, at(0), first, second)
	require.NoError(t, err)
	assert.Equal(t, out.Since, again.Since, "the same answer")
	// An undo whose answer was lost takes back one edit, not two.
	keyed := store.Keyed(ctx, uuid.NewString())
	for range 3 {
		out, err = s.Undo(keyed, r.ID, at(3), 0)
		require.NoError(t, err)
		assert.EqualValues(t, 4, out.Reveal.Version)
	}
	assert.Equal(t, 1, strings.Count(string(out.Reveal.Document), `"title":"first"`))
	assert.Equal(t, 0, strings.Count(string(out.Reveal.Document), `"title":"second"`))
}

func TestARequestWithAKeyIsCarriedOutOnce(t *testing.T) {
	s := open(t)
	p, r := project(t, s)
	keyed := store.Keyed(ctx, uuid.NewString())
	doc, err := reveal.Parse([]byte(r.Document))
	require.NoError(t, err)
	one, err := s.CreateReveal(keyed, p.ID, doc)
	require.NoError(t, err)
	two, err := s.CreateReveal(keyed, p.ID, doc)
	require.NoError(t, err)
	assert.Equal(t, one.ID, two.ID)
	keyed = store.Keyed(ctx, uuid.NewString())
	rename := arrange.Edit{Do: arrange.Rename, Node: "housing/hood", Name: "Lid"}
	require.NoError(t, s.Arrange(keyed, p.ID, 0, rename))
	require.NoError(t, s.Arrange(keyed, p.ID, 0, rename), "not stale: it is the same request")
	_, a, err := s.Arranged(ctx, r.RevisionID)
	require.NoError(t, err)
	assert.EqualValues(t, 1, a.Version)
	keyed = store.Keyed(ctx, uuid.NewString())
	v, err := s.Store.NameVersion(keyed, r.ID, "sent", "Mara")
	require.NoError(t, err)
	w, err := s.Store.NameVersion(keyed, r.ID, "sent", "Mara")
	require.NoError(t, err)
	assert.Equal(t, v.ID, w.ID)
}

func TestOfABatchWhatStandsBeforeTheRefusedOneIsDone(t *testing.T) {
	s := open(t)
	_, r := project(t, s)
	bad := title("")
	bad.Key = uuid.NewString()
	out, err := s.Do(ctx, r.ID, at(0), insert("a"), bad, insert("b"))
	require.NoError(t, err)
	assert.EqualValues(t, 1, out.Reveal.Version)
	assert.Equal(t, bad.Key, out.Refused)
	var refused *store.Refused
	assert.ErrorAs(t, out.Why, &refused)
	now, err := s.Store.Reveal(ctx, r.ID)
	require.NoError(t, err)
	assert.Equal(t, 1, strings.Count(string(now.Document), `"title":"a"`))
	assert.Equal(t, 0, strings.Count(string(now.Document), `"title":"b"`))
}

// Edits made on an old version come on top of what others have done, unless they touch the same.
func TestEditsOfDifferentThingsGoTogether(t *testing.T) {
	s := open(t)
	_, r := project(t, s)
	doc, err := reveal.Parse([]byte(r.Document))
	require.NoError(t, err)
	cue, step := doc.Steps[8].Cues[0], doc.Steps[8].ID // a step that none runs backwards
	shift := authoring.Edit{
		Command: edit.Command{Op: edit.ShiftCues, CueIDs: []reveal.CueID{cue.ID}, By: reveal.Second / 5},
	}
	_, err = s.Do(ctx, r.ID, at(0), title("theirs"))
	require.NoError(t, err)
	out, err := s.Do(ctx, r.ID, at(0), shift)
	require.NoError(t, err)
	require.Len(t, out.Since, 2)
	assert.Equal(t, "theirs", out.Reveal.Title)
	cue.Muted = true
	_, err = s.Do(ctx, r.ID, at(1), authoring.Edit{Command: edit.Command{Op: edit.SetCue, Cue: &cue}})
	var stale *authoring.Stale
	require.ErrorAs(t, err, &stale)
	assert.Equal(t, "Mara", stale.By)
	_, err = s.Do(ctx, r.ID, at(1), authoring.Edit{Command: edit.Command{Op: edit.RemoveStep, StepID: step}})
	require.ErrorAs(t, err, &stale, "the step holds what somebody has just changed")
	var refused *store.Refused
	_, err = s.Do(ctx, r.ID, at(1), authoring.Edit{Command: edit.Command{Op: edit.RemoveCue, CueID: "never there"}})
	require.ErrorAs(t, err, &refused, "what was never possible is nobody else's doing")
	now, err := s.Store.Reveal(ctx, r.ID)
	require.NoError(t, err)
	assert.EqualValues(t, 2, now.Version, "what clashes leaves nothing")
}

// Who is further behind than a log is sent gets the reveal as it is, and is told which edits of theirs
// are in it.
func TestWhoIsFarBehindGetsTheWhole(t *testing.T) {
	s := open(t)
	_, r := project(t, s)
	mine := insert("mine")
	_, err := s.Do(ctx, r.ID, at(0), mine)
	require.NoError(t, err)
	var many []authoring.Edit
	for k := range 1000 {
		many = append(many, title(fmt.Sprint("title ", k)))
	}
	_, err = s.Do(ctx, r.ID, at(1), many...)
	require.NoError(t, err)
	_, err = s.Do(ctx, r.ID, at(0), mine, insert("more"))
	var stale *authoring.Stale
	require.ErrorAs(t, err, &stale)
	require.NotNil(t, stale.Whole)
	assert.Equal(t, "title 999", stale.Whole.Title)
	assert.Equal(t, []string{mine.Key}, stale.Done)
	out, err := s.Since(ctx, r.ID, at(0))
	require.NoError(t, err)
	assert.NotNil(t, out.Whole)
	out, err = s.Since(ctx, r.ID, at(1))
	require.NoError(t, err)
	assert.Len(t, out.Since, 1000)
}

// Rearranging and editing at once: neither passes the other by. A reveal that names a group and an
// arrangement without that group never stand together.
func TestAnArrangementAndItsRevealsNeverContradictEachOther(t *testing.T) {
	s := authoring.New(testdb.Open(t))
	for range 8 {
		p, r := project(t, s)
		require.NoError(
			t,
			s.Arrange(
				ctx,
				p.ID,
				0,
				arrange.Edit{
					Do:    arrange.Group,
					Nodes: []assembly.NodeID{"housing/hood", "housing/base"},
					Name:  "Shell",
				},
			),
		)
		pull := reveal.Cue{
			ID:       "shell",
			Kind:     reveal.KindPull,
			Targets:  []assembly.NodeID{"group/shell"},
			Duration: reveal.Second,
			Easing:   reveal.Smooth,
			Pull:     &reveal.Pull{Axes: reveal.OwnAxes, Along: [3]float64{0, 1, 0}, Distance: 10},
		}
		var both sync.WaitGroup
		var editing, ungrouping error
		both.Go(func() {
			_, editing = s.Do(
				ctx,
				r.ID,
				at(r.Version),
				authoring.Edit{Command: edit.Command{Op: edit.InsertCue, StepID: "step-1", Cue: &pull}},
			)
		})
		both.Go(func() { ungrouping = s.UndoArrange(ctx, p.ID, 1) })
		both.Wait()
		assert.False(t, editing == nil && ungrouping == nil, "both went through")
		assert.False(t, editing != nil && ungrouping != nil, "neither went through: %v, %v", editing, ungrouping)
	}
}

func TestADeletedRevealIsInNobodysWay(t *testing.T) {
	s := open(t)
	p, r := project(t, s)
	flatten := arrange.Edit{Do: arrange.Flatten, Node: "pump-head/door"}
	var refused *store.Refused
	require.ErrorAs(t, s.Arrange(ctx, p.ID, 0, flatten), &refused)
	require.NoError(t, s.Store.DeleteReveal(ctx, r.ID))
	require.NoError(t, s.Arrange(ctx, p.ID, 0, flatten))
	require.NoError(t, s.RestoreReveal(ctx, r.ID))
	back, err := s.Store.Reveal(ctx, r.ID)
	require.NoError(t, err)
	m, err := s.Model(ctx, back.RevisionID, false)
	require.NoError(t, err)
	doc, err := reveal.Parse([]byte(back.Document))
	require.NoError(t, err)
	require.NoError(t, reveal.Validate(doc, m.Assembly), "it fits what there is")
	assert.EqualValues(t, r.Version+1, back.Version, "by an edit of its own")
}
