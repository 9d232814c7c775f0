package store

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"

	_ "github.com/jackc/pgx/v5/stdlib" // the driver "pgx"
	"github.com/jmoiron/sqlx"
	"github.com/pressly/goose/v3"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"
	"github.com/riverqueue/river/rivermigrate"
	"gocloud.dev/blob/fileblob"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Store is the connection to the database and the blobs: a repository. It keeps and finds; what may be kept, and what
// follows from it, is decided above it (package authoring).
type Store struct {
	queries
	*Blobs
	db  *pool
	url string
	// folder is that of the data, films the one of finished outputs in it.
	folder, films string
	// turns lets one edit of a reveal after the other in, as they come.
	turns turns
}

// ErrMissing says that there is no such thing (any more).
var ErrMissing = errors.New("it does not exist, or was deleted")

// Refused says that what is asked for cannot be done: the cause says why, for who asks.
type Refused struct{ Cause error }

// Error gives the cause.
func (r *Refused) Error() string { return r.Cause.Error() }

// Unwrap returns the cause.
func (r *Refused) Unwrap() error { return r.Cause }

// Options say how a store is opened; the zero value is the usual way.
type Options struct {
	// Connections is the size of the pool, 0 for the usual one. One is enough for everything:
	// nothing asks for a second while it has one.
	Connections int
}

// connections is how many connections a process holds, beside the one that listens and the
// one that asks how the database is.
const connections = 20

// Open connects to the database at url, brings its tables up to date, and
// keeps files below folder.
func Open(ctx context.Context, url, folder string, options ...Options) (*Store, error) {
	size := connections
	for _, o := range options {
		size = max(o.Connections, 1)
	}
	db, err := openPool(ctx, url, size)
	if err != nil {
		return nil, err
	}
	s := &Store{
		queries: queries{db},
		db:      db,
		url:     url,
		folder:  folder,
		films:   filepath.Join(folder, "films"),
	}
	if err := s.migrate(ctx); err != nil {
		db.close()
		return nil, err
	}
	shapes := filepath.Join(folder, "blobs")
	for _, dir := range []string{shapes, s.films} {
		if err := os.MkdirAll(dir, 0o700); err != nil {
			db.close()
			return nil, fmt.Errorf("making the data folder: %w", err)
		}
	}
	bucket, err := fileblob.OpenBucket(shapes, &fileblob.Options{NoTempDir: true, Metadata: fileblob.MetadataDontWrite})
	if err != nil {
		db.close()
		return nil, fmt.Errorf("opening the blob folder %s: %w", shapes, err)
	}
	s.Blobs = &Blobs{bucket: bucket}
	return s, nil
}

// versions are the migrations of the database.
func (s *Store) versions() (*goose.Provider, error) {
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return nil, err
	}
	return goose.NewProvider(goose.DialectPostgres, s.db.DB.DB, files, goose.WithGoMigrations(renaming))
}

func (s *Store) migrate(ctx context.Context) error {
	provider, err := s.versions()
	if err != nil {
		return fmt.Errorf("reading the migrations: %w", err)
	}
	if _, err := provider.Up(ctx); err != nil {
		return fmt.Errorf("bringing the database up to date: %w", err)
	}
	river, err := rivermigrate.New(riverdatabasesql.New(s.db.DB.DB), nil)
	if err != nil {
		return err
	}
	if _, err := river.Migrate(ctx, rivermigrate.DirectionUp, nil); err != nil {
		return fmt.Errorf("bringing the queue's tables up to date: %w", err)
	}
	return nil
}

// SQL is the pool itself, for the queue's library and for tests.
func (s *Store) SQL() *sqlx.DB { return s.db.DB }

// Close lets go of everything.
func (s *Store) Close() error { return errors.Join(s.bucket.Close(), s.db.close()) }

// changed reports whether a statement changed a row.
func changed(r sql.Result, err error) (bool, error) {
	if err != nil {
		return false, err
	}
	n, err := r.RowsAffected()
	return n > 0, err
}

// missing turns "no rows" into ErrMissing.
func missing(err error) error {
	if errors.Is(err, sql.ErrNoRows) {
		return ErrMissing
	}
	return err
}
