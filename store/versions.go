package store

import (
	"context"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"

	"slowreveal/core/edit"
	"slowreveal/core/reveal"
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
	v := Version{ID: newID(), RevealID: id, Version: r.Version, Name: name, Author: author, Document: r.Document}
	err = s.DB.GetContext(ctx, &v.MadeAt, `insert into versions (id, reveal_id, version, name, author, document) values ($1, $2, $3, $4, $5, $6) returning made_at`,
		v.ID, id, v.Version, name, author, string(v.Document))
	if err != nil {
		return Version{}, fmt.Errorf("naming the version: %w", err)
	}
	return v, nil
}

// Versions lists the named versions of a reveal, the newest first.
func (s *Store) Versions(ctx context.Context, id string) ([]Version, error) {
	list := []Version{}
	err := s.DB.SelectContext(ctx, &list, `select id, reveal_id, version, name, author, made_at, 'null' as document from versions
		where reveal_id = $1 order by made_at desc, id desc`, id)
	return list, err
}

// Version returns one named version with its document.
func (s *Store) Version(ctx context.Context, id string) (Version, error) {
	var v Version
	err := s.DB.GetContext(ctx, &v, `select * from versions where id = $1`, id)
	return v, missing(err)
}

// Differences says what has changed from a named version to another one, or, for
// "", to the reveal as it is.
func (s *Store) Differences(ctx context.Context, from, to string) ([]string, error) {
	v, err := s.Version(ctx, from)
	if err != nil {
		return nil, err
	}
	after := v.Document
	if to == "" {
		r, err := s.Reveal(ctx, v.RevealID)
		if err != nil {
			return nil, err
		}
		after = r.Document
	} else if o, err := s.Version(ctx, to); err == nil {
		after = o.Document
	} else {
		return nil, err
	}
	a, err := reveal.Parse([]byte(v.Document))
	if err != nil {
		return nil, err
	}
	b, err := reveal.Parse([]byte(after))
	if err != nil {
		return nil, err
	}
	return reveal.Differences(a, b), nil
}

// GoBack makes a reveal what a named version of it was: an edit like any other,
// which can be undone. What the assembly no longer has is left out.
func (s *Store) GoBack(ctx context.Context, version string, on Edit) (Entry, StoredReveal, error) {
	v, err := s.Version(ctx, version)
	if err != nil {
		return Entry{}, StoredReveal{}, err
	}
	return s.change(ctx, v.RevealID, on, func(_ *sqlx.Tx, r *StoredReveal) (Entry, edit.Command, error) {
		doc, err := reveal.Parse([]byte(v.Document))
		if err != nil {
			return Entry{}, edit.Command{}, err
		}
		m, err := s.Model(ctx, r.RevisionID, false)
		if err != nil {
			return Entry{}, edit.Command{}, err
		}
		reveal.Match(doc, m.Assembly)
		return Entry{Kind: "do", Label: fmt.Sprintf("go back to “%s”", v.Name)}, edit.Command{Op: edit.Replace, Reveal: doc}, nil
	})
}

// DeleteReveal takes a reveal away; BringBack undoes that.
func (s *Store) DeleteReveal(ctx context.Context, id string) error {
	return s.setDeleted(ctx, id, true)
}

// BringBack brings a deleted reveal back with all its history.
func (s *Store) BringBack(ctx context.Context, id string) error { return s.setDeleted(ctx, id, false) }

func (s *Store) setDeleted(ctx context.Context, id string, deleted bool) error {
	return s.within(ctx, func(tx *sqlx.Tx) error {
		var project string
		err := tx.GetContext(ctx, &project, `update reveals set deleted_at = case when $2 then now() end where id = $1 returning project_id`, id, deleted)
		if err != nil {
			return missing(err)
		}
		return notify(ctx, tx, Event{Kind: "reveals", Project: project, ID: id})
	})
}
