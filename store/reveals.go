package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"

	"slowreveal/core/edit"
	"slowreveal/core/reveal"
)

// StoredReveal is a reveal as stored.
type StoredReveal struct {
	ID         string    `db:"id" json:"id"`
	ProjectID  string    `db:"project_id" json:"projectId"`
	RevisionID string    `db:"revision_id" json:"revisionId"`
	Title      string    `db:"title" json:"title"`
	Version    int64     `db:"version" json:"version"`
	UndoTo     int64     `db:"undo_to" json:"undoTo"`
	RedoTo     int64     `db:"redo_to" json:"redoTo"`
	CreatedAt  time.Time `db:"created_at" json:"createdAt"`
	ChangedAt  time.Time `db:"changed_at" json:"changedAt"`
	Document   RawText   `db:"document" json:"document,omitempty"`
	// DeletedAt is set while the reveal is deleted: it can be brought back.
	DeletedAt *time.Time `db:"deleted_at" json:"deletedAt,omitempty"`
}

// Entry is one line of a reveal's log.
type Entry struct {
	Version int64     `db:"version" json:"version"`
	Kind    string    `db:"kind" json:"kind"`
	Label   string    `db:"label" json:"label"`
	Command RawText   `db:"command" json:"command"`
	Inverse RawText   `db:"inverse" json:"-"`
	MadeAt  time.Time `db:"made_at" json:"madeAt"`
	// Author is what who made it calls themselves; it proves nothing.
	Author string `db:"author" json:"author,omitempty"`

	UndoNext int64 `db:"undo_next" json:"-"`
	RedoNext int64 `db:"redo_next" json:"-"`
}

// Stale says that an edit was made on a version that is no longer current.
type Stale struct {
	Current int64
	// Since are the entries that the editor does not know.
	Since []Entry
}

// Error names the current version.
func (s *Stale) Error() string {
	return fmt.Sprintf("this has changed meanwhile: it is at version %d", s.Current)
}

// NothingLeft says that there is nothing to undo or redo.
type NothingLeft struct{ What string }

// Error says what there is nothing of.
func (n *NothingLeft) Error() string { return "there is nothing to " + n.What }

// Refused says that a command does not apply or that its outcome is not valid.
type Refused struct{ Cause error }

// Error gives the cause.
func (r *Refused) Error() string { return r.Cause.Error() }

// Unwrap returns the cause.
func (r *Refused) Unwrap() error { return r.Cause }

func insertReveal(ctx context.Context, tx *sqlx.Tx, id, project, revision string, r *reveal.Reveal) error {
	_, err := tx.ExecContext(ctx, `insert into reveals (id, project_id, revision_id, title, document) values ($1, $2, $3, $4, $5)`,
		id, project, revision, r.Title, string(reveal.Write(r)))
	return err
}

// CreateReveal stores a reveal of the project's newest revision, after checking
// it.
func (s *Store) CreateReveal(ctx context.Context, project string, r *reveal.Reveal) (StoredReveal, error) {
	revision, err := s.Revision(ctx, project)
	if err != nil {
		return StoredReveal{}, err
	}
	m, err := s.Model(ctx, revision.ID, false)
	if err != nil {
		return StoredReveal{}, err
	}
	if err := reveal.Validate(r, m.Assembly); err != nil {
		return StoredReveal{}, &Refused{err}
	}
	id := newID()
	err = s.within(ctx, func(tx *sqlx.Tx) error { return insertReveal(ctx, tx, id, project, revision.ID, r) })
	if err != nil {
		return StoredReveal{}, fmt.Errorf("storing the reveal: %w", err)
	}
	return s.Reveal(ctx, id)
}

// Reveals lists the reveals of a project without their documents.
func (s *Store) Reveals(ctx context.Context, project string) ([]StoredReveal, error) {
	list := []StoredReveal{}
	err := s.DB.SelectContext(ctx, &list, `select id, project_id, revision_id, title, version, undo_to, redo_to, created_at, changed_at,
		'null' as document from reveals where project_id = $1 and deleted_at is null order by created_at, id`, project)
	return list, err
}

// Reveal returns one reveal with its document.
func (s *Store) Reveal(ctx context.Context, id string) (StoredReveal, error) {
	var r StoredReveal
	err := s.DB.GetContext(ctx, &r, `select * from reveals where id = $1 and deleted_at is null`, id)
	return r, missing(err)
}

// Entries returns the log of a reveal after a version, at most 1,000.
func (s *Store) Entries(ctx context.Context, id string, after int64) ([]Entry, error) {
	return entriesAfter(ctx, s.DB, id, after)
}

func entriesAfter(ctx context.Context, q sqlx.QueryerContext, id string, after int64) ([]Entry, error) {
	list := []Entry{}
	err := sqlx.SelectContext(ctx, q, &list, `select version, kind, label, command, inverse, undo_next, redo_next, made_at, author
		from entries where reveal_id = $1 and version > $2 order by version limit 1000`, id, after)
	return list, err
}

// An Edit is who changes a reveal, and on which version of it.
type Edit struct {
	Base   int64
	Author string
}

