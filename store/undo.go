package store

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"slowreveal/core/edit"
)

// Marks say what undo and redo would reverse for one person: versions of entries, 0 for nothing.
type Marks struct {
	UndoTo int64 `db:"undo_to" json:"undoTo"`
	RedoTo int64 `db:"redo_to" json:"redoTo"`
}

// NothingLeft says that who asks has done nothing that could be undone, or redone.
type NothingLeft struct{ What string }

// Error says what there is nothing of.
func (n *NothingLeft) Error() string { return "there is nothing of yours to " + n.What }

// Depends says that an entry cannot be reversed, as somebody has changed later what it changed.
type Depends struct {
	// Kind is "undo" or "redo", Version that of the entry, Label what it did.
	Kind    string
	Version int64
	Label   string
	// By has made the later change, Later says what it was; Own that it was the same person.
	By, Later string
	Own       bool
}

// Error names both changes.
func (d *Depends) Error() string {
	what := "cannot be taken back"
	if d.Kind == "redo" {
		what = "cannot be done again"
	}
	who := d.By + " has"
	switch {
	case d.Own:
		who = "you have"
	case d.By == "":
		who = "somebody else has"
	}
	return fmt.Sprintf("“%s” %s: %s changed the same since (%s)", d.Label, what, who, d.Later)
}

// queryer is what the pool and a transaction offer for reading one row.
type queryer interface {
	GetContext(ctx context.Context, into any, query string, args ...any) error
}

// marks finds what a person's undo and redo would reverse, of entries before a version. What was
// undone can be redone until the person does something new.
func marks(ctx context.Context, q queryer, reveal, person string, before int64) (m Marks, err error) {
	err = q.GetContext(ctx, &m, `select
		coalesce((select max(version) from entries where reveal_id = $1 and person = $2 and not reversed and kind <> 'undo' and version < $3), 0) as undo_to,
		coalesce((select max(version) from entries where reveal_id = $1 and person = $2 and not reversed and kind = 'undo'
			and version > coalesce((select max(version) from entries where reveal_id = $1 and person = $2 and kind = 'do'), 0)), 0) as redo_to`,
		reveal, person, before)
	return m, err
}

// noVersion is behind every version.
const noVersion = int64(1) << 62

// Marks finds what a person's undo and redo would reverse in a reveal.
func (s *Store) Marks(ctx context.Context, reveal, person string) (Marks, error) {
	return marks(ctx, s.db, reveal, person, noVersion)
}

// Undo reverses the last change of who asks that stands, before a version where that is not 0. What
// others have done stays: *Depends when one of them has changed the same since. It is done on the
// reveal as it is now. The request's key, if it has one, is the entry's.
func (s *Store) Undo(ctx context.Context, id string, on On, before int64) (Outcome, error) {
	if before == 0 {
		before = noVersion
	}
	return s.reverse(ctx, id, on, "undo", before)
}

// Redo reverses the last undo of who asks, if nothing was done since.
func (s *Store) Redo(ctx context.Context, id string, on On) (Outcome, error) {
	return s.reverse(ctx, id, on, "redo", noVersion)
}

func (s *Store) reverse(ctx context.Context, id string, on On, kind string, before int64) (Outcome, error) {
	return s.single(ctx, id, on, func(tx *Tx, r *StoredReveal) (Entry, edit.Command, error) {
		m, err := marks(ctx, tx, id, on.Person, before)
		if err != nil {
			return Entry{}, edit.Command{}, err
		}
		of := m.UndoTo
		if kind == "redo" {
			of = m.RedoTo
		}
		if of == 0 {
			return Entry{}, edit.Command{}, &NothingLeft{kind}
		}
		var target Entry
		if err := tx.GetContext(ctx, &target, `select `+entryColumns+` from entries where reveal_id = $1 and version = $2`, id, of); err != nil {
			return Entry{}, edit.Command{}, missing(err)
		}
		c, err := alone(ctx, tx, id, kind, &target)
		if err != nil {
			return Entry{}, edit.Command{}, err
		}
		_, err = tx.ExecContext(ctx, `update entries set reversed = true where reveal_id = $1 and version = $2`, id, of)
		return Entry{Kind: kind, Label: target.Label, Target: of}, c, err
	})
}

// alone returns the command that reverses an entry and nothing else: *Depends when what it changed
// has been changed since.
func alone(ctx context.Context, tx *Tx, reveal, kind string, target *Entry) (edit.Command, error) {
	mine, inverse, err := touching(target)
	if err != nil {
		return edit.Command{}, err
	}
	since, err := standing(ctx, tx, reveal, target.Version)
	if err != nil {
		return edit.Command{}, err
	}
	for _, o := range slices.Backward(since) {
		if mine.Clashes(o.Touch) {
			return edit.Command{}, &Depends{
				kind,
				target.Version,
				target.Label,
				o.Author,
				o.Label,
				o.Person == target.Person,
			}
		}
	}
	return inverse, nil
}

// mostSince bounds how far back an undo reaches, in entries.
const mostSince = 20_000

// ErrTooLongAgo says that too much was changed since what is to be reversed.
var ErrTooLongAgo = errors.New("this was too long ago to be taken back by itself; go back to a named version instead")

// standing lists what was changed after a version, without what was taken back since.
func standing(ctx context.Context, tx *Tx, reveal string, after int64) ([]other, error) {
	rows, err := tx.QueryxContext(ctx, `select version, target, author, person, label, command, inverse from entries
		where reveal_id = $1 and version > $2 order by version`, reveal, after)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var list []other
	gone := map[int64]bool{}
	read := 0
	for ; rows.Next(); read++ {
		if read == mostSince {
			return nil, ErrTooLongAgo
		}
		e := new(Entry)
		if err := rows.StructScan(e); err != nil {
			return nil, err
		}
		if e.Target > after && !gone[e.Target] { // the two of them come to nothing
			gone[e.Target], gone[e.Version] = true, true
			continue
		}
		o, _, err := touching(e)
		if err != nil {
			return nil, err
		}
		e.Command, e.Inverse = "", "" // there may be many
		list = append(list, o)
	}
	list = slices.DeleteFunc(list, func(o other) bool { return gone[o.Version] })
	return list, rows.Err()
}
