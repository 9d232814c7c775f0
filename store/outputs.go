package store

import (
	"context"
	"os"
	"path/filepath"
	"time"

	"github.com/jmoiron/sqlx"
)

// Output is one finished export, or one on its way.
type Output struct {
	ID         string     `db:"id" json:"id"`
	RevealID   string     `db:"reveal_id" json:"revealId"`
	ProjectID  string     `db:"project_id" json:"projectId"`
	Version    int64      `db:"version" json:"version"`
	Title      string     `db:"title" json:"title"`
	Settings   RawText    `db:"settings" json:"settings"`
	State      string     `db:"state" json:"state"`
	FramesDone int        `db:"frames_done" json:"framesDone"`
	Frames     int        `db:"frames" json:"frames"`
	Message    string     `db:"message" json:"message"`
	Bytes      int64      `db:"bytes" json:"bytes"`
	CreatedAt  time.Time  `db:"created_at" json:"createdAt"`
	StartedAt  *time.Time `db:"started_at" json:"startedAt"`
	FinishedAt *time.Time `db:"finished_at" json:"finishedAt"`

	Document RawText `db:"document" json:"-"`
	JobID    int64   `db:"job_id" json:"-"`
}

const outputColumns = `id, reveal_id, project_id, version, title, settings, state, frames_done, frames, message, bytes,
	created_at, started_at, finished_at, document, job_id`

// InsertOutput stores a new output; enqueue adds its job in the same
// transaction and returns the job's number.
func (s *Store) InsertOutput(ctx context.Context, o Output, enqueue Enqueue) (Output, error) {
	o.ID = newID()
	err := s.within(ctx, func(tx *sqlx.Tx) error {
		_, err := tx.ExecContext(ctx, `insert into outputs (id, reveal_id, project_id, version, title, document, settings, frames)
			values ($1, $2, $3, $4, $5, $6, $7, $8)`, o.ID, o.RevealID, o.ProjectID, o.Version, o.Title, string(o.Document), string(o.Settings), o.Frames)
		if err != nil {
			return err
		}
		if err := outputs.queue(ctx, tx, o.ID, enqueue); err != nil {
			return err
		}
		return notify(ctx, tx, o.event())
	})
	if err != nil {
		return o, err
	}
	return s.Output(ctx, o.ID)
}

// RetryOutput queues an output that failed or was cancelled once more.
func (s *Store) RetryOutput(ctx context.Context, o Output, enqueue Enqueue) error {
	return s.within(ctx, func(tx *sqlx.Tx) error {
		if err := outputs.again(ctx, tx, o.ID, enqueue); err != nil {
			return err
		}
		return notify(ctx, tx, o.event())
	})
}

func (o *Output) event() Event { return Event{Kind: "output", Project: o.ProjectID, ID: o.ID} }

// Output returns one output.
func (s *Store) Output(ctx context.Context, id string) (Output, error) {
	var o Output
	err := s.DB.GetContext(ctx, &o, `select `+outputColumns+` from outputs where id = $1`, id)
	return o, missing(err)
}

// Outputs lists the outputs of a project, the newest first.
func (s *Store) Outputs(ctx context.Context, project string) ([]Output, error) {
	list := []Output{}
	err := s.DB.SelectContext(ctx, &list, `select `+outputColumns+` from outputs where project_id = $1 order by created_at desc, id desc limit 200`, project)
	return list, err
}

// BeginOutput marks an output as running for the job in o; false when it was
// cancelled or another job has it.
func (s *Store) BeginOutput(ctx context.Context, o Output) (bool, error) {
	ok, err := outputs.begin(ctx, s.DB, o.ID, o.JobID)
	if err != nil || !ok {
		return false, err
	}
	return s.Advance(ctx, o, 0)
}

// Advance notes how many frames are done; false when the output is no longer
// this job's: cancelled, deleted, or given to another worker.
func (s *Store) Advance(ctx context.Context, o Output, done int) (bool, error) {
	ok, err := changed(s.DB.ExecContext(ctx, `update outputs set frames_done = $3, beat_at = now()
		where id = $1 and job_id = $2 and state = 'running'`, o.ID, o.JobID, done))
	if err != nil {
		return false, err
	}
	return ok, notify(ctx, s.DB, o.event())
}

// EndOutput gives an output its final state. A cancelled one stays cancelled.
func (s *Store) EndOutput(ctx context.Context, o Output, state, message string, bytes int64) error {
	_, err := s.DB.ExecContext(ctx, `update outputs set state = $2, message = $3, bytes = $4, finished_at = now(),
		frames_done = case when $2 = 'done' then frames else frames_done end
		where id = $1 and state in ('waiting', 'running')`, o.ID, state, message, bytes)
	if err != nil {
		return err
	}
	return notify(ctx, s.DB, o.event())
}

// FilmPath is where the finished film of an output lies.
func (s *Store) FilmPath(id string) string { return filepath.Join(s.films, id+".mp4") }

// DeleteOutput forgets an output and removes its file.
func (s *Store) DeleteOutput(ctx context.Context, o Output) error {
	if _, err := s.DB.ExecContext(ctx, `delete from outputs where id = $1`, o.ID); err != nil {
		return err
	}
	if err := os.Remove(s.FilmPath(o.ID)); err != nil && !os.IsNotExist(err) {
		return err
	}
	return notify(ctx, s.DB, o.event())
}
