package store_test

import (
	"database/sql"
	"net/url"
	"os"
	"testing"

	"github.com/google/uuid"
	"github.com/pressly/goose/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/reveal"
	"slowreveal/demo"
	"slowreveal/localdb/testdb"
	"slowreveal/store"
)

// A log with the two chains of older versions goes on where it was: four titles, two of them taken back, one
// done again.
func TestAnOldLogGoesOnWhereItWas(t *testing.T) {
	name := "old_" + uuid.NewString()[:8]
	admin, err := sql.Open("pgx", testdb.URL())
	require.NoError(t, err)
	defer admin.Close()
	_, err = admin.Exec("create database " + name)
	require.NoError(t, err)
	address, err := url.Parse(testdb.URL())
	require.NoError(t, err)
	address.Path = name
	folder := t.TempDir()
	s, err := store.Open(ctx, address.String(), folder)
	require.NoError(t, err)
	_, r := project(t, s)
	provider, err := goose.NewProvider(goose.DialectPostgres, s.SQL().DB, os.DirFS("migrations"))
	require.NoError(t, err)
	_, err = provider.DownTo(ctx, 8)
	require.NoError(t, err)
	title := func(text string) string { return `{"op":"setTitle","title":"` + text + `"}` }
	for _, e := range []struct {
		version            int64
		kind, to, from     string
		undoNext, redoNext int64
	}{
		{1, "do", "A", r.Title, 0, 0}, {2, "do", "B", "A", 1, 0}, {3, "do", "C", "B", 2, 0}, {4, "do", "D", "C", 3, 0},
		{5, "undo", "C", "D", 4, 0}, {6, "undo", "B", "C", 3, 5}, {7, "redo", "C", "B", 2, 6},
	} {
		_, err = s.SQL().
			Exec(`insert into entries (reveal_id, version, kind, label, command, inverse, undo_next, redo_next) values ($1, $2, $3, 'rename the reveal', $4, $5, $6, $7)`,
				r.ID, e.version, e.kind, title(e.to), title(e.from), e.undoNext, e.redoNext)
		require.NoError(t, err)
	}
	doc := demo.Teardown(demo.Pump().Assembly)
	doc.Title = "C"
	_, err = s.SQL().
		Exec(`update reveals set version = 7, undo_to = 7, redo_to = 5, title = 'C', document = $2 where id = $1`, r.ID, string(reveal.Write(doc)))
	require.NoError(t, err)
	require.NoError(t, s.Close())

	s, err = store.Open(ctx, address.String(), folder)
	require.NoError(t, err)
	defer s.Close()
	h := hand{t, s, r.ID, "", ""}
	m, err := s.Marks(ctx, r.ID, "")
	require.NoError(t, err)
	assert.Equal(t, store.Marks{UndoTo: 7, RedoTo: 5}, m)
	require.NoError(t, h.redo())
	assert.Equal(t, "D", h.doc().Title)
	for _, want := range []string{"C", "B", "A", r.Title} {
		require.NoError(t, h.undo(0))
		assert.Equal(t, want, h.doc().Title)
	}
	var nothing *store.NothingLeft
	assert.ErrorAs(t, h.undo(0), &nothing)
}
