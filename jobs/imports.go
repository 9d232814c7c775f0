package jobs

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"time"

	"github.com/jmoiron/sqlx"
	"github.com/riverqueue/river"

	"slowreveal/authoring"
	"slowreveal/core/product"
	"slowreveal/formats"
	"slowreveal/formats/importer"
	"slowreveal/store"
)

// ImportArgs is the queue's record of one import.
type ImportArgs struct {
	Import string `json:"import"`
}

// Kind names the job in the queue.
func (ImportArgs) Kind() string { return "import" }

// importQueue is apart from that of films: nobody waits for a film to see an
// assembly.
const importQueue = "imports"

type importWorker struct {
	river.WorkerDefaults[ImportArgs]
	authoring *authoring.Service
	store     *store.Store
	// reading reads the files; tests put something else in its place.
	reading func(context.Context, store.Import) (*product.Model, error)
}

func newImportWorker(a *authoring.Service) *importWorker {
	w := &importWorker{authoring: a, store: a.Store}
	w.reading = w.read
	return w
}

// Work reads the files of one import. What is wrong with the files is final and
// told to whoever gave them; what is wrong around them is left to the queue.
func (w *importWorker) Work(ctx context.Context, job *river.Job[ImportArgs]) error {
	i, err := w.store.Import(ctx, job.Args.Import)
	if errors.Is(err, store.ErrMissing) {
		return nil
	}
	if err != nil {
		return err
	}
	return w.take(ctx, i, job.ID)
}

// take reads an import for a job.
func (w *importWorker) take(ctx context.Context, i store.Import, job int64) error {
	if i.JobID != job { // another job has taken over
		return nil
	}
	if ok, err := w.store.BeginImport(ctx, i); err != nil || !ok {
		return err
	}
	var m *product.Model
	err := recovering(func() (err error) {
		if m, err = w.reading(ctx, i); err == nil {
			err = w.authoring.FinishImport(ctx, i, m)
		}
		return err
	})
	var refused *store.Refused
	var mistake *mistake
	switch {
	case err == nil, errors.Is(err, store.ErrTaken), errors.Is(err, errClaimLost):
		return nil
	case ctx.Err() != nil: // the process ends: let another worker have it
		return ctx.Err()
	case store.IsAway(err):
		return err
	case errors.As(err, &mistake):
		slog.Error(
			"an import failed by a mistake of ours",
			"import",
			i.ID,
			"mistake",
			mistake.what,
			"stack",
			mistake.stack,
		)
		err = fmt.Errorf(
			"reading %s failed %d times by a mistake in Slow Reveal: %w",
			i.Files[0].Name,
			store.MostFailures,
			err,
		)
		fallthrough
	case m != nil && !errors.As(err, &refused): // it was read; storing it may work later
		last, failing := w.store.FailImport(context.WithoutCancel(ctx), i)
		if failing != nil || !last {
			return errors.Join(err, failing)
		}
	}
	slog.Warn("an import failed", "import", i.ID, "error", err)
	return w.store.EndImport(ctx, i, store.Failed, err.Error())
}

// read reads the files in a folder of their own and tells the store how far it
// is. It says so now and then even when nothing moves, so that nobody takes the
// work away.
func (w *importWorker) read(ctx context.Context, i store.Import) (*product.Model, error) {
	var o formats.Options
	if err := json.Unmarshal([]byte(i.Options), &o); err != nil {
		return nil, fmt.Errorf("reading the import's options: %w", err)
	}
	o.Name = i.Name
	folder := w.store.ImportFolder(i)
	if err := errors.Join(os.RemoveAll(folder), os.MkdirAll(folder, 0o700)); err != nil {
		return nil, fmt.Errorf("preparing the import's folder: %w", err)
	}
	defer os.RemoveAll(folder)
	if err := w.store.Unpack(ctx, i, folder); err != nil {
		return nil, err
	}
	ctx, stop := context.WithCancelCause(ctx)
	defer stop(nil)
	progress := make(chan told, 1)
	o.Progress = func(stage string, share float64) {
		select {
		case <-progress: // only the newest counts
		default:
		}
		select {
		case progress <- told{stage, share}:
		default:
		}
	}
	go w.beat(ctx, i, progress, stop)
	return importer.Read(ctx, folder, i.Files.Names(), o)
}

type told struct {
	stage string
	share float64
}

func (w *importWorker) beat(ctx context.Context, i store.Import, progress <-chan told, stop context.CancelCauseFunc) {
	tick := time.NewTicker(between)
	defer tick.Stop()
	now := told{"reading", 0}
	for {
		select {
		case <-ctx.Done():
			return
		case now = <-progress:
			continue
		case <-tick.C:
		}
		if ok, err := w.store.AdvanceImport(ctx, i, now.stage, now.share); err == nil && !ok {
			stop(errClaimLost)
			return
		}
	}
}

