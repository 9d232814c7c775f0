package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"

	"github.com/jmoiron/sqlx"
)

// Segment is a part of an output that one worker makes.
type Segment struct {
	OutputID string `db:"output_id"`
	Number   int    `db:"number"`
	Frames   int    `db:"frames"`
	// Finish says that it puts the others together.
	Finish bool   `db:"finish"`
	Claim  string `db:"claim"`
}

// Words names the segment for people.
func (p *Segment) Words() string {
	if p.Finish {
		return "the finished file"
	}
	return fmt.Sprintf("part %d (%d frames)", p.Number+1, p.Frames)
}

// MostFailures is how often something is tried that fails by a mistake of ours; mostLosses how
// often when nobody knows why: its worker was killed, perhaps because of it, perhaps not.
const MostFailures, mostLosses = 3, 12

// SegmentJob is what the queue calls the jobs that say that a segment waits.
const SegmentJob = "segment"

// NotifyWorkers tells the workers, in a transaction, that segments wait.
type NotifyWorkers func(ctx context.Context, tx *sqlx.Tx, segments int) error

func addSegments(ctx context.Context, tx *Tx, output string, frames []int) error {
	for i, n := range append(frames[:len(frames):len(frames)], 0) {
		if _, err := tx.sql.ExecContext(ctx, `insert into segments (output_id, number, frames, finish) values ($1, $2, $3, $4)`, output, i, n, i == len(frames)); err != nil {
			return err
		}
	}
	return nil
}

// ClaimSegment gives the caller a segment to make: of the output that has waited longest since
// one of it was taken, its first; nil when none waits. The last segment waits for all others.
func (s *Store) ClaimSegment(ctx context.Context) (*Segment, error) {
	claim := newID()
	var p Segment
	err := s.Within(ctx, func(tx *Tx) error {
		err := tx.sql.GetContext(ctx, &p, `with next as (
			select p.output_id, p.number from segments p join outputs o on o.id = p.output_id
			where p.state = 'waiting' and o.state in ('waiting', 'running')
				and (not p.finish or not exists (select 1 from segments q where q.output_id = p.output_id and not q.finish and q.state <> 'done'))
			order by o.served_at, o.created_at, p.number limit 1 for update of p skip locked)
			update segments set state = 'running', claim = $1, beat_at = now(), frames_done = 0 from next
			where segments.output_id = next.output_id and segments.number = next.number
			returning segments.output_id, segments.number, segments.frames, segments.finish, segments.claim`, claim)
		if err != nil {
			return err
		}
		_, err = tx.sql.ExecContext(
			ctx,
			`update outputs set state = 'running', served_at = now(), started_at = coalesce(started_at, now())
			where id = $1 and state in ('waiting', 'running')`,
			p.OutputID,
		)
		return err
	})
	if errors.Is(err, sql.ErrNoRows) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	return &p, nil
}

// AdvanceSegment notes how many frames of a segment are done, and that its worker is alive;
// false when the segment is no longer this claim's, or its output no longer wanted.
func (s *Store) AdvanceSegment(ctx context.Context, o Output, p *Segment, done int) (bool, error) {
	ok := false
	err := s.Within(ctx, func(tx *Tx) error {
		var err error
		ok, err = changed(tx.sql.ExecContext(ctx, `update segments set frames_done = $4, beat_at = now() from outputs o
			where segments.output_id = $1 and number = $2 and claim = $3 and segments.state = 'running' and o.id = output_id and o.state = 'running'`, p.OutputID, p.Number, p.Claim, done))
		if err != nil || !ok {
			return err
		}
		if _, err := tx.sql.ExecContext(ctx, `update outputs set frames_done = (select coalesce(sum(frames_done), 0) from segments where output_id = $1) where id = $1`, p.OutputID); err != nil {
			return err
		}
		return tx.Notify(ctx, o.event())
	})
	return ok, err
}

// FinishSegment marks a segment as done; false when it is no longer this claim's. When only the
// last segment is left, the workers are woken for it.
func (s *Store) FinishSegment(ctx context.Context, p *Segment, wake NotifyWorkers) (bool, error) {
	ok := false
	err := s.Within(ctx, func(tx *Tx) error {
		var err error
		ok, err = changed(
			tx.sql.ExecContext(
				ctx,
				`update segments set state = 'done', frames_done = frames where output_id = $1 and number = $2 and claim = $3 and state = 'running'`,
				p.OutputID,
				p.Number,
				p.Claim,
			),
		)
		if err != nil || !ok || p.Finish {
			return err
		}
		return wake(ctx, tx.sql, 1)
	})
	return ok, err
}

