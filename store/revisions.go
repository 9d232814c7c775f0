package store

import (
	"context"
	"time"
)

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

// Revision returns the newest revision of a project.
func (q queries) Revision(ctx context.Context, project string) (r Revision, err error) {
	err = q.reader.GetContext(
		ctx,
		&r,
		`select * from revisions where project_id = $1 order by number desc limit 1`,
		project,
	)
	return r, missing(err)
}

// RevisionNamed returns a revision by its id: its number and its file's name, without the assembly.
func (q queries) RevisionNamed(ctx context.Context, id string) (r Revision, err error) {
	err = q.reader.GetContext(ctx, &r, `select id, project_id, number, file_name from revisions where id = $1`, id)
	return r, missing(err)
}

// Imported returns the assembly of a revision as it was imported, as JSON.
func (q queries) Imported(ctx context.Context, revision string) (assembly RawText, err error) {
	err = q.reader.GetContext(ctx, &assembly, `select assembly from revisions where id = $1`, revision)
	return assembly, missing(err)
}

// ImportedLast returns the assemblies of the newest revisions of a project, so many at most, the newest first.
func (q queries) ImportedLast(ctx context.Context, project string, most int) (assemblies []RawText, err error) {
	err = q.reader.SelectContext(
		ctx,
		&assemblies,
		`select assembly from revisions where project_id = $1 order by number desc limit $2`,
		project,
		most,
	)
	return assemblies, err
}

// InsertRevision stores the next revision of a project and returns its id: its file's name, assembly, report and import.
func (tx *Tx) InsertRevision(ctx context.Context, r Revision) (id string, err error) {
	id = newID()
	_, err = tx.sql.ExecContext(
		ctx,
		`insert into revisions (id, project_id, number, file_name, assembly, report, import_id)
		select $1, $2, coalesce(max(number), 0) + 1, $3, $4, $5, $6 from revisions where project_id = $2`,
		id,
		r.ProjectID,
		r.FileName,
		string(r.Assembly),
		string(r.Report),
		r.ImportID,
	)
	return id, err
}

// LockRevision returns the newest revision of a project, of which nobody else changes the report until the transaction
// ends.
func (tx *Tx) LockRevision(ctx context.Context, project string) (r Revision, err error) {
	err = tx.sql.GetContext(
		ctx,
		&r,
		`select * from revisions where project_id = $1 order by number desc limit 1 for update`,
		project,
	)
	return r, missing(err)
}

// PutReport stores the report of a revision.
func (tx *Tx) PutReport(ctx context.Context, revision string, report RawText) error {
	_, err := tx.sql.ExecContext(ctx, `update revisions set report = $2 where id = $1`, revision, string(report))
	return err
}
