package store

import (
	"context"
	"time"
)

type keyOf struct{}

// Keyed returns a context for a request that carries a key (a UUID). What changes something within
// it is done once, however often a request with that key comes: the further ones are told what the
// first was. The key travels with the context, like the deadline, as it is of the request and not
// of what is asked.
func Keyed(ctx context.Context, key string) context.Context {
	return context.WithValue(ctx, keyOf{}, key)
}

// KeyOf returns the key of the request, "" for none.
func KeyOf(ctx context.Context) string {
	key, _ := ctx.Value(keyOf{}).(string)
	return key
}

// Once runs do in a transaction, unless a request with the same key has already been carried out:
// then it returns what that one made. A second request that comes while the first is under way
// waits for its end.
func (s *Store) Once(ctx context.Context, do func(tx *Tx) (made string, err error)) (made string, err error) {
	key := KeyOf(ctx)
	err = s.Within(ctx, func(tx *Tx) error {
		if key == "" {
			made, err = do(tx)
			return err
		}
		fresh, err := changed(
			tx.sql.ExecContext(ctx, `insert into receipts (key) values ($1) on conflict do nothing`, key),
		)
		if err != nil {
			return err
		}
		if !fresh {
			return tx.sql.GetContext(ctx, &made, `select answer from receipts where key = $1`, key)
		}
		if made, err = do(tx); err != nil {
			return err
		}
		_, err = tx.sql.ExecContext(ctx, `update receipts set answer = $2 where key = $1`, key, made)
		return err
	})
	return made, err
}

// receiptsFor is how long it is remembered what was done: no page asks again after so long.
const receiptsFor = 7 * 24 * time.Hour

// ForgetReceipts removes what nobody will ask for again.
func (s *Store) ForgetReceipts(ctx context.Context) error {
	_, err := s.db.ExecContext(
		ctx,
		`delete from receipts where made_at < now() - make_interval(secs => $1)`,
		receiptsFor.Seconds(),
	)
	return err
}
