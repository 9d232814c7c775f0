package store

import (
	"context"
	"fmt"
	"time"

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
	made, err := s.once(ctx, func(tx *Tx) (string, error) {
		key := newID()
		_, err := tx.ExecContext(
			ctx,
			`insert into versions (id, reveal_id, version, name, author, document) values ($1, $2, $3, $4, $5, $6)`,
			key,
			id,
			r.Version,
			name,
			author,
			string(r.Document),
		)
		return key, err
	})
	if err != nil {
		return Version{}, fmt.Errorf("naming the version: %w", err)
	}
	return s.Version(ctx, made)
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

// Differences says what has changed from a named version to another one, or, for
// "", to the reveal as it is.
func (s *Store) Differences(ctx context.Context, from, to string) ([]string, error) {
	v, err := s.Version(ctx, from)
	if err != nil {
		return nil, err
	}
	var after RawText
	if to == "" {
		r, err := s.Reveal(ctx, v.RevealID)
		if err != nil {
			return nil, err
		}
		after = r.Document
	} else {
		o, err := s.Version(ctx, to)
		if err != nil {
			return nil, err
		}
		after = o.Document
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
func (s *Store) GoBack(ctx context.Context, version string, on On) (Outcome, error) {
	v, err := s.Version(ctx, version)
	if err != nil {
		return Outcome{}, err
	}
	return s.single(ctx, v.RevealID, on, func(tx *Tx, r *StoredReveal) (Entry, edit.Command, error) {
		if r.Version != on.Base { // what is gone back from is what one has seen
			return Entry{}, edit.Command{}, &Stale{}
		}
		c, err := fitted(ctx, tx, r.RevisionID, v.Document)
		return Entry{Kind: "do", Label: fmt.Sprintf("go back to “%s”", v.Name)}, c, err
	})
}

// fitted is the command that makes a reveal what a document says, as far as the assembly of a
// revision has what it names.
func fitted(ctx context.Context, tx *Tx, revision string, document RawText) (edit.Command, error) {
	doc, err := reveal.Parse([]byte(document))
	if err != nil {
		return edit.Command{}, err
	}
	m, err := tx.models.at(ctx, tx, revision, false)
	if err != nil {
		return edit.Command{}, err
	}
	reveal.Carry(doc, m.Assembly)
	return edit.Command{Op: edit.Replace, Reveal: doc}, nil
}

// DeleteReveal takes a reveal away; BringBack undoes that.
func (s *Store) DeleteReveal(ctx context.Context, id string) error {
	return s.within(ctx, func(tx *Tx) error {
		var project string
		err := tx.GetContext(
			ctx,
			&project,
			`update reveals set deleted_at = coalesce(deleted_at, now()) where id = $1 returning project_id`,
			id,
		)
		if err != nil {
			return missing(err)
		}
		return notify(ctx, tx, Event{Kind: "reveals", Project: project, ID: id})
	})
}

// RestoreReveal brings a deleted reveal back with all its history. What the assembly, as it is arranged
// now, no longer has is left out by an edit of its own.
func (s *Store) RestoreReveal(ctx context.Context, id string) error {
	return s.within(ctx, func(tx *Tx) error {
		var project string
		if err := tx.GetContext(ctx, &project, `select project_id from reveals where id = $1`, id); err != nil {
			return missing(err)
		}
		if err := holdArrangement(ctx, tx, project); err != nil {
			return err
		}
		var r StoredReveal
		if err := tx.GetContext(ctx, &r, `update reveals set deleted_at = null where id = $1 returning *`, id); err != nil {
			return missing(err)
		}
		b, err := begin(ctx, tx, &r)
		if err != nil {
			return err
		}
		if reveal.Validate(b.doc, b.assembly) != nil {
			if err := b.fit(ctx); err != nil {
				return err
			}
		}
		return notify(ctx, tx, Event{Kind: "reveals", Project: project, ID: id})
	})
}

// fit leaves out what the assembly does not have.
func (b *draft) fit(ctx context.Context) error {
	c, err := fitted(ctx, b.tx, b.r.RevisionID, b.r.Document)
	if err != nil {
		return err
	}
	inverse, err := b.do(c, nil)
	if err != nil {
		return err
	}
	if err := b.log(ctx, On{}, &Entry{Kind: "do", Label: "leave out what the assembly no longer has"}, c, inverse); err != nil {
		return err
	}
	return b.store(ctx)
}
