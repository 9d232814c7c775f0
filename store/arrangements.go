package store

import "context"

// Arrangement is what a project's author has done to its assembly: lists of edits (package arrange) as JSON.
type Arrangement struct {
	Version int64 `db:"version"`
	// Edits are what stands, Undone what was taken back and can be done again, the last one taken back last.
	Edits  RawText `db:"edits"`
	Undone RawText `db:"undone"`
}

// Arrangement returns the arrangement of a project.
func (q queries) Arrangement(ctx context.Context, project string) (a Arrangement, err error) {
	err = q.reader.GetContext(
		ctx,
		&a,
		`select version, edits, undone from arrangements where project_id = $1`,
		project,
	)
	return a, missing(err)
}

// ArrangedAs returns the project of a revision, and the version of the arrangement that the project has now.
func (q queries) ArrangedAs(ctx context.Context, revision string) (project string, version int64, err error) {
	var of struct {
		Project string
		Version int64
	}
	err = q.reader.GetContext(ctx, &of, `select r.project_id as project, coalesce(a.version, 0) as version
		from revisions r left join arrangements a on a.project_id = r.project_id where r.id = $1`, revision)
	return of.Project, of.Version, missing(err)
}

// LockArrangement returns the arrangement of a project, which nobody else changes, nor relies on, until the transaction
// ends.
func (tx *Tx) LockArrangement(ctx context.Context, project string) (a Arrangement, err error) {
	err = tx.sql.GetContext(
		ctx,
		&a,
		`select version, edits, undone from arrangements where project_id = $1 for update`,
		project,
	)
	return a, missing(err)
}

// HoldArrangement keeps a project's arrangement as it is until the transaction ends: what is written then fits it. Who
// changes the arrangement waits, and looks at the reveals afterwards. It comes before locking a reveal, always: two
// transactions that lock in two orders wait for each other.
func (tx *Tx) HoldArrangement(ctx context.Context, project string) error {
	var version int64
	return missing(
		tx.sql.GetContext(ctx, &version, `select version from arrangements where project_id = $1 for share`, project),
	)
}

// PutArrangement stores the next version of a project's arrangement.
func (tx *Tx) PutArrangement(ctx context.Context, project string, edits, undone RawText) error {
	_, err := tx.sql.ExecContext(
		ctx,
		`update arrangements set version = version + 1, edits = $2, undone = $3 where project_id = $1`,
		project,
		string(edits),
		string(undone),
	)
	return err
}
