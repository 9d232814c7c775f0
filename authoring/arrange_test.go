package authoring_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/authoring"
	"slowreveal/core/arrange"
	"slowreveal/core/assembly"
	"slowreveal/core/edit"
	"slowreveal/core/reveal"
	"slowreveal/store"
)

func named(t *testing.T, s *authoring.Service, project string, id assembly.NodeID) string {
	t.Helper()
	r, err := s.Store.Revision(ctx, project)
	require.NoError(t, err)
	a, _, err := s.Arranged(ctx, r.ID)
	require.NoError(t, err)
	i, ok := a.Index()[id]
	if !ok {
		return ""
	}
	return a.Nodes[i].Name
}

func TestAnArrangementIsKeptOverTheImport(t *testing.T) {
	s := open(t)
	p, r := project(t, s)
	rename := func(version int64, to string) error {
		return s.Arrange(ctx, p.ID, version, arrange.Edit{Do: arrange.Rename, Node: "housing/hood", Name: to})
	}
	require.NoError(t, rename(0, "Lid"))
	require.NoError(t, rename(1, "Top"))
	assert.Equal(t, "Top", named(t, s, p.ID, "housing/hood"))
	var stale *authoring.Stale
	require.ErrorAs(t, rename(1, "Too late"), &stale)
	assert.Equal(t, int64(2), stale.Current)
	require.NoError(t, s.UndoArrange(ctx, p.ID, 2))
	assert.Equal(t, "Lid", named(t, s, p.ID, "housing/hood"))
	require.NoError(t, s.UndoArrange(ctx, p.ID, 3))
	assert.Equal(t, "Hood", named(t, s, p.ID, "housing/hood"))
	var refused *store.Refused
	require.ErrorAs(t, s.UndoArrange(ctx, p.ID, 4), &refused)
	require.NoError(t, s.RedoArrange(ctx, p.ID, 4))
	assert.Equal(t, "Lid", named(t, s, p.ID, "housing/hood"))
	// A new edit forgets what could have been redone.
	require.NoError(t, rename(5, "Cap"))
	require.ErrorAs(t, s.RedoArrange(ctx, p.ID, 6), &refused)
	// An edit that a reveal would not survive is refused with the reveal's name.
	err := s.Arrange(ctx, p.ID, 6, arrange.Edit{Do: arrange.Flatten, Node: "pump-head/door"})
	require.ErrorAs(t, err, &refused)
	assert.Contains(t, err.Error(), "Service teardown")
	// A reveal may move a group of the arrangement; then the group cannot be undone.
	require.NoError(
		t,
		s.Arrange(
			ctx,
			p.ID,
			6,
			arrange.Edit{Do: arrange.Group, Nodes: []assembly.NodeID{"housing/hood", "housing/base"}, Name: "Shell"},
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
	_, err = s.Do(
		ctx,
		r.ID,
		at(r.Version),
		authoring.Edit{Command: edit.Command{Op: edit.InsertCue, StepID: "step-1", Cue: &pull}},
	)
	require.NoError(t, err)
	require.ErrorAs(t, s.UndoArrange(ctx, p.ID, 7), &refused)
	assert.ErrorIs(
		t,
		s.Arrange(
			ctx,
			"01890000-0000-7000-8000-000000000000",
			0,
			arrange.Edit{Do: arrange.Rename, Node: "/", Name: "x"},
		),
		store.ErrMissing,
	)
}

func TestASurveyIsKeptUntilTheShapesChange(t *testing.T) {
	s := open(t)
	p, _ := project(t, s)
	r, err := s.Store.Revision(ctx, p.ID)
	require.NoError(t, err)
	first, err := s.Survey(ctx, r.ID)
	require.NoError(t, err)
	require.NoError(t, s.Arrange(ctx, p.ID, 0, arrange.Edit{Do: arrange.Rename, Node: "housing/hood", Name: "Lid"}))
	second, err := s.Survey(ctx, r.ID)
	require.NoError(t, err)
	assert.Equal(t, first, second, "a name does not matter to it")
	split, err := s.Split(ctx, p.ID, "planet-stage/bearing-608")
	require.NoError(t, err)
	require.Greater(t, len(split.Pieces), 1)
	require.NoError(t, s.Arrange(ctx, p.ID, 1, split))
	third, err := s.SurveyOf(ctx, r.ID)
	require.NoError(t, err)
	m, err := s.Model(ctx, r.ID, true)
	require.NoError(t, err)
	assert.Len(t, third.Shapes, len(m.Shapes))
	assert.Len(t, m.Shapes, len(m.Assembly.Shapes))
	_, err = s.Split(ctx, p.ID, "nobody")
	assert.ErrorContains(t, err, "there is no part")
}

// What is arranged in a transaction that comes to nothing is nobody's: the next edit has the same version, and is what
// everybody sees.
func TestWhatIsNotArrangedInTheEndIsNotSeen(t *testing.T) {
	s := open(t)
	p, r := project(t, s)
	var refused *store.Refused
	require.ErrorAs(t, s.Part(ctx, p.ID, 0, "housing/hood"), &refused, "it is the first revision")
	rename := arrange.Edit{Do: arrange.Rename, Node: "housing/hood", Name: "Lid"}
	require.NoError(t, s.Arrange(ctx, p.ID, 0, rename))
	assert.Equal(t, "Lid", named(t, s, p.ID, "housing/hood"))
	m, err := s.Model(ctx, r.RevisionID, true)
	require.NoError(t, err)
	now, err := s.Store.Reveal(ctx, r.ID)
	require.NoError(t, err)
	doc, err := reveal.Parse([]byte(now.Document))
	require.NoError(t, err)
	assert.NoError(t, reveal.Validate(doc, m.Assembly))
}
