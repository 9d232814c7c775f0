package store

import (
	"context"
	"fmt"

	"github.com/jmoiron/sqlx"
)

// reader is what the pool and a transaction offer alike.
type reader interface {
	GetContext(ctx context.Context, dest any, query string, args ...any) error
	SelectContext(ctx context.Context, dest any, query string, args ...any) error
}

// queries are what can be read alike by itself and inside a transaction: a Store and a Tx have them.
type queries struct{ reader reader }

// Tx is a transaction, and all that the code inside one is given of the database: a second connection could be one
// that never comes.
type Tx struct {
	queries
	sql *sqlx.Tx
}

// Within runs do in a transaction. What do needs of the database, it takes from the transaction (tested:
// transactions_test.go).
func (s *Store) Within(ctx context.Context, do func(tx *Tx) error) error {
	return s.db.on(ctx, func(c *sqlx.Conn) error {
		tx, err := c.BeginTxx(ctx, nil)
		if err != nil {
			return fmt.Errorf("PostgreSQL does not answer: %w", err)
		}
		defer tx.Rollback()
		if err := do(&Tx{queries{tx}, tx}); err != nil {
			return err
		}
		return tx.Commit()
	})
}

// Turn waits until nobody else of this process changes a reveal, in the order in which they came; done lets the next
// one in. ErrBusy when it takes too long.
func (s *Store) Turn(ctx context.Context, reveal string) (done func(), err error) {
	return s.turns.take(ctx, reveal)
}
