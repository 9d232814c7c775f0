package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"time"
)

// Output is one finished export, or one on its way.
type Output struct {
	ID         string     `db:"id" json:"id"`
	RevealID   string     `db:"reveal_id" json:"revealId"`
	ProjectID  string     `db:"project_id" json:"projectId"`
	Version    int64      `db:"version" json:"version"`
	Title      string     `db:"title" json:"title"`
	Settings   RawText    `db:"settings" json:"settings"`
	State      State      `db:"state" json:"state"`
	FramesDone int        `db:"frames_done" json:"framesDone"`
	Frames     int        `db:"frames" json:"frames"`
	Message    string     `db:"message" json:"message"`
	Bytes      int64      `db:"bytes" json:"bytes"`
	Media      string     `db:"media" json:"media"`
	Kept       bool       `db:"kept" json:"kept"`
	MadeBy     string     `db:"made_by" json:"madeBy"`
	CreatedAt  time.Time  `db:"created_at" json:"createdAt"`
	StartedAt  *time.Time `db:"started_at" json:"startedAt"`
	FinishedAt *time.Time `db:"finished_at" json:"finishedAt"`

	// Current is the reveal's version now. Behind says what is otherwise now than when the output was ordered: its
	// "reveal" or a "joined" one; empty for nothing that is known here. Package authoring adds the "model".
	Current int64  `db:"current" json:"current"`
	Behind  string `db:"behind" json:"behind"`

	// Due says that it is to be made again: it is behind, and none like it is newer. Package authoring finds it out.
	Due bool `db:"-" json:"due"`

	Document RawText `db:"document" json:"-"`
	// File is the name of the finished file in the folder of outputs.
	File string `db:"file" json:"-"`

	// Revision is the number of the assembly's revision that it is made of; 0 for outputs of before that was kept.
	Revision int `db:"revision" json:"revision"`

	// RevisionID is that revision, RevisionOf the one that its reveal is of now, Look how the product looked.
	RevisionID string `db:"revision_id" json:"-"`
	RevisionOf string `db:"revision_of" json:"-"`
	Look       string `db:"look" json:"-"`
}

const outputColumns = `id, coalesce((select v.number from revisions v where v.id = outputs.revision_id), 0) as revision,
	coalesce(revision_id::text, '') as revision_id, coalesce((select r.revision_id::text from reveals r where r.id = outputs.reveal_id), '') as revision_of, look,
	case when exists (select 1 from reveals r where r.id = outputs.reveal_id and r.version > outputs.version) then 'reveal'
		when exists (select 1 from jsonb_array_elements(joined::jsonb) j join reveals r on r.id = (j->>'id')::uuid where r.version > (j->>'version')::bigint) then 'joined'
		else '' end as behind, reveal_id, project_id, version, title, settings, state, frames_done, frames, message, bytes, media, kept, made_by,
	created_at, started_at, finished_at, document, file, coalesce((select r.version from reveals r where r.id = outputs.reveal_id), 0) as current`

// Source is what an output is made of, as it was when it was ordered.
type Source struct {
	// RevisionID and Edits are the assembly and its arrangement, Look how it looks and moves in the variant that is
	// shown and, where what is made says so, what its parts are called.
	RevisionID string  `db:"revision_id"`
	Edits      RawText `db:"edits"`
	Look       string  `db:"look"`
	Joined     []Joined
}

// Joined is a further reveal of a joined film.
type Joined struct {
	ID         string  `json:"id"`
	Version    int64   `json:"version"`
	RevisionID string  `json:"revision"`
	Document   RawText `json:"document"`
}

// OutputSource returns what an output is made of, and the revision that its reveal is of now. The source of one that was
// ordered before this was kept has no revision.
func (s *Store) OutputSource(ctx context.Context, o Output) (from Source, now string, err error) {
	var row struct {
		Source
		Now    string `db:"now"`
		Joined string `db:"joined"`
	}
	if err := s.db.GetContext(ctx, &row, `select coalesce(o.revision_id::text, '') as revision_id, o.edits, o.look, o.joined, r.revision_id as now
		from outputs o join reveals r on r.id = o.reveal_id where o.id = $1`, o.ID); err != nil {
		return from, "", missing(err)
	}
	if err := json.Unmarshal([]byte(row.Joined), &row.Source.Joined); row.RevisionID != "" && err != nil {
		return from, "", fmt.Errorf("reading what an output is made of: %w", err)
	}
	return row.Source, row.Now, nil
}

