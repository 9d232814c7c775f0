package store

import (
	"context"
	"fmt"
	"time"
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

// ProjectOf returns the project of a reveal, also of one that is deleted.
func (q queries) ProjectOf(ctx context.Context, reveal string) (project string, err error) {
	err = q.reader.GetContext(ctx, &project, `select project_id from reveals where id = $1`, reveal)
	return project, missing(err)
}

// Documents lists the reveals of a project that are not deleted, with their titles and documents alone.
func (q queries) Documents(ctx context.Context, project string) (list []StoredReveal, err error) {
	err = q.reader.SelectContext(
		ctx,
		&list,
		`select title, document from reveals where project_id = $1 and deleted_at is null order by id`,
		project,
	)
	return list, err
}

// HoldReveal returns a reveal that stays as it is until the transaction ends.
func (tx *Tx) HoldReveal(ctx context.Context, id string) (r StoredReveal, err error) {
	err = tx.sql.GetContext(ctx, &r, `select * from reveals where id = $1 and deleted_at is null for share`, id)
	return r, missing(err)
}

// LockReveal returns a reveal that nobody else changes until the transaction ends. HoldArrangement comes before it,
// always: two transactions that lock in two orders wait for each other.
func (tx *Tx) LockReveal(ctx context.Context, id string) (r StoredReveal, err error) {
	err = tx.sql.GetContext(
		ctx,
		&r,
		`select * from reveals where id = $1 and deleted_at is null for no key update`,
		id,
	)
	return r, missing(err)
}

// InsertReveal stores a new reveal and returns its id: its project, revision, title and document.
func (tx *Tx) InsertReveal(ctx context.Context, r StoredReveal) (id string, err error) {
	id = newID()
	_, err = tx.sql.ExecContext(
		ctx,
		`insert into reveals (id, project_id, revision_id, title, document) values ($1, $2, $3, $4, $5)`,
		id,
		r.ProjectID,
		r.RevisionID,
		r.Title,
		string(r.Document),
	)
	if err != nil {
		return "", fmt.Errorf("storing the reveal: %w", err)
	}
	return id, nil
}

// PutDocument stores the document of a reveal after its log (Log), with its title and version.
func (tx *Tx) PutDocument(ctx context.Context, r *StoredReveal) error {
	_, err := tx.sql.ExecContext(
		ctx,
		`update reveals set document = $2, title = $3, version = $4, changed_at = now() where id = $1`,
		r.ID,
		string(r.Document),
		r.Title,
		r.Version,
	)
	if err != nil {
		return fmt.Errorf("storing the document: %w", err)
	}
	return nil
}

// MoveReveals has all reveals of a project be of a revision, and returns them, the deleted ones too.
func (tx *Tx) MoveReveals(ctx context.Context, project, revision string) (list []StoredReveal, err error) {
	err = tx.sql.SelectContext(
		ctx,
		&list,
		`update reveals set revision_id = $2 where project_id = $1 returning *`,
		project,
		revision,
	)
	return list, err
}

// DeleteReveal takes a reveal away; RestoreReveal undoes that.
func (s *Store) DeleteReveal(ctx context.Context, id string) error {
	return s.Within(ctx, func(tx *Tx) error {
		var project string
		err := tx.sql.GetContext(
			ctx,
			&project,
			`update reveals set deleted_at = coalesce(deleted_at, now()) where id = $1 returning project_id`,
			id,
		)
		if err != nil {
			return missing(err)
		}
		return tx.Notify(ctx, Event{Kind: "reveals", Project: project, ID: id})
	})
}

// RestoreReveal brings a deleted reveal back with all its history, and returns it.
func (tx *Tx) RestoreReveal(ctx context.Context, id string) (r StoredReveal, err error) {
	if err := tx.sql.GetContext(ctx, &r, `update reveals set deleted_at = null where id = $1 returning *`, id); err != nil {
		return r, missing(err)
	}
	return r, tx.Notify(ctx, Event{Kind: "reveals", Project: r.ProjectID, ID: id})
}
