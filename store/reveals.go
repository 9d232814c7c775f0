package store

import (
	"context"
	"fmt"
	"time"

	"slowreveal/core/reveal"
)

// StoredReveal is a reveal as stored.
type StoredReveal struct {
	ID         string    `db:"id" json:"id"`
	ProjectID  string    `db:"project_id" json:"projectId"`
	RevisionID string    `db:"revision_id" json:"revisionId"`
	Title      string    `db:"title" json:"title"`
	Version    int64     `db:"version" json:"version"`
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
	Command RawText   `db:"command" json:"command,omitempty"`
	Inverse RawText   `db:"inverse" json:"-"`
	MadeAt  time.Time `db:"made_at" json:"madeAt"`
	// Author is what who made it calls themselves; it proves nothing.
	Author string `db:"author" json:"author,omitempty"`
	// Key is the one that its page gave the edit, nil for none.
	Key *string `db:"key" json:"key,omitempty"`

	// Person is the code of who made it, Target the version of the entry that it reverses.
	Person string `db:"person" json:"-"`
	Target int64  `db:"target" json:"-"`
	// Own says that who asks has made it.
	Own bool `db:"-" json:"own,omitempty"`
}

const entryColumns = `version, kind, label, command, inverse, made_at, author, person, target, key`

// Refused says that a command does not apply or that its outcome is not valid.
type Refused struct{ Cause error }

// Error gives the cause.
func (r *Refused) Error() string { return r.Cause.Error() }

// Unwrap returns the cause.
func (r *Refused) Unwrap() error { return r.Cause }

func insertReveal(ctx context.Context, tx *Tx, id, project, revision string, r *reveal.Reveal) error {
	_, err := tx.ExecContext(
		ctx,
		`insert into reveals (id, project_id, revision_id, title, document) values ($1, $2, $3, $4, $5)`,
		id,
		project,
		revision,
		r.Title,
		string(reveal.Write(r)),
	)
	return err
}

// CreateReveal stores a reveal of the project's newest revision, after checking
// it.
func (s *Store) CreateReveal(ctx context.Context, project string, r *reveal.Reveal) (StoredReveal, error) {
	id, err := s.once(ctx, func(tx *Tx) (string, error) {
		if err := holdArrangement(ctx, tx, project); err != nil {
			return "", err
		}
		var revision string
		if err := tx.GetContext(ctx, &revision, `select id from revisions where project_id = $1 order by number desc limit 1`, project); err != nil {
			return "", missing(err)
		}
		m, err := tx.models.at(ctx, tx, revision, false)
		if err != nil {
			return "", err
		}
		if err := reveal.Validate(r, m.Assembly); err != nil {
			return "", &Refused{err}
		}
		id := newID()
		if err := insertReveal(ctx, tx, id, project, revision, r); err != nil {
			return "", fmt.Errorf("storing the reveal: %w", err)
		}
		return id, notify(ctx, tx, Event{Kind: "reveals", Project: project, ID: id})
	})
	if err != nil {
		return StoredReveal{}, err
	}
	return s.Reveal(ctx, id)
}

// holdArrangement keeps a project's arrangement as it is until the transaction ends: what is
// written then fits it. Who changes the arrangement waits, and looks at the reveals afterwards.
// It comes before locking a reveal, always: two transactions that lock in two orders wait for
// each other.
func holdArrangement(ctx context.Context, tx *Tx, project string) error {
	var version int64
	return missing(
		tx.GetContext(ctx, &version, `select version from arrangements where project_id = $1 for share`, project),
	)
}

// Reveals lists the reveals of a project without their documents.
func (s *Store) Reveals(ctx context.Context, project string) ([]StoredReveal, error) {
	list := []StoredReveal{}
	err := s.db.SelectContext(ctx, &list, `select id, project_id, revision_id, title, version, created_at, changed_at,
		'null' as document from reveals where project_id = $1 and deleted_at is null order by created_at, id`, project)
	return list, err
}

// Reveal returns one reveal with its document.
func (s *Store) Reveal(ctx context.Context, id string) (StoredReveal, error) {
	var r StoredReveal
	err := s.db.GetContext(ctx, &r, `select * from reveals where id = $1 and deleted_at is null`, id)
	return r, missing(err)
}
