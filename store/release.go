package store

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"time"
)

// Attachment is a sound or a logo that outputs use.
type Attachment struct {
	ID        string    `db:"id" json:"id"`
	ProjectID string    `db:"project_id" json:"projectId"`
	Name      string    `db:"name" json:"name"`
	Kind      string    `db:"kind" json:"kind"`
	Bytes     int64     `db:"bytes" json:"bytes"`
	Length    int64     `db:"length" json:"length"` // of a sound, µs
	CreatedAt time.Time `db:"created_at" json:"createdAt"`
}

// MaxAttachment bounds the size of an attachment in bytes.
const MaxAttachment = 200 << 20

// AttachmentPath is where an attachment lies.
func (s *Store) AttachmentPath(id string) string {
	return filepath.Join(s.films, filepath.Base(id)+".attached")
}

// Attach stores an attachment after look has found it good; look sees the file and fills in
// what it finds out.
func (s *Store) Attach(
	ctx context.Context,
	a Attachment,
	from io.Reader,
	look func(path string, a *Attachment) error,
) (Attachment, error) {
	a.ID = newID()
	path := s.AttachmentPath(a.ID)
	f, err := os.OpenFile(path, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return a, fmt.Errorf("storing %s: %w", a.Name, err)
	}
	a.Bytes, err = io.Copy(f, io.LimitReader(from, MaxAttachment+1))
	err = errors.Join(err, f.Close())
	if err == nil && a.Bytes > MaxAttachment {
		err = &Refused{fmt.Errorf("%s has more than %d MB; shorten or compress it", a.Name, MaxAttachment>>20)}
	}
	if err == nil {
		err = look(path, &a)
	}
	made := a.ID
	if err == nil {
		made, err = s.Once(ctx, func(tx *Tx) (string, error) {
			_, err := tx.sql.ExecContext(
				ctx,
				`insert into attachments (id, project_id, name, kind, bytes, length) values ($1, $2, $3, $4, $5, $6)`,
				a.ID,
				a.ProjectID,
				a.Name,
				a.Kind,
				a.Bytes,
				a.Length,
			)
			return a.ID, err
		})
	}
	if err != nil || made != a.ID { // it failed, or the same request has brought it before
		os.Remove(path)
	}
	if err != nil {
		return a, err
	}
	return s.Attachment(ctx, a.ProjectID, made)
}

// DeleteAttachment removes an attachment; *Refused while an output that is being made uses it.
func (s *Store) DeleteAttachment(ctx context.Context, id string) error {
	err := s.Within(ctx, func(tx *Tx) error {
		var users []string
		if err := tx.sql.SelectContext(ctx, &users, `select title from outputs where state in ('waiting', 'running', 'paused') and position($1 in settings) > 0 limit 1`, id); err != nil {
			return err
		}
		if len(users) > 0 {
			return &Refused{
				fmt.Errorf("the output %q, which is being made, uses it; wait for its end, or stop it", users[0]),
			}
		}
		gone, err := changed(tx.sql.ExecContext(ctx, `delete from attachments where id = $1`, id))
		if err == nil && !gone {
			err = ErrMissing
		}
		return err
	})
	if err != nil {
		return err
	}
	return os.RemoveAll(s.AttachmentPath(id))
}

// Attachment returns one attachment of a project.
func (s *Store) Attachment(ctx context.Context, project, id string) (a Attachment, err error) {
	err = s.db.GetContext(
		ctx,
		&a,
		`select id, project_id, name, kind, bytes, length, created_at from attachments where id = $1 and project_id = $2`,
		id,
		project,
	)
	return a, missing(err)
}

// Attachments lists those of a project, the newest first.
func (s *Store) Attachments(ctx context.Context, project string) ([]Attachment, error) {
	list := []Attachment{}
	err := s.db.SelectContext(
		ctx,
		&list,
		`select id, project_id, name, kind, bytes, length, created_at from attachments where project_id = $1 order by created_at desc`,
		project,
	)
	return list, err
}

// Preset is a set of outputs that are ordered together.
type Preset struct {
	ID        string    `db:"id" json:"id"`
	ProjectID string    `db:"project_id" json:"projectId"`
	Name      string    `db:"name" json:"name"`
	Settings  RawText   `db:"settings" json:"settings"`
	CreatedAt time.Time `db:"created_at" json:"createdAt"`
}

// SavePreset stores a preset; one of the same name in the project is replaced.
func (s *Store) SavePreset(ctx context.Context, p Preset) (Preset, error) {
	err := s.db.GetContext(ctx, &p, `insert into presets (id, project_id, name, settings) values ($1, $2, $3, $4)
		on conflict (project_id, name) do update set settings = excluded.settings returning id, project_id, name, settings, created_at`, newID(), p.ProjectID, p.Name, string(p.Settings))
	return p, err
}

// Presets lists the presets of a project by name.
func (s *Store) Presets(ctx context.Context, project string) ([]Preset, error) {
	list := []Preset{}
	err := s.db.SelectContext(
		ctx,
		&list,
		`select id, project_id, name, settings, created_at from presets where project_id = $1 order by name limit 100`,
		project,
	)
	return list, err
}

// Preset returns one preset.
func (s *Store) Preset(ctx context.Context, id string) (p Preset, err error) {
	err = s.db.GetContext(ctx, &p, `select id, project_id, name, settings, created_at from presets where id = $1`, id)
	return p, missing(err)
}

// DeletePreset forgets a preset.
func (s *Store) DeletePreset(ctx context.Context, id string) error {
	gone, err := changed(s.db.ExecContext(ctx, `delete from presets where id = $1`, id))
	if err == nil && !gone {
		err = ErrMissing
	}
	return err
}
