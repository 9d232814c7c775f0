package authoring_test

import (
	"context"
	"fmt"
	"os"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/authoring"
	"slowreveal/core/edit"
	"slowreveal/core/reveal"
	"slowreveal/demo"
	"slowreveal/localdb/testdb"
	"slowreveal/store"
)

func TestMain(m *testing.M) { os.Exit(testdb.Run(m)) }

var ctx = context.Background()

func project(t *testing.T, s *authoring.Service) (store.Project, store.StoredReveal) {
	t.Helper()
	m := demo.Pump()
	p, err := s.CreateProject(ctx, "pump", "pump.glb", m)
	require.NoError(t, err)
	r, err := s.CreateReveal(ctx, p.ID, demo.Teardown(m.Assembly))
	require.NoError(t, err)
	return p, r
}

func title(text string) authoring.Edit {
	return authoring.Edit{Command: edit.Command{Op: edit.SetTitle, Title: &text}}
}

// at is an edit on a version.
func at(version int64) authoring.On { return authoring.On{Base: version, Author: "Mara"} }

func TestAProjectComesBackWithItsShapes(t *testing.T) {
	s := open(t)
	p, _ := project(t, s)
	assert.Equal(t, 80, p.Parts)
	revision, err := s.Store.Revision(ctx, p.ID)
	require.NoError(t, err)
	m, err := s.Model(ctx, revision.ID, true)
	require.NoError(t, err)
	want := demo.Pump()
	require.Len(t, m.Shapes, len(want.Shapes))
	for i := range m.Shapes {
		assert.Equal(t, want.Assembly.Shapes[i].Hash, m.Shapes[i].Hash())
	}
	reveals, err := s.Store.Reveals(ctx, p.ID)
	require.NoError(t, err)
	assert.Len(t, reveals, 2, "a new project has an empty reveal to begin with")
	require.NoError(t, s.Store.DeleteProject(ctx, p.ID))
	_, err = s.Store.Project(ctx, p.ID)
	assert.ErrorIs(t, err, store.ErrMissing)
}

func TestAStaleEditIsToldWhatItMissed(t *testing.T) {
	s := open(t)
	_, r := project(t, s)
	after, err := s.Do(ctx, r.ID, at(0), title("first"))
	require.NoError(t, err)
	assert.Equal(t, int64(1), after.Reveal.Version)
	_, err = s.Do(ctx, r.ID, at(0), title("second"))
	var stale *authoring.Stale
	require.ErrorAs(t, err, &stale)
	assert.Equal(t, int64(1), stale.Current)
	require.Len(t, stale.Since, 1)
	assert.Contains(t, string(stale.Since[0].Command), "first")
	now, err := s.Store.Reveal(ctx, r.ID)
	require.NoError(t, err)
	assert.Equal(t, "first", now.Title, "nothing is overwritten")
}

func TestARefusedCommandLeavesNothing(t *testing.T) {
	s := open(t)
	_, r := project(t, s)
	_, err := s.Do(ctx, r.ID, at(0), title(""))
	var refused *store.Refused
	require.ErrorAs(t, err, &refused)
	log, err := s.Since(ctx, r.ID, at(0))
	require.NoError(t, err)
	assert.Empty(t, log.Since)
	bad := reveal.Clone(demo.Teardown(demo.Pump().Assembly))
	bad.Steps[0].Cues[1].Targets[0] = "gone"
	_, err = s.CreateReveal(ctx, r.ProjectID, bad)
	require.ErrorAs(t, err, &refused)
	assert.Contains(t, err.Error(), `"gone" is not in the assembly`)
}