func (q *Queue) enqueueImport(ctx context.Context, tx *sqlx.Tx, id string) (int64, error) {
	result, err := q.client.InsertTx(
		ctx,
		tx.Tx,
		ImportArgs{Import: id},
		&river.InsertOpts{MaxAttempts: 3, Queue: importQueue},
	)
	if err != nil {
		return 0, fmt.Errorf("queueing the import: %w", err)
	}
	return result.Job.ID, nil
}

func optionsText(o formats.Options) (store.RawText, error) {
	text, err := json.Marshal(o)
	return store.RawText(text), err
}

// Import queues an import whose files are stored.
func (q *Queue) Import(ctx context.Context, i store.Import, o formats.Options) (store.Import, error) {
	if err := o.Check(); err != nil {
		return i, &store.Refused{Cause: err}
	}
	var err error
	if i.Options, err = optionsText(o); err != nil {
		return i, err
	}
	return q.store.InsertImport(ctx, i, q.enqueueImport)
}

// ImportNow reads files that are stored in this process, without the queue.
func (q *Queue) ImportNow(ctx context.Context, i store.Import, o formats.Options) (store.Import, error) {
	var err error
	if i.Options, err = optionsText(o); err != nil {
		return i, err
	}
	unqueued := func(context.Context, *sqlx.Tx, string) (int64, error) { return 0, nil }
	if i, err = q.store.InsertImport(ctx, i, unqueued); err != nil {
		return i, err
	}
	if _, err := q.store.BeginImport(ctx, i); err != nil {
		return i, err
	}
	m, err := newImportWorker(q.authoring).read(ctx, i)
	if err == nil {
		err = q.authoring.FinishImport(ctx, i, m)
	}
	if err != nil {
		q.store.EndImport(context.WithoutCancel(ctx), i, store.Failed, err.Error())
		return i, err
	}
	return q.store.Import(ctx, i.ID)
}

// Reread queues the files of a project once more, to be read in another way.
func (q *Queue) Reread(ctx context.Context, project string, o formats.Options) (store.Import, error) {
	p, err := q.store.Project(ctx, project)
	if err != nil {
		return store.Import{}, err
	}
	from, err := q.store.SourceOf(ctx, project)
	if err != nil {
		return store.Import{}, &store.Refused{
			Cause: errors.New("the files of this project were not kept; import them anew"),
		}
	}
	return q.Import(
		ctx,
		store.Import{
			ID:        store.NewImport(),
			Source:    from.Source,
			ProjectID: &p.ID,
			Reread:    true,
			Name:      p.Name,
			Files:     from.Files,
		},
		o,
	)
}

// GoBack queues the files of the revision before the newest one to come in once more, as the next revision: what was
// switched off since its parts had gone goes on.
func (q *Queue) GoBack(ctx context.Context, project string) (store.Import, error) {
	p, err := q.store.Project(ctx, project)
	if err != nil {
		return store.Import{}, err
	}
	now, err := q.store.Revision(ctx, project)
	if err != nil {
		return store.Import{}, err
	}
	var report product.Report
	if err := json.Unmarshal([]byte(now.Report), &report); err != nil {
		return store.Import{}, fmt.Errorf("reading the report of a revision: %w", err)
	}
	if report.Changes == nil || report.Changes.Before == "" {
		return store.Import{}, &store.Refused{
			Cause: errors.New("this revision is the first: there is none to go back to"),
		}
	}
	from, err := q.store.SourceOfRevision(ctx, report.Changes.Before)
	if err != nil {
		return store.Import{}, &store.Refused{
			Cause: errors.New("the files of the revision before were not kept; give them as a new revision"),
		}
	}
	var o formats.Options
	if err := json.Unmarshal([]byte(from.Options), &o); err != nil {
		return store.Import{}, fmt.Errorf("reading how the revision before was read: %w", err)
	}
	i := store.Import{ID: store.NewImport(), ProjectID: &p.ID, Reread: true, Name: p.Name, Files: from.Files}
	i.Source = i.ID
	if err := q.store.CopyFiles(ctx, from, i.Source); err != nil {
		return i, errors.Join(err, q.store.DropFiles(ctx, i.Source))
	}
	return q.Import(ctx, i, o)
}

// CancelImport stops an import, whoever is at it.
func (q *Queue) CancelImport(ctx context.Context, id string) error {
	i, err := q.store.Import(ctx, id)
	if err != nil {
		return err
	}
	return q.store.EndImport(ctx, i, store.Cancelled, "")
}

// RetryImport queues a failed or cancelled import again.
func (q *Queue) RetryImport(ctx context.Context, id string) error {
	i, err := q.store.Import(ctx, id)
	if err != nil {
		return err
	}
	return q.store.RetryImport(ctx, i, q.enqueueImport)
}
