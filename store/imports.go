package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"time"

	"gocloud.dev/blob"
)

// Import is one set of files on its way to becoming an assembly.
type Import struct {
	ID         string     `db:"id" json:"id"`
	ProjectID  *string    `db:"project_id" json:"projectId"`
	Reread     bool       `db:"reread" json:"reread"`
	Name       string     `db:"name" json:"name"`
	Files      FileList   `db:"files" json:"files"`
	Options    RawText    `db:"options" json:"options"`
	State      State      `db:"state" json:"state"`
	Stage      string     `db:"stage" json:"stage"`
	Share      float64    `db:"share" json:"share"`
	Message    string     `db:"message" json:"message"`
	CreatedAt  time.Time  `db:"created_at" json:"createdAt"`
	StartedAt  *time.Time `db:"started_at" json:"startedAt"`
	FinishedAt *time.Time `db:"finished_at" json:"finishedAt"`

	// Source is the import whose files these are.
	Source string `db:"source" json:"-"`
	JobID  int64  `db:"job_id" json:"-"`
}

// File is one file of an import.
type File struct {
	Name  string `json:"name"`
	Bytes int64  `json:"bytes"`
}

// FileList travels to the database as JSON.
type FileList []File

// Scan reads the list as the database has it.
func (l *FileList) Scan(v any) error {
	text, ok := v.(string)
	if !ok {
		return fmt.Errorf("a list of files came as %T", v)
	}
	return json.Unmarshal([]byte(text), l)
}

func (l FileList) text() string {
	b, _ := json.Marshal(l) // strings and numbers: always possible
	return string(b)
}

// Names returns the files' names.
func (l FileList) Names() []string {
	var names []string
	for _, f := range l {
		names = append(names, f.Name)
	}
	return names
}

const importColumns = `id, source, project_id, reread, name, files, options, state, stage, share, message, created_at, started_at, finished_at, job_id`

// NewImport returns the id of an import that is still to be stored: its files go
// first.
func NewImport() string { return newID() }

func fileKey(source, name string) string { return "imports/" + source + "/" + name }

// PutFile stores one file of an import and returns its size.
func (s *Store) PutFile(ctx context.Context, source, name string, from io.Reader) (int64, error) {
	ctx, cancel := context.WithCancel(ctx)
	defer cancel() // takes back a file that did not come to its end
	w, err := s.bucket.NewWriter(
		ctx,
		fileKey(source, name),
		&blob.WriterOptions{ContentType: "application/octet-stream"},
	)
	if err != nil {
		return 0, fmt.Errorf("storing %s: %w", name, err)
	}
	n, err := io.Copy(w, from)
	if err != nil {
		cancel()
		return n, errors.Join(err, w.Close())
	}
	if err := w.Close(); err != nil {
		return n, fmt.Errorf("storing %s: %w", name, err)
	}
	return n, nil
}

// DropFiles removes the files of an import.
func (s *Store) DropFiles(ctx context.Context, source string) error {
	list := s.bucket.List(&blob.ListOptions{Prefix: fileKey(source, "")})
	for {
		o, err := list.Next(ctx)
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return err
		}
		if err := s.bucket.Delete(ctx, o.Key); err != nil {
			return err
		}
	}
}

// Unpack lays the files of an import into a folder.
func (s *Store) Unpack(ctx context.Context, i Import, folder string) error {
	root, err := os.OpenRoot(folder)
	if err != nil {
		return err
	}
	defer root.Close()
	for _, f := range i.Files {
		if err := s.unpack(ctx, root, fileKey(i.Source, f.Name), f.Name); err != nil {
			return fmt.Errorf("the uploaded file %s is not there any more; import it again: %w", f.Name, err)
		}
	}
	return nil
}

func (s *Store) unpack(ctx context.Context, root *os.Root, key, name string) error {
	r, err := s.bucket.NewReader(ctx, key, nil)
	if err != nil {
		return err
	}
	defer r.Close()
	w, err := root.Create(filepath.Base(name))
	if err != nil {
		return err
	}
	if _, err := io.Copy(w, r); err != nil {
		w.Close()
		return err
	}
	return w.Close()
}

// InsertImport stores an import and queues it. Its files are there already. What it returns is another
// import when the same request has come before: then these files are not needed.
func (s *Store) InsertImport(ctx context.Context, i Import, enqueue Enqueue) (Import, error) {
	id, err := s.Once(ctx, func(tx *Tx) (string, error) {
		if _, err := tx.sql.ExecContext(ctx, `insert into imports (id, source, project_id, reread, name, files, options) values ($1, $2, $3, $4, $5, $6, $7)`,
			i.ID, i.Source, i.ProjectID, i.Reread, i.Name, i.Files.text(), string(i.Options)); err != nil {
			return "", err
		}
		return i.ID, imports.queue(ctx, tx, i.ID, enqueue)
	})
	if err != nil {
		return i, err
	}
	return s.Import(ctx, id)
}

