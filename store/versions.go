package store

import (
	"context"
	"fmt"
	"time"
)

// Version is a state of a reveal that somebody has given a name.
type Version struct {
	ID       string    `db:"id" json:"id"`
	RevealID string    `db:"reveal_id" json:"revealId"`
	Version  int64     `db:"version" json:"version"`
	Name     string    `db:"name" json:"name"`
	Author   string    `db:"author" json:"author,omitempty"`
	MadeAt   time.Time `db:"made_at" json:"madeAt"`
	Document RawText   `db:"document" json:"-"`
}

// NameVersion gives the present state of a reveal a name.
func (s *Store) NameVersion(ctx context.Context, id, name, author string) (Version, error) {
	r, err := s.Reveal(ctx, id)
	if err != nil {
		return Version{}, err
	}
	made, err := s.Once(ctx, func(tx *Tx) (string, error) { return tx.InsertVersion(ctx, &r, name, author) })
	if err != nil {
		return Version{}, fmt.Errorf("naming the version: %w", err)
	}
	return s.Version(ctx, made)
}

// InsertVersion gives a state of a reveal a name, and returns the id of the named version.
func (tx *Tx) InsertVersion(ctx context.Context, r *StoredReveal, name, author string) (id string, err error) {
	id = newID()
	_, err = tx.sql.ExecContext(
		ctx,
		`insert into versions (id, reveal_id, version, name, author, document) values ($1, $2, $3, $4, $5, $6)`,
		id,
		r.ID,
		r.Version,
		name,
		author,
		string(r.Document),
	)
	return id, err
}

// Versions lists the named versions of a reveal, the newest first.
func (s *Store) Versions(ctx context.Context, id string) ([]Version, error) {
	list := []Version{}
	err := s.db.SelectContext(
		ctx,
		&list,
		`select id, reveal_id, version, name, author, made_at, 'null' as document from versions
		where reveal_id = $1 order by made_at desc, id desc`,
		id,
	)
	return list, err
}

// Version returns one named version with its document.
func (s *Store) Version(ctx context.Context, id string) (Version, error) {
	var v Version
	err := s.db.GetContext(ctx, &v, `select * from versions where id = $1`, id)
	return v, missing(err)
}
