// Package testdb gives tests a PostgreSQL of their own.
package testdb

import (
	"context"
	"database/sql"
	"fmt"
	"os"
	"path/filepath"
	"testing"

	_ "github.com/jackc/pgx/v5/stdlib"
	"github.com/stretchr/testify/require"

	"slowreveal/localdb"
	"slowreveal/store"
)

var running *localdb.DB

// Run starts a server, runs the package's tests, ends what they shared and stops the server: for
// TestMain.
func Run(m *testing.M, end ...func()) int {
	folder, err := os.MkdirTemp("", "slowreveal-test-")
	if err == nil {
		err = os.Chmod(folder, 0o755) // the database's own user must get in
	}
	if err == nil {
		running, err = localdb.Start(context.Background(), filepath.Join(folder, "postgres"))
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "the tests need PostgreSQL:", err)
		return 1
	}
	defer os.RemoveAll(folder)
	defer running.Stop(context.Background())
	if err := hurry(); err != nil {
		fmt.Fprintln(os.Stderr, "telling PostgreSQL not to wait for the disk:", err)
		return 1
	}
	code := m.Run()
	for _, end := range end {
		end()
	}
	return code
}

// hurry has PostgreSQL leave to the system when what is committed reaches the disk. Whoever kills it loses nothing by
// that, and a machine whose disk is busy does not hold up tests, sometimes for half a minute.
func hurry() error {
	db, err := sql.Open("pgx", running.URL)
	if err != nil {
		return err
	}
	defer db.Close()
	for _, statement := range []string{`alter system set fsync = off`, `alter system set full_page_writes = off`, `select pg_reload_conf()`} {
		if _, err := db.Exec(statement); err != nil {
			return err
		}
	}
	return nil
}

// URL connects to the server.
func URL() string { return running.URL }

// Server is the running server, for tests that stop it.
func Server() *localdb.DB { return running }

// Open opens a store with a data folder of its own. Stores of one package share
// the database.
func Open(t *testing.T, options ...store.Options) *store.Store {
	t.Helper()
	s, _ := OpenIn(t, options...)
	return s
}

// OpenIn opens a store and returns its data folder, too.
func OpenIn(t *testing.T, options ...store.Options) (*store.Store, string) {
	t.Helper()
	folder := t.TempDir()
	s, err := store.Open(context.Background(), running.URL, folder, options...)
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	return s, folder
}

// Restart starts the stopped server again, on the port that it had.
func Restart(t *testing.T) {
	t.Helper()
	require.NoError(t, running.Restart(context.Background()))
}
