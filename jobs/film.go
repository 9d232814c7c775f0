package jobs

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"time"

	"github.com/riverqueue/river"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/render"
	"slowreveal/shoot"
	"slowreveal/store"
)

type filmWorker struct {
	river.WorkerDefaults[FilmArgs]
	store *store.Store
}

// Work makes one film. What is wrong with the film itself is final and told to
// its author; what is wrong around it (the database away, the process ending)
// is left to the queue, which tries again.
func (w *filmWorker) Work(ctx context.Context, job *river.Job[FilmArgs]) error {
	o, err := w.store.Output(ctx, job.Args.Output)
	if errors.Is(err, store.ErrMissing) {
		return nil
	}
	if err != nil {
		return err
	}
	if o.JobID != job.ID { // another job has taken over
		return nil
	}
	if ok, err := w.store.BeginOutput(ctx, o); err != nil || !ok {
		return err
	}
	err = w.shoot(ctx, o)
	switch {
	case err == nil:
		return w.deliver(ctx, o)
	case errors.Is(err, errTaken):
		return nil
	case ctx.Err() != nil: // the process ends: let another worker have it
		return ctx.Err()
	}
	slog.Warn("a film failed", "output", o.ID, "error", err)
	return w.store.EndOutput(ctx, o, "failed", err.Error(), 0)
}

func (w *filmWorker) deliver(ctx context.Context, o store.Output) error {
	info, err := os.Stat(w.store.FilmPath(o.ID))
	if err != nil {
		return fmt.Errorf("the finished film is gone: %w", err)
	}
	return w.store.EndOutput(ctx, o, "done", "", info.Size())
}

// errTaken says that the output was cancelled or given to another worker.
var errTaken = errors.New("the output was taken away")

// between is how often progress is told.
const between = 400 * time.Millisecond

func (w *filmWorker) shoot(ctx context.Context, o store.Output) error {
	r, err := w.store.Reveal(ctx, o.RevealID)
	if err != nil {
		return err
	}
	m, err := w.store.Model(ctx, r.RevisionID, true)
	if err != nil {
		return err
	}
	doc, err := reveal.Parse([]byte(o.Document))
	if err != nil {
		return err
	}
	var s Settings
	if err := json.Unmarshal([]byte(o.Settings), &s); err != nil {
		return fmt.Errorf("reading the output's settings: %w", err)
	}
	scene, err := render.NewScene(m.Assembly, m.Shapes)
	if err != nil {
		return err
	}
	ctx, stop := context.WithCancelCause(ctx)
	defer stop(nil)
	said := time.Now()
	progress := func(done, of int) {
		if time.Since(said) < between && done < of {
			return
		}
		said = time.Now()
		if ok, err := w.store.Advance(ctx, o, done); err == nil && !ok {
			stop(errTaken)
		}
	}
	err = shoot.Film(ctx, film.Compile(m.Assembly, doc), scene, s.order(), w.store.FilmPath(o.ID), progress)
	if errors.Is(context.Cause(ctx), errTaken) {
		return errTaken
	}
	return err
}
