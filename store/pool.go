package store

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"errors"
	"fmt"
	"io"
	"net"
	"strings"
	"sync"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/jmoiron/sqlx"
	"golang.org/x/sync/semaphore"
)

// pool hands out connections to the database. Everything takes one at a time: who is inside a
// transaction is given the transaction and nothing else (Tx), so that a full pool empties.
type pool struct {
	*sqlx.DB
	// pulse is a connection of its own that asks how the database is.
	pulse *sql.DB
}

// ErrBusy says that no connection to the database became free in time.
var ErrBusy = errors.New("too much is asked at once; try again in a moment")

const (
	// patience is how long a request waits for a connection before it is sent away, longestTurn how
	// long for its turn: fifty authors of one reveal take some tenths of a second.
	patience, longestTurn = 900 * time.Millisecond, 10 * time.Second
	// What PostgreSQL itself ends: a statement, waiting for a lock, a transaction in which
	// nothing happens.
	longestStatement, longestLock, longestIdle = "30s", "8s", "20s"
)

func openPool(ctx context.Context, url string, size int) (*pool, error) {
	config, err := pgx.ParseConfig(url)
	if err != nil {
		return nil, fmt.Errorf("the database's address is not understood: %w", err)
	}
	config.ConnectTimeout = 5 * time.Second
	limited := config.Copy()
	limited.RuntimeParams["statement_timeout"] = longestStatement
	limited.RuntimeParams["lock_timeout"] = longestLock
	limited.RuntimeParams["idle_in_transaction_session_timeout"] = longestIdle
	p := &pool{DB: sqlx.NewDb(stdlib.OpenDB(*limited), "pgx"), pulse: stdlib.OpenDB(*config)}
	p.SetMaxOpenConns(size)
	p.SetMaxIdleConns(size)
	p.SetConnMaxIdleTime(time.Minute)
	p.pulse.SetMaxOpenConns(1)
	if err := p.PingContext(ctx); err != nil {
		return nil, errors.Join(fmt.Errorf("PostgreSQL does not answer: %w", err), p.close())
	}
	return p, nil
}

func (p *pool) close() error { return errors.Join(p.DB.Close(), p.pulse.Close()) }

// conn waits for a connection, but not for ever.
func (p *pool) conn(ctx context.Context) (*sqlx.Conn, error) {
	waiting, cancel := context.WithTimeoutCause(ctx, patience, ErrBusy)
	defer cancel()
	c, err := p.Connx(waiting)
	if err != nil && errors.Is(context.Cause(waiting), ErrBusy) {
		return nil, ErrBusy
	}
	if err != nil {
		return nil, fmt.Errorf("PostgreSQL does not answer: %w", err)
	}
	return c, nil
}

func (p *pool) on(ctx context.Context, do func(c *sqlx.Conn) error) error {
	c, err := p.conn(ctx)
	if err != nil {
		return err
	}
	defer c.Close()
	return do(c)
}

// GetContext reads one row.
func (p *pool) GetContext(ctx context.Context, dest any, query string, args ...any) error {
	return p.on(ctx, func(c *sqlx.Conn) error { return c.GetContext(ctx, dest, query, args...) })
}

// SelectContext reads rows.
func (p *pool) SelectContext(ctx context.Context, dest any, query string, args ...any) error {
	return p.on(ctx, func(c *sqlx.Conn) error { return c.SelectContext(ctx, dest, query, args...) })
}

// ExecContext changes something, by itself.
func (p *pool) ExecContext(ctx context.Context, query string, args ...any) (out sql.Result, err error) {
	err = p.on(ctx, func(c *sqlx.Conn) error {
		out, err = c.ExecContext(ctx, query, args...)
		return err
	})
	return out, err
}

// Pulse asks the database whether it is there, over a connection of its own: it answers also
// when all others are busy.
func (s *Store) Pulse(ctx context.Context) error { return s.db.pulse.PingContext(ctx) }

// turns lets one at a time do something about the same thing, in the order in which they came,
// and without holding a connection while they wait.
type turns struct {
	mu      sync.Mutex
	waiting map[string]*turn
}

type turn struct {
	*semaphore.Weighted
	wanted int
}

// take waits for the turn; done ends it.
func (t *turns) take(ctx context.Context, of string) (done func(), err error) {
	t.mu.Lock()
	if t.waiting == nil {
		t.waiting = map[string]*turn{}
	}
	w := t.waiting[of]
	if w == nil {
		w = &turn{Weighted: semaphore.NewWeighted(1)}
		t.waiting[of] = w
	}
	w.wanted++
	t.mu.Unlock()
	leave := func() {
		t.mu.Lock()
		defer t.mu.Unlock()
		if w.wanted--; w.wanted == 0 {
			delete(t.waiting, of)
		}
	}
	waiting, cancel := context.WithTimeoutCause(ctx, longestTurn, ErrBusy)
	defer cancel()
	if err := w.Acquire(waiting, 1); err != nil {
		leave()
		return nil, context.Cause(waiting)
	}
	return func() { w.Release(1); leave() }, nil
}

// IsAway reports whether an error says that the database could not be reached, or went
// away: it may come back.
func IsAway(err error) bool {
	var connecting *pgconn.ConnectError
	var refused *pgconn.PgError
	var network *net.OpError // not net.Error: the codes of missing files are such errors too
	switch {
	case errors.Is(err, ErrBusy),
		pgconn.SafeToRetry(err),
		errors.Is(err, sql.ErrConnDone),
		errors.Is(err, sql.ErrTxDone),
		errors.Is(err, net.ErrClosed):
		return true // the last four: the connection went away between two statements
	case errors.As(err, &connecting),
		errors.As(err, &network),
		errors.Is(err, driver.ErrBadConn),
		errors.Is(err, io.ErrUnexpectedEOF),
		errors.Is(err, io.EOF):
		return true
	case errors.As(err, &refused):
		// PostgreSQL, appendix A: class 08 is about connections, 57P01 to 57P05 about shutdown,
		// 55P03 and 57014 about locks and statements that took too long.
		return strings.HasPrefix(refused.Code, "08") || strings.HasPrefix(refused.Code, "57P0") ||
			refused.Code == "55P03" ||
			refused.Code == "57014"
	}
	return false
}

// IsUnstorable reports whether PostgreSQL will never take a value as it is (class 22 of
// appendix A: a sign that no text may hold, say): asking again does not help.
func IsUnstorable(err error) bool {
	var refused *pgconn.PgError
	return errors.As(err, &refused) && strings.HasPrefix(refused.Code, "22")
}