// Undo and redo are a matter of the log alone: a second store, as after a
// restart, goes on where the first one was.
func TestUndoAndRedoSurviveARestart(t *testing.T) {
	s := open(t)
	_, r := project(t, s)
	first := string(r.Document)
	version := int64(0)
	var states []string
	for k := range 5 {
		after, err := s.Do(ctx, r.ID, at(version), title(fmt.Sprint("title ", k)))
		require.NoError(t, err)
		version = after.Reveal.Version
		states = append(states, string(after.Reveal.Document))
	}
	other := open(t)
	undo := func(s *authoring.Service) (authoring.Outcome, error) { return s.Undo(ctx, r.ID, at(version), 0) }
	redo := func(s *authoring.Service) (authoring.Outcome, error) { return s.Redo(ctx, r.ID, at(version)) }
	step := func(do func(*authoring.Service) (authoring.Outcome, error), s *authoring.Service) string {
		after, err := do(s)
		require.NoError(t, err)
		version = after.Reveal.Version
		return string(after.Reveal.Document)
	}
	for k := 3; k >= 0; k-- {
		assert.Equal(t, states[k], step(undo, other))
	}
	assert.Equal(t, first, step(undo, other))
	_, err := undo(other)
	var nothing *authoring.NothingLeft
	assert.ErrorAs(t, err, &nothing)
	assert.Equal(t, states[0], step(redo, s))
	assert.Equal(t, states[1], step(redo, s))
	assert.Equal(t, states[0], step(undo, s))
	assert.Equal(t, states[1], step(redo, s))
	after, err := s.Do(ctx, r.ID, at(version), title("another way"))
	require.NoError(t, err)
	version = after.Reveal.Version
	_, err = redo(s)
	assert.ErrorAs(t, err, &nothing, "a new change cuts off what could be redone")
	assert.Equal(t, states[1], step(undo, s))
	assert.Equal(t, states[0], step(undo, s))
	assert.Equal(t, first, step(undo, s))
}

func TestOfManyEditsAtOnceOneWins(t *testing.T) {
	s := open(t)
	_, r := project(t, s)
	var all sync.WaitGroup
	won := make(chan int, 8)
	for k := range 8 {
		all.Go(func() {
			if _, err := s.Do(ctx, r.ID, at(0), title(fmt.Sprint(k, " was here"))); err == nil {
				won <- k
			}
		})
	}
	all.Wait()
	close(won)
	require.Len(t, won, 1)
	now, err := s.Store.Reveal(ctx, r.ID)
	require.NoError(t, err)
	assert.Equal(t, fmt.Sprint(<-won, " was here"), now.Title)
}

func TestOthersHearOfAnEdit(t *testing.T) {
	s := open(t)
	_, r := project(t, s)
	listening, stop := context.WithCancel(ctx)
	defer stop()
	heard := make(chan store.Event, 100)
	go s.Store.Listen(listening, func(e store.Event) { heard <- e })
	version := int64(0)
	deadline := time.After(20 * time.Second)
	for {
		after, err := s.Do(ctx, r.ID, at(version), title(fmt.Sprint("edit ", version)))
		require.NoError(t, err)
		version = after.Reveal.Version
		select {
		case e := <-heard:
			if e.ID == r.ID {
				assert.Equal(t, "reveal", e.Kind)
				assert.LessOrEqual(t, e.Version, version)
				return
			}
		case <-time.After(200 * time.Millisecond): // the listener may not be there yet
		case <-deadline:
			t.Fatal("nothing was heard")
		}
	}
}

func TestTheDatabaseMayGoAndComeBack(t *testing.T) {
	s := open(t)
	_, r := project(t, s)
	after, err := s.Do(ctx, r.ID, at(0), title("before"))
	require.NoError(t, err)
	require.NoError(t, testdb.Server().Halt(ctx))
	_, err = s.Do(ctx, r.ID, at(after.Reveal.Version), title("meanwhile"))
	assert.Error(t, err)
	testdb.Restart(t)
	require.Eventually(t, func() bool {
		now, err := s.Store.Reveal(ctx, r.ID)
		return err == nil && now.Title == "before"
	}, 6*6*time.Minute, 100*time.Millisecond)
	after, err = s.Do(ctx, r.ID, at(after.Reveal.Version), title("after"))
	require.NoError(t, err)
	assert.Equal(t, "after", after.Reveal.Title)
}
