package store_test

import (
	"context"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/authoring"
	"slowreveal/demo"
	"slowreveal/localdb/testdb"
	"slowreveal/store"
)

func TestMain(m *testing.M) { os.Exit(testdb.Run(m)) }

var ctx = context.Background()

// open gives every test of this package a store with a single connection: whoever asked for a second
// one inside of a transaction would never get it.
func open(t *testing.T) *store.Store {
	t.Helper()
	return testdb.Open(t, store.Options{Connections: 1})
}

func project(t *testing.T, s *store.Store) store.Project {
	t.Helper()
	p, err := authoring.New(s).CreateProject(ctx, "pump", "pump.glb", demo.Pump())
	require.NoError(t, err)
	return p
}

// teardown is a project's reveal with all of the example.
func teardown(t *testing.T, s *store.Store) store.StoredReveal {
	t.Helper()
	p := project(t, s)
	r, err := authoring.New(s).CreateReveal(ctx, p.ID, demo.Teardown(demo.Pump().Assembly))
	require.NoError(t, err)
	return r
}

func TestWhatRunsInsideOfATransactionIsGivenNothingElse(t *testing.T) {
	testdb.OnlyItsTransaction(t, "Store", "Tx")
}

func TestAFullPoolSaysSoWithinASecond(t *testing.T) {
	s := open(t)
	c, err := s.SQL().Connx(ctx)
	require.NoError(t, err)
	begun := time.Now()
	_, err = s.Projects(ctx)
	assert.ErrorIs(t, err, store.ErrBusy)
	assert.Less(t, time.Since(begun), 3*time.Second)
	assert.NoError(t, s.Pulse(ctx), "how the database is can be asked all the same")
	require.NoError(t, c.Close())
	_, err = s.Projects(ctx)
	assert.NoError(t, err)
}

func TestFilesOfAnImportComeBackAsTheyWere(t *testing.T) {
	s := open(t)
	i := store.Import{ID: store.NewImport(), Name: "files"}
	i.Source = i.ID
	for _, name := range []string{"a b.stl", "ünïcode.step", "x.mtl"} {
		n, err := s.PutFile(ctx, i.Source, name, strings.NewReader("content of "+name))
		require.NoError(t, err)
		i.Files = append(i.Files, store.File{Name: name, Bytes: n})
	}
	folder := t.TempDir()
	require.NoError(t, s.Unpack(ctx, i, folder))
	for _, f := range i.Files {
		assert.Equal(t, "content of "+f.Name, string(contents(t, folder, f.Name)))
	}
	require.NoError(t, s.DropFiles(ctx, i.Source))
	assert.ErrorContains(t, s.Unpack(ctx, i, t.TempDir()), "not there any more")
}

func contents(t *testing.T, folder, name string) []byte {
	t.Helper()
	data, err := os.ReadFile(filepath.Join(folder, name))
	require.NoError(t, err)
	return data
}
