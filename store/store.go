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
	"sync"
	"time"

	"database/sql/driver"
	"github.com/jackc/pgx/v5/pgconn"
	_ "github.com/jackc/pgx/v5/stdlib" // the driver "pgx"
	"github.com/jmoiron/sqlx"
	"github.com/pressly/goose/v3"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"
	"github.com/riverqueue/river/rivermigrate"
	"gocloud.dev/blob"
	"gocloud.dev/blob/fileblob"
	"io"
	"net"
	"strings"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Store is the connection to the database and the blobs.
type Store struct {
	DB    *sqlx.DB
	url   string
	blobs *blob.Bucket
	// films is the folder of finished outputs.
	films string

	mu     sync.Mutex
	models map[string]*model // by revision, the most recent few
	recent []string

	surveying sync.Mutex
}

// ErrMissing says that there is no such thing (any more).
var ErrMissing = errors.New("it does not exist, or was deleted")

// Open connects to the database at url, brings its tables up to date, and
// keeps files below folder.
func Open(ctx context.Context, url, folder string) (*Store, error) {
	db, err := sqlx.ConnectContext(ctx, "pgx", url)
	if err != nil {
		return nil, fmt.Errorf("PostgreSQL does not answer: %w", err)
	}
	db.SetMaxOpenConns(20)
	db.SetConnMaxIdleTime(time.Minute)
	s := &Store{DB: db, url: url, films: filepath.Join(folder, "films"), models: map[string]*model{}}
	if err := s.migrate(ctx); err != nil {
		db.Close()
		return nil, err
	}
	shapes := filepath.Join(folder, "blobs")
	for _, dir := range []string{shapes, s.films} {
		if err := os.MkdirAll(dir, 0o700); err != nil {
			db.Close()
			return nil, fmt.Errorf("making the data folder: %w", err)
		}
	}
	s.blobs, err = fileblob.OpenBucket(shapes, &fileblob.Options{NoTempDir: true, Metadata: fileblob.MetadataDontWrite})
	if err != nil {
		db.Close()
		return nil, fmt.Errorf("opening the blob folder %s: %w", shapes, err)
	}
	return s, nil
}

func (s *Store) migrate(ctx context.Context) error {
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	provider, err := goose.NewProvider(goose.DialectPostgres, s.DB.DB, files)
	if err != nil {
		return fmt.Errorf("reading the migrations: %w", err)
	}
	if _, err := provider.Up(ctx); err != nil {
		return fmt.Errorf("bringing the database up to date: %w", err)
	}
	river, err := rivermigrate.New(riverdatabasesql.New(s.DB.DB), nil)
	if err != nil {
		return err
	}
	if _, err := river.Migrate(ctx, rivermigrate.DirectionUp, nil); err != nil {
		return fmt.Errorf("bringing the queue's tables up to date: %w", err)
	}
	return nil
}

// Close lets go of everything.
func (s *Store) Close() error { return errors.Join(s.blobs.Close(), s.DB.Close()) }

// within runs do in a transaction.
func (s *Store) within(ctx context.Context, do func(tx *sqlx.Tx) error) error {
	tx, err := s.DB.BeginTxx(ctx, nil)
	if err != nil {
		return fmt.Errorf("PostgreSQL does not answer: %w", err)
	}
	defer tx.Rollback()
	if err := do(tx); err != nil {
		return err
	}
	return tx.Commit()
}

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

// IsAway reports whether an error says that the database could not be reached, or went
// away: it may come back.
func IsAway(err error) bool {
	var connecting *pgconn.ConnectError
	var refused *pgconn.PgError
	var network *net.OpError // not net.Error: the codes of missing files are such errors too
	switch {
	case errors.As(err, &connecting), errors.As(err, &network), errors.Is(err, driver.ErrBadConn), errors.Is(err, io.ErrUnexpectedEOF), errors.Is(err, io.EOF):
		return true
	case errors.As(err, &refused):
		// PostgreSQL, appendix A: class 08 is about connections, 57P01 to 57P03 about shutdown.
		return strings.HasPrefix(refused.Code, "08") || strings.HasPrefix(refused.Code, "57P0")
	}
	return false
}