// Do applies a command that was made on a version. It returns the new log
// entry; the change is in the database when it returns. *Stale says that the
// version is not current, *Refused that the command is not possible.
func (s *Store) Do(ctx context.Context, id string, on Edit, c edit.Command) (Entry, StoredReveal, error) {
	return s.change(ctx, id, on, func(tx *sqlx.Tx, r *StoredReveal) (Entry, edit.Command, error) {
		return Entry{Kind: "do", Label: edit.Describe(c)}, c, nil
	})
}

// Undo reverses the last change that stands; Redo the last undo.
func (s *Store) Undo(ctx context.Context, id string, on Edit) (Entry, StoredReveal, error) {
	return s.change(ctx, id, on, func(tx *sqlx.Tx, r *StoredReveal) (Entry, edit.Command, error) {
		return reversal(ctx, tx, id, "undo", r.UndoTo)
	})
}

// Redo reverses the last undo.
func (s *Store) Redo(ctx context.Context, id string, on Edit) (Entry, StoredReveal, error) {
	return s.change(ctx, id, on, func(tx *sqlx.Tx, r *StoredReveal) (Entry, edit.Command, error) {
		return reversal(ctx, tx, id, "redo", r.RedoTo)
	})
}

func reversal(ctx context.Context, tx *sqlx.Tx, id, kind string, of int64) (Entry, edit.Command, error) {
	if of == 0 {
		return Entry{}, edit.Command{}, &NothingLeft{kind}
	}
	var target Entry
	err := tx.GetContext(ctx, &target, `select version, kind, label, command, inverse, undo_next, redo_next, made_at, author
		from entries where reveal_id = $1 and version = $2`, id, of)
	if err != nil {
		return Entry{}, edit.Command{}, missing(err)
	}
	c, err := edit.Parse([]byte(target.Inverse))
	return Entry{Kind: kind, Label: target.Label, UndoNext: target.UndoNext, RedoNext: target.RedoNext}, c, err
}

// change is the one path by which a document changes: it locks the reveal,
// checks the version, applies the command, appends to the log and tells others,
// all in one transaction.
func (s *Store) change(ctx context.Context, id string, on Edit, choose func(*sqlx.Tx, *StoredReveal) (Entry, edit.Command, error)) (Entry, StoredReveal, error) {
	var entry Entry
	var r StoredReveal
	err := s.within(ctx, func(tx *sqlx.Tx) error {
		if err := tx.GetContext(ctx, &r, `select * from reveals where id = $1 and deleted_at is null for update`, id); err != nil {
			return missing(err)
		}
		if r.Version != on.Base {
			since, err := entriesAfter(ctx, tx, id, on.Base)
			if err != nil {
				return err
			}
			return &Stale{Current: r.Version, Since: since}
		}
		var c edit.Command
		var err error
		if entry, c, err = choose(tx, &r); err != nil {
			return err
		}
		entry.Author = on.Author
		return s.append(ctx, tx, &r, &entry, c)
	})
	return entry, r, err
}

func (s *Store) append(ctx context.Context, tx *sqlx.Tx, r *StoredReveal, entry *Entry, c edit.Command) error {
	m, err := s.Model(ctx, r.RevisionID, false)
	if err != nil {
		return err
	}
	doc, err := reveal.Parse([]byte(r.Document))
	if err != nil {
		return err
	}
	inverse, err := edit.Do(doc, m.Assembly, c)
	if err != nil {
		return &Refused{err}
	}
	command, err := json.Marshal(c)
	if err != nil {
		return err
	}
	back, err := json.Marshal(inverse)
	if err != nil {
		return err
	}
	r.Version++
	entry.Version, entry.Command, entry.Inverse, entry.MadeAt = r.Version, RawText(command), RawText(back), time.Now()
	entry.UndoNext, entry.RedoNext, r.UndoTo, r.RedoTo = marks(entry, r)
	r.Document, r.Title, r.ChangedAt = RawText(reveal.Write(doc)), doc.Title, entry.MadeAt
	if _, err := tx.ExecContext(ctx, `insert into entries (reveal_id, version, kind, label, command, inverse, undo_next, redo_next, author)
		values ($1, $2, $3, $4, $5, $6, $7, $8, $9)`, r.ID, entry.Version, entry.Kind, entry.Label, command, back, entry.UndoNext, entry.RedoNext, entry.Author); err != nil {
		return fmt.Errorf("writing the log: %w", err)
	}
	if _, err := tx.ExecContext(ctx, `update reveals set document = $2, title = $3, version = $4, undo_to = $5, redo_to = $6, changed_at = now() where id = $1`,
		r.ID, string(r.Document), r.Title, r.Version, r.UndoTo, r.RedoTo); err != nil {
		return fmt.Errorf("storing the document: %w", err)
	}
	return notify(ctx, tx, Event{Kind: "reveal", Project: r.ProjectID, ID: r.ID, Version: r.Version, Author: entry.Author})
}

// marks says how the two chains through the log go on. A new change stands on
// top of what could be undone and cuts off what could be redone; an undo steps
// down one chain and up the other; a redo the other way round.
func marks(e *Entry, r *StoredReveal) (undoNext, redoNext, undoTo, redoTo int64) {
	switch e.Kind {
	case "undo": // e carries the marks of the entry that it reverses
		return r.UndoTo, r.RedoTo, e.UndoNext, e.Version
	case "redo":
		return r.UndoTo, r.RedoTo, e.Version, e.RedoNext
	}
	return r.UndoTo, r.RedoTo, e.Version, 0
}
