package store_test

import (
	"database/sql"
	"net/url"
	"os"
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/authoring"
	"slowreveal/core/reveal"
	"slowreveal/demo"
	"slowreveal/localdb/testdb"
	"slowreveal/store"
)

// A log with the two chains of older versions goes on where it was: four titles, two of them taken back, one
// done again.
func TestAnOldLogGoesOnWhereItWas(t *testing.T) {
	s, address, folder := ofItsOwn(t)
	r := teardown(t, s)
	provider, err := s.Migrations()
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

	s, err = store.Open(ctx, address, folder)
	require.NoError(t, err)
	defer s.Close()
	m, err := s.Marks(ctx, r.ID, "", store.NoVersion)
	require.NoError(t, err)
	assert.Equal(t, store.Marks{UndoTo: 7, RedoTo: 5}, m)
	a := authoring.New(s)
	out, err := a.Redo(ctx, r.ID, authoring.On{Base: 7})
	require.NoError(t, err)
	assert.Equal(t, "D", out.Reveal.Title)
	for _, want := range []string{"C", "B", "A", r.Title} {
		out, err = a.Undo(ctx, r.ID, authoring.On{Base: out.Reveal.Version}, 0)
		require.NoError(t, err)
		assert.Equal(t, want, out.Reveal.Title)
	}
	var nothing *authoring.NothingLeft
	_, err = a.Undo(ctx, r.ID, authoring.On{Base: out.Reveal.Version}, 0)
	assert.ErrorAs(t, err, &nothing)
}

// ofItsOwn opens a store with a database that no other test uses.
func ofItsOwn(t *testing.T) (s *store.Store, address, folder string) {
	t.Helper()
	name := "old_" + uuid.NewString()[:8]
	admin, err := sql.Open("pgx", testdb.URL())
	require.NoError(t, err)
	defer admin.Close()
	_, err = admin.Exec("create database " + name)
	require.NoError(t, err)
	at, err := url.Parse(testdb.URL())
	require.NoError(t, err)
	at.Path = name
	folder = t.TempDir()
	s, err = store.Open(ctx, at.String(), folder)
	require.NoError(t, err)
	return s, at.String(), folder
}

// What the version before the second format stored, in its words: a document, its log, a named version, an output with
// its settings, a set of outputs, an assembly and its arrangement. All of it is read afterwards, and undone.
func TestWhatAnEarlierVersionStoredIsRewritten(t *testing.T) {
	s, address, folder := ofItsOwn(t)
	r := teardown(t, s)
	provider, err := s.Migrations()
	require.NoError(t, err)
	_, err = provider.DownTo(ctx, 9)
	require.NoError(t, err)
	former, err := os.ReadFile("../core/reveal/testdata/format1.json")
	require.NoError(t, err)
	longer := strings.Replace(string(former), `"length":4600000`, `"length":5600000`, 1)
	require.False(t, string(former) == longer)
	for _, change := range []string{
		`update reveals set document = '` + quoted(longer) + `', version = 1 where id = $1`,
		`insert into entries (reveal_id, version, kind, label, command, inverse) values ($1, 1, 'do', 'change the length of a step',
			'{"op":"batch","commands":[{"op":"lengthen","stepId":"step-1","by":1000000}]}',
			'{"op":"batch","commands":[{"op":"lengthen","stepId":"step-1","by":-1000000}]}')`,
		`insert into versions (id, reveal_id, version, name, document) values (gen_random_uuid(), $1, 0, 'First', '` +
			quoted(string(former)) + `')`,
		`insert into presets (id, project_id, name, settings) select gen_random_uuid(), project_id, 'Client',
			'[{"kind":"film","slowed":true,"backward":true,"blur":8,"background":"clear","layers":[{"kind":"ground"}],"card":{"title":"A","length":3000000}}]'
			from reveals where id = $1`,
		`update revisions set assembly = replace(assembly, '"submeshes":', '"patches":')
			where id = (select revision_id from reveals where id = $1)`,
	} {
		_, err = s.SQL().Exec(change, r.ID)
		require.NoError(t, err, change)
	}
	require.NoError(t, s.Close())

	s, err = store.Open(ctx, address, folder)
	require.NoError(t, err)
	defer s.Close()
	a := authoring.New(s)
	document := func() *reveal.Reveal {
		now, err := s.Reveal(ctx, r.ID)
		require.NoError(t, err)
		doc, err := reveal.Parse([]byte(now.Document))
		require.NoError(t, err)
		return doc
	}
	want := demo.Teardown(demo.Pump().Assembly)
	length := want.Steps[0].Duration
	assert.Equal(t, length+reveal.Second, document().Steps[0].Duration)
	_, err = a.Undo(ctx, r.ID, authoring.On{Base: 1}, 0)
	require.NoError(t, err)
	assert.Equal(t, string(reveal.Write(want)), string(reveal.Write(document())))
	list, err := s.Versions(ctx, r.ID)
	require.NoError(t, err)
	require.Len(t, list, 1)
	var texts []string
	require.NoError(t, s.SQL().Select(&texts, `select settings from presets`))
	assert.JSONEq(
		t,
		`[{"kind":"film","ntsc":true,"reverse":true,"shutterSamples":8,"background":"transparent","layers":[{"kind":"background"}],"card":{"title":"A","duration":3000000}}]`,
		texts[0],
	)
	m, err := a.Model(ctx, r.RevisionID, true)
	require.NoError(t, err)
	for i, shape := range m.Assembly.Shapes {
		assert.NotZero(t, shape.Submeshes, "shape %d", i)
	}
}

func quoted(text string) string { return strings.ReplaceAll(text, "'", "''") }