// NewOutput is an output to be stored, with the segments in which it is made.
type NewOutput struct {
	Output
	Source    Source
	Extension string
	Segments  []int // frames of each
}

// InsertOutputs stores new outputs, all or none; wake tells that many segments wait, in the
// same transaction.
func (s *Store) InsertOutputs(ctx context.Context, list []NewOutput, wake NotifyWorkers) ([]Output, error) {
	made, err := s.Once(ctx, func(tx *Tx) (string, error) {
		var ids []string
		for i := range list {
			if err := list[i].insert(ctx, tx, wake); err != nil {
				return "", err
			}
			ids = append(ids, list[i].ID)
		}
		return strings.Join(ids, " "), nil
	})
	if err != nil {
		return nil, err
	}
	var out []Output
	for _, id := range strings.Fields(made) {
		o, err := s.Output(ctx, id)
		if err != nil {
			return nil, err
		}
		out = append(out, o)
	}
	return out, nil
}

// insert stores an output with its segments.
func (o *NewOutput) insert(ctx context.Context, tx *Tx, wake NotifyWorkers) error {
	o.ID = newID()
	o.File = o.ID + "." + o.Extension
	joined, err := json.Marshal(o.Source.Joined)
	if err != nil {
		return fmt.Errorf("writing what an output is made of: %w", err)
	}
	_, err = tx.sql.ExecContext(
		ctx,
		`insert into outputs (id, reveal_id, project_id, version, title, document, settings, frames, file, media, made_by, revision_id, edits, look, joined)
		values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15)`,
		o.ID,
		o.RevealID,
		o.ProjectID,
		o.Version,
		o.Title,
		string(o.Document),
		string(o.Settings),
		o.Frames,
		o.File,
		o.Media,
		o.MadeBy,
		o.Source.RevisionID,
		string(o.Source.Edits),
		o.Source.Look,
		string(joined),
	)
	if err != nil {
		return err
	}
	if err := addSegments(ctx, tx, o.ID, o.Segments); err != nil {
		return err
	}
	if err := wake(ctx, tx.sql, len(o.Segments)); err != nil {
		return err
	}
	return tx.Notify(ctx, o.event())
}

func (o *Output) event() Event { return Event{Kind: "output", Project: o.ProjectID, ID: o.ID} }

// Output returns one output.
func (s *Store) Output(ctx context.Context, id string) (Output, error) {
	var o Output
	err := s.db.GetContext(ctx, &o, `select `+outputColumns+` from outputs where id = $1`, id)
	return o, missing(err)
}

// Outputs lists the outputs of a project, the newest first.
func (s *Store) Outputs(ctx context.Context, project string) ([]Output, error) {
	list := []Output{}
	err := s.db.SelectContext(
		ctx,
		&list,
		`select `+outputColumns+` from outputs where project_id = $1 order by created_at desc, id desc limit 200`,
		project,
	)
	return list, err
}

// EndOutput gives an output its final state. A cancelled one stays cancelled.
func (s *Store) EndOutput(ctx context.Context, o Output, state State, message string, bytes int64) error {
	return s.Within(ctx, func(tx *Tx) error {
		_, err := tx.sql.ExecContext(ctx, `update outputs set state = $2, message = $3, bytes = $4, finished_at = now(),
			frames_done = case when $2 = 'done' then frames else frames_done end
			where id = $1 and state in ('waiting', 'running', 'paused')`, o.ID, state, message, bytes)
		if err != nil {
			return err
		}
		return tx.Notify(ctx, o.event())
	})
}

// PauseOutput lets an output wait until it is resumed; what is being made of it is left.
func (s *Store) PauseOutput(ctx context.Context, o Output) error {
	return s.Within(ctx, func(tx *Tx) error {
		if _, err := tx.sql.ExecContext(ctx, `update outputs set state = 'paused' where id = $1 and state in ('waiting', 'running')`, o.ID); err != nil {
			return err
		}
		return tx.Notify(ctx, o.event())
	})
}