// Import returns one import.
func (s *Store) Import(ctx context.Context, id string) (Import, error) {
	var i Import
	err := s.db.GetContext(ctx, &i, `select `+importColumns+` from imports where id = $1`, id)
	return i, missing(err)
}

// Imports lists the imports that are on their way or did not end well, and those
// that ended within the last minutes, the newest first.
func (s *Store) Imports(ctx context.Context) ([]Import, error) {
	list := []Import{}
	err := s.db.SelectContext(ctx, &list, `select `+importColumns+` from imports
		where state not in ('done') or finished_at > now() - interval '5 minutes' order by created_at desc, id desc limit 100`)
	return list, err
}

// SourceOf returns the import that made the newest revision of a project.
func (s *Store) SourceOf(ctx context.Context, project string) (Import, error) {
	var i Import
	err := s.db.GetContext(ctx, &i, `select `+importColumns+` from imports
		where id = (select import_id from revisions where project_id = $1 order by number desc limit 1)`, project)
	return i, missing(err)
}

// SourceOfRevision returns the import that made a revision.
func (s *Store) SourceOfRevision(ctx context.Context, revision string) (Import, error) {
	var i Import
	err := s.db.GetContext(ctx, &i,
		`select `+importColumns+` from imports where id = (select import_id from revisions where id = $1)`, revision)
	return i, missing(err)
}

// CopyFiles stores the files of one import for another one.
func (s *Store) CopyFiles(ctx context.Context, from Import, source string) error {
	for _, f := range from.Files {
		if err := s.bucket.Copy(ctx, fileKey(source, f.Name), fileKey(from.Source, f.Name), nil); err != nil {
			return fmt.Errorf("storing %s once more: %w", f.Name, err)
		}
	}
	return nil
}

// BeginImport marks an import as running for the job in i; false when it was
// cancelled or another job has it.
func (s *Store) BeginImport(ctx context.Context, i Import) (bool, error) {
	ok, err := imports.begin(ctx, s.db, i.ID, i.JobID)
	if err != nil || !ok {
		return false, err
	}
	return s.AdvanceImport(ctx, i, "waiting", 0)
}

// AdvanceImport notes how far an import is; false when it is no longer this
// job's.
func (s *Store) AdvanceImport(ctx context.Context, i Import, stage string, share float64) (bool, error) {
	return changed(s.db.ExecContext(ctx, `update imports set stage = $3, share = $4, beat_at = now()
		where id = $1 and job_id = $2 and state = 'running'`, i.ID, i.JobID, stage, share))
}

// EndImport gives an import that made nothing its final state.
func (s *Store) EndImport(ctx context.Context, i Import, state State, message string) error {
	_, err := s.db.ExecContext(ctx, `update imports set state = $2, message = $3, finished_at = now()
		where id = $1 and state in ('waiting', 'running')`, i.ID, state, message)
	return err
}

// FailImport counts a failure that another try may not meet; last says that it has been tried often
// enough.
func (s *Store) FailImport(ctx context.Context, i Import) (last bool, err error) {
	return imports.fail(ctx, s.db, i.ID, i.JobID)
}

// RetryImport queues an import that failed or was cancelled once more.
func (s *Store) RetryImport(ctx context.Context, i Import, enqueue Enqueue) error {
	return s.Within(ctx, func(tx *Tx) error { return imports.again(ctx, tx, i.ID, enqueue) })
}

// DeleteImport forgets an import that made nothing, with its files.
func (s *Store) DeleteImport(ctx context.Context, i Import) error {
	ok, err := changed(
		s.db.ExecContext(ctx, `delete from imports where id = $1 and state in ('failed', 'cancelled')`, i.ID),
	)
	if err != nil || !ok || i.Source != i.ID {
		return err
	}
	return s.DropFiles(ctx, i.Source)
}

// ErrTaken says that an import was cancelled or given to another worker.
var ErrTaken = errors.New("the import was taken away")

// FinishImport marks an import as done; ErrTaken when it is no longer this job's. What it made is stored in the same
// transaction.
func (tx *Tx) FinishImport(ctx context.Context, i Import) error {
	mine, err := changed(tx.sql.ExecContext(ctx, `update imports set state = 'done', share = 1, finished_at = now()
		where id = $1 and job_id = $2 and state = 'running'`, i.ID, i.JobID))
	if err == nil && !mine {
		return ErrTaken
	}
	return err
}

// PutImportProject notes which project an import has become part of.
func (tx *Tx) PutImportProject(ctx context.Context, i Import, project string) error {
	_, err := tx.sql.ExecContext(ctx, `update imports set project_id = $2 where id = $1`, i.ID, project)
	return err
}

// Revises reports whether an import is of other files than the project was made of: its next revision.
func (i *Import) Revises() bool { return i.Reread && i.Source == i.ID }
