package store

import (
	"context"
	"errors"
	"os"
	"time"

	"github.com/google/uuid"
)

// Project is one product being presented.
type Project struct {
	ID        string    `db:"id" json:"id"`
	Name      string    `db:"name" json:"name"`
	CreatedAt time.Time `db:"created_at" json:"createdAt"`
	Parts     int       `db:"parts" json:"parts"`
	Reveals   int       `db:"reveals" json:"reveals"`
	// Look names how the product looks: the newest revision and its arrangement. Another name is another
	// picture.
	Look string `db:"look" json:"look"`
	// ChangedAt is when something of it was worked on last.
	ChangedAt time.Time `db:"changed_at" json:"changedAt"`
	// LastMade is what was made of it last, and when; empty and nil before anything was.
	LastMade   string     `db:"last_made" json:"lastMade"`
	LastMadeAt *time.Time `db:"last_made_at" json:"lastMadeAt,omitempty"`
}

// RawText is a JSON document that passes through as it is.
type RawText string

// MarshalJSON returns the document itself.
func (r RawText) MarshalJSON() ([]byte, error) { return []byte(r), nil }

// UnmarshalJSON keeps the document as it came.
func (r *RawText) UnmarshalJSON(b []byte) error {
	*r = RawText(b)
	return nil
}

const projectColumns = `p.id, p.name, p.created_at,
	coalesce((select (r.report::json->>'parts')::int from revisions r where r.project_id = p.id order by number desc limit 1), 0) as parts,
	(select count(*) from reveals v where v.project_id = p.id and v.deleted_at is null) as reveals,
	coalesce((select r.id::text from revisions r where r.project_id = p.id order by number desc limit 1), '') || '-' ||
		coalesce((select a.version from arrangements a where a.project_id = p.id), 0) as look,
	greatest(p.created_at, (select max(v.changed_at) from reveals v where v.project_id = p.id)) as changed_at,
	coalesce((select o.title from outputs o where o.project_id = p.id and o.state = 'done' order by o.finished_at desc limit 1), '') as last_made,
	(select max(o.finished_at) from outputs o where o.project_id = p.id and o.state = 'done') as last_made_at`

// Projects lists all projects, the newest first.
func (s *Store) Projects(ctx context.Context) ([]Project, error) {
	list := []Project{}
	err := s.db.SelectContext(
		ctx,
		&list,
		`select `+projectColumns+` from projects p order by p.created_at desc, p.id desc`,
	)
	return list, err
}

// Project returns one project.
func (s *Store) Project(ctx context.Context, id string) (Project, error) {
	var p Project
	err := s.db.GetContext(ctx, &p, `select `+projectColumns+` from projects p where p.id = $1`, id)
	return p, missing(err)
}

// DeleteProject deletes a project with everything in it, and its files. Shapes go with the next
// sweep, unless other projects share them.
func (s *Store) DeleteProject(ctx context.Context, id string) error {
	var sources, files []string
	var outputs []Output
	err := s.Within(ctx, func(tx *Tx) error {
		if _, err := tx.LockArrangement(ctx, id); err != nil { // nobody edits meanwhile
			return err
		}
		if err := tx.sql.SelectContext(ctx, &sources, `select distinct source from imports where project_id = $1`, id); err != nil {
			return err
		}
		if err := tx.sql.SelectContext(ctx, &files, `select id from attachments where project_id = $1`, id); err != nil {
			return err
		}
		if err := tx.sql.SelectContext(ctx, &outputs, `select id, file from outputs where project_id = $1`, id); err != nil {
			return err
		}
		_, err := tx.sql.ExecContext(ctx, `delete from projects where id = $1`, id)
		return err
	})
	if err != nil {
		return err
	}
	// Whatever is not removed now, the sweep finds.
	ctx = context.WithoutCancel(ctx)
	for _, source := range sources {
		err = errors.Join(err, s.DropFiles(ctx, source))
	}
	for _, o := range outputs {
		err = errors.Join(err, s.removeFiles(o))
	}
	for _, file := range files {
		err = errors.Join(err, os.RemoveAll(s.AttachmentPath(file)))
	}
	return err
}

// InsertProject stores a new project, with nothing arranged, and returns its id.
func (tx *Tx) InsertProject(ctx context.Context, name string) (id string, err error) {
	id = newID()
	if _, err := tx.sql.ExecContext(ctx, `insert into projects (id, name) values ($1, $2)`, id, name); err != nil {
		return "", err
	}
	_, err = tx.sql.ExecContext(ctx, `insert into arrangements (project_id) values ($1)`, id)
	return id, err
}

func newID() string { return uuid.Must(uuid.NewV7()).String() }