// ReleaseSegment gives a segment back that was not finished.
func (s *Store) ReleaseSegment(ctx context.Context, p *Segment, wake NotifyWorkers) error {
	return s.Within(ctx, func(tx *Tx) error {
		ok, err := changed(
			tx.sql.ExecContext(
				ctx,
				`update segments set state = 'waiting', claim = null where output_id = $1 and number = $2 and claim = $3 and state = 'running'`,
				p.OutputID,
				p.Number,
				p.Claim,
			),
		)
		if err != nil || !ok {
			return err
		}
		return wake(ctx, tx.sql, 1)
	})
}

// FailSegment gives a segment back whose making failed by a mistake of ours. last says that it has now
// failed so often that it is not tried again: then it stays with the caller, who ends the output.
func (s *Store) FailSegment(ctx context.Context, p *Segment, wake NotifyWorkers) (last bool, err error) {
	err = s.Within(ctx, func(tx *Tx) error {
		var failures int
		err := tx.sql.GetContext(
			ctx,
			&failures,
			`update segments set failures = failures + 1 where output_id = $1 and number = $2 and claim = $3 and state = 'running' returning failures`,
			p.OutputID,
			p.Number,
			p.Claim,
		)
		if errors.Is(err, sql.ErrNoRows) {
			return nil
		}
		if last = failures >= MostFailures; err != nil || last {
			return err
		}
		if _, err := tx.sql.ExecContext(ctx, `update segments set state = 'waiting', claim = null where output_id = $1 and number = $2`, p.OutputID, p.Number); err != nil {
			return err
		}
		return wake(ctx, tx.sql, 1)
	})
	return last, err
}

// endHopelessOutputs gives up outputs of which one segment has lost worker after worker.
func endHopelessOutputs(ctx context.Context, tx *Tx) error {
	var lost []struct {
		Output
		Segment
	}
	err := tx.sql.SelectContext(
		ctx,
		&lost,
		`select distinct on (o.id) o.id, o.project_id, p.output_id, p.number, p.frames, p.finish from segments p join outputs o on o.id = p.output_id
		where p.losses >= $1 and p.state <> 'done' and o.state in ('waiting', 'running') order by o.id, p.number`,
		mostLosses,
	)
	if err != nil {
		return err
	}
	for i := range lost {
		why := fmt.Sprintf(
			"making %s was begun %d times, and each time the worker was gone before its end; it may take more memory than there is: try a smaller size",
			lost[i].Words(),
			mostLosses,
		)
		if _, err := tx.sql.ExecContext(ctx, `update outputs set state = 'failed', message = $2, finished_at = now() where id = $1`, lost[i].ID, why); err != nil {
			return err
		}
		if err := tx.Notify(ctx, lost[i].event()); err != nil {
			return err
		}
	}
	return nil
}

// requeueLostSegments gives segments whose worker has gone silent back, and wakes the workers
// for segments of which the queue knows nothing any more: a worker may die after it has
// taken the word that a segment waits and before it has taken the segment.
func requeueLostSegments(ctx context.Context, tx *Tx, wake NotifyWorkers) error {
	if _, err := tx.sql.ExecContext(ctx, `update segments set state = 'waiting', claim = null, losses = losses + 1
		where state = 'running' and beat_at < now() - interval '`+heartbeatTimeout+`'`); err != nil {
		return err
	}
	if err := endHopelessOutputs(ctx, tx); err != nil {
		return err
	}
	var waiting, known int
	if err := tx.sql.GetContext(ctx, &waiting, `select count(*) from segments p join outputs o on o.id = p.output_id where p.state = 'waiting' and o.state in ('waiting', 'running')
		and (not p.finish or not exists (select 1 from segments q where q.output_id = p.output_id and not q.finish and q.state <> 'done'))`); err != nil ||
		waiting == 0 {
		return err
	}
	if err := tx.sql.GetContext(ctx, &known, `select count(*) from river_job where kind = $1 and state in ('available', 'retryable', 'scheduled')`, SegmentJob); err != nil ||
		known >= waiting {
		return err
	}
	return wake(ctx, tx.sql, waiting-known)
}
