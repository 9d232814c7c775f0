package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"time"

	"github.com/google/uuid"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/product"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
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

// Revision is one imported state of a project's assembly.
type Revision struct {
	ID        string    `db:"id" json:"id"`
	ProjectID string    `db:"project_id" json:"projectId"`
	Number    int       `db:"number" json:"number"`
	FileName  string    `db:"file_name" json:"fileName"`
	Assembly  RawText   `db:"assembly" json:"assembly"`
	Report    RawText   `db:"report" json:"report"`
	CreatedAt time.Time `db:"created_at" json:"createdAt"`
	// ImportID is the import that it came by, nil when it did not come from
	// files that were kept.
	ImportID *string `db:"import_id" json:"importId"`
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
	err := s.within(ctx, func(tx *Tx) error {
		if _, err := arrangement(ctx, tx, id, true); err != nil { // nobody edits meanwhile
			return err
		}
		if err := tx.SelectContext(ctx, &sources, `select distinct source from imports where project_id = $1`, id); err != nil {
			return err
		}
		if err := tx.SelectContext(ctx, &files, `select id from attachments where project_id = $1`, id); err != nil {
			return err
		}
		if err := tx.SelectContext(ctx, &outputs, `select id, file from outputs where project_id = $1`, id); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `delete from projects where id = $1`, id)
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

// CreateProject stores an imported model as the first revision of a new
// project, with an empty reveal to begin with. The shapes go first: a project
// never refers to one that is not there.
func (s *Store) CreateProject(ctx context.Context, name, fileName string, m *product.Model) (Project, error) {
	if err := s.blobs.putShapes(ctx, m); err != nil {
		return Project{}, err
	}
	id := newID()
	err := s.within(ctx, func(tx *Tx) error {
		if _, err := tx.ExecContext(ctx, `insert into projects (id, name) values ($1, $2)`, id, name); err != nil {
			return err
		}
		if err := insertArrangement(ctx, tx, id); err != nil {
			return err
		}
		revision, err := insertRevision(ctx, tx, id, fileName, nil, m)
		if err != nil {
			return err
		}
		return insertReveal(ctx, tx, newID(), id, revision, reveal.New("First reveal", FirstLook(m.Assembly)))
	})
	if err != nil {
		return Project{}, fmt.Errorf("storing the project: %w", err)
	}
	return s.Project(ctx, id)
}

// insertArrangement gives a new project its arrangement.
func insertArrangement(ctx context.Context, tx *Tx, project string) error {
	_, err := tx.ExecContext(ctx, `insert into arrangements (project_id) values ($1)`, project)
	return err
}

// insertRevision stores a model as the next revision of a project.
func insertRevision(
	ctx context.Context,
	tx *Tx,
	project, fileName string,
	imported *string,
	m *product.Model,
) (string, error) {
	text, err := json.Marshal(m.Assembly)
	if err != nil {
		return "", fmt.Errorf("writing the assembly: %w", err)
	}
	report, err := json.Marshal(m.Report)
	if err != nil {
		return "", fmt.Errorf("writing the report: %w", err)
	}
	id := newID()
	_, err = tx.ExecContext(ctx, `insert into revisions (id, project_id, number, file_name, assembly, report, import_id)
		select $1, $2, coalesce(max(number), 0) + 1, $3, $4, $5, $6 from revisions where project_id = $2`,
		id, project, fileName, string(text), string(report), imported)
	return id, err
}

// FirstLook is the camera that a new reveal opens with: isometric, with the
// whole assembly in the frame.
func FirstLook(a *assembly.Assembly) reveal.Camera {
	c, err := film.Fit(
		reveal.Camera{Orientation: film.Views()[0].Orientation, FocalLength: 50},
		16.0/9,
		0.25,
		[]space.Box{a.Bounds()},
	)
	if err != nil { // an assembly always has a part
		return reveal.Camera{Orientation: space.NoRotation, Distance: 500, FocalLength: 50}
	}
	return c
}

func newID() string { return uuid.Must(uuid.NewV7()).String() }

// Revision returns the newest revision of a project.
func (s *Store) Revision(ctx context.Context, project string) (Revision, error) {
	var r Revision
	err := s.db.GetContext(
		ctx,
		&r,
		`select * from revisions where project_id = $1 order by number desc limit 1`,
		project,
	)
	return r, missing(err)
}

// RevisionNamed returns a revision by its id: its number and its file's name, without the assembly.
func (s *Store) RevisionNamed(ctx context.Context, id string) (Revision, error) {
	var r Revision
	err := s.db.GetContext(ctx, &r, `select id, project_id, number, file_name from revisions where id = $1`, id)
	return r, missing(err)
}