// ResumeOutput queues what is missing of an output that was paused, failed or cancelled;
// frames are its segments.
func (s *Store) ResumeOutput(ctx context.Context, o Output, segments []int, wake NotifyWorkers) error {
	return s.Within(ctx, func(tx *Tx) error {
		ok, err := changed(
			tx.sql.ExecContext(ctx, `update outputs set state = 'waiting', message = '', finished_at = null,
			started_at = case when state = 'paused' then started_at end
			where id = $1 and state in ('failed', 'cancelled', 'paused')`, o.ID),
		)
		if err != nil || !ok {
			return err
		}
		if o.State != Paused { // begin anew: its folder may be gone
			if _, err := tx.sql.ExecContext(ctx, `delete from segments where output_id = $1`, o.ID); err != nil {
				return err
			}
			if err := addSegments(ctx, tx, o.ID, segments); err != nil {
				return err
			}
		}
		if err := wake(ctx, tx.sql, len(segments)+1); err != nil {
			return err
		}
		return tx.Notify(ctx, o.event())
	})
}

// KeepOutput says whether an output is to stay when old ones are removed.
func (s *Store) KeepOutput(ctx context.Context, o Output, kept bool) error {
	if _, err := s.db.ExecContext(ctx, `update outputs set kept = $2 where id = $1`, o.ID, kept); err != nil {
		return err
	}
	return s.notify(ctx, o.event())
}

// Expired lists the finished outputs that nobody keeps and that are older than an age.
func (s *Store) Expired(ctx context.Context, age time.Duration) ([]Output, error) {
	list := []Output{}
	err := s.db.SelectContext(
		ctx,
		&list,
		`select `+outputColumns+` from outputs where not kept and state in ('done', 'failed', 'cancelled')
		and finished_at < now() - make_interval(secs => $1)`,
		age.Seconds(),
	)
	return list, err
}

// Experience is what outputs of a kind took on this installation, all finished ones of the
// last hundred together.
type Experience struct {
	Seconds float64 `db:"seconds"`
	Bytes   float64 `db:"bytes"`
	Pixels  float64 `db:"pixels"` // of all frames
}

// Experience sums up finished outputs whose settings agree in kind, format and purpose.
func (s *Store) Experience(ctx context.Context, kind, format, purpose string) (e Experience, err error) {
	err = s.db.GetContext(
		ctx,
		&e,
		`select coalesce(sum(extract(epoch from finished_at - started_at)), 0) as seconds, coalesce(sum(bytes), 0) as bytes,
		coalesce(sum(frames::float8 * (j->>'width')::float8 * (j->>'height')::float8), 0) as pixels
		from (select *, settings::jsonb as j from outputs where state = 'done' and started_at is not null order by finished_at desc limit 100) o
		where coalesce(j->>'kind', 'film') = $1 and coalesce(j->>'format', '') = $2 and coalesce(j->>'purpose', '') = $3`,
		kind,
		format,
		purpose,
	)
	return e, err
}

// OutputPath is where the finished file of an output lies.
func (s *Store) OutputPath(o Output) string { return filepath.Join(s.films, filepath.Base(o.File)) }

// PicturePath is where the small picture of a finished output lies, FramePath that of one
// that is being made.
func (s *Store) PicturePath(o Output) string { return filepath.Join(s.films, o.ID+".picture.jpg") }

// FramePath is where the frame lies that was made last.
func (s *Store) FramePath(o Output) string { return filepath.Join(s.WorkFolder(o), "frame.jpg") }

// WorkFolder is where the segments of an output lie while it is made.
func (s *Store) WorkFolder(o Output) string { return filepath.Join(s.films, o.ID+".segments") }

// DeleteOutput forgets an output and removes its files.
func (s *Store) DeleteOutput(ctx context.Context, o Output) error {
	if _, err := s.db.ExecContext(ctx, `delete from outputs where id = $1`, o.ID); err != nil {
		return err
	}
	return errors.Join(s.removeFiles(o), s.notify(ctx, o.event()))
}

// removeFiles removes the files of an output that is no longer known.
func (s *Store) removeFiles(o Output) error {
	var err error
	for _, path := range []string{s.WorkFolder(o), s.OutputPath(o), s.PicturePath(o)} {
		err = errors.Join(err, os.RemoveAll(path))
	}
	return err
}
