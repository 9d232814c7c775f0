package store

import (
	"context"
	"fmt"

	"github.com/jmoiron/sqlx"
)

// work names the table of one kind of background work. All of them have the
// columns state, message, job_id, started_at, beat_at and finished_at.
type work string

const imports work = "imports"

// State is how far background work has come: an output, an import or a renewal.
type State string

// What is waiting, running or paused goes on; what has ended stays as it is.
const (
	None      State = "none" // there has been no such work yet
	Waiting   State = "waiting"
	Running   State = "running"
	Paused    State = "paused"
	Done      State = "done"
	Failed    State = "failed"
	Cancelled State = "cancelled"
)

// Enqueue adds a job for the work with the given id in a transaction and returns
// the job's number.
type Enqueue func(ctx context.Context, tx *sqlx.Tx, id string) (int64, error)

// queue gives work to the queue.
func (w work) queue(ctx context.Context, tx *Tx, id string, enqueue Enqueue) error {
	job, err := enqueue(ctx, tx.sql, id)
	if err != nil {
		return err
	}
	_, err = tx.sql.ExecContext(ctx, `update `+string(w)+` set job_id = $2 where id = $1`, id, job)
	return err
}

// begin marks work as running for a job; false when it was cancelled or another
// job has it.
func (w work) begin(ctx context.Context, q execer, id string, job int64) (bool, error) {
	return changed(
		q.ExecContext(
			ctx,
			`update `+string(w)+` set state = 'running', started_at = now(), beat_at = now(), message = ''
		where id = $1 and job_id = $2 and state in ('waiting', 'running')`,
			id,
			job,
		),
	)
}

// fail counts a failure of running work; last says that it is not to be tried again.
func (w work) fail(ctx context.Context, q reader, id string, job int64) (last bool, err error) {
	var failures int
	err = q.GetContext(
		ctx,
		&failures,
		`update `+string(w)+` set failures = failures + 1 where id = $1 and job_id = $2 returning failures`,
		id,
		job,
	)
	return failures >= MostFailures, missing(err)
}

// again queues work that failed or was cancelled once more.
func (w work) again(ctx context.Context, tx *Tx, id string, enqueue Enqueue) error {
	again, err := changed(
		tx.sql.ExecContext(
			ctx,
			`update `+string(
				w,
			)+` set state = 'waiting', message = '', started_at = null, finished_at = null, failures = 0, losses = 0
		where id = $1 and state in ('failed', 'cancelled')`,
			id,
		),
	)
	if err != nil || !again {
		return err
	}
	return w.queue(ctx, tx, id, enqueue)
}

// heartbeatTimeout is how long a worker may say nothing before its work goes to another.
const heartbeatTimeout = "12 seconds"

// requeueLost gives work whose worker has gone silent to the queue again.
func (w work) requeueLost(ctx context.Context, tx *Tx, enqueue Enqueue) error {
	var lost []string
	if err := tx.sql.SelectContext(ctx, &lost, `select id from `+string(w)+`
		where state = 'running' and beat_at < now() - interval '`+heartbeatTimeout+`' for update skip locked`); err != nil {
		return err
	}
	for _, id := range lost {
		var losses int
		if err := tx.sql.GetContext(ctx, &losses, `update `+string(w)+` set state = 'waiting', losses = losses + 1 where id = $1 returning losses`, id); err != nil {
			return err
		}
		if losses >= mostLosses {
			_, err := tx.sql.ExecContext(
				ctx,
				`update `+string(w)+` set state = 'failed', finished_at = now(), message = $2 where id = $1`,
				id,
				fmt.Sprintf(
					"this was begun %d times, and each time the worker was gone before its end; it may take more memory than there is",
					losses,
				),
			)
			if err != nil {
				return err
			}
			continue
		}
		if err := w.queue(ctx, tx, id, enqueue); err != nil {
			return err
		}
	}
	return nil
}

// RequeueLost gives segments of outputs, and imports, whose worker has gone silent to the
// queue again.
func (s *Store) RequeueLost(ctx context.Context, wake NotifyWorkers, intake Enqueue) error {
	return s.Within(ctx, func(tx *Tx) error {
		if err := requeueLostSegments(ctx, tx, wake); err != nil {
			return err
		}
		return imports.requeueLost(ctx, tx, intake)
	})
}
