package jobs

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"log/slog"
	"os"
	"slices"
	"sync"
	"sync/atomic"
	"time"

	"github.com/jmoiron/sqlx"
	"github.com/riverqueue/river"

	"slowreveal/core/caption"
	"slowreveal/core/product"
	"slowreveal/core/reveal"
	"slowreveal/release"
	"slowreveal/store"
)

// SegmentArgs is the queue's word that a segment of some output waits: which one, the store
// decides when a worker is free, so that outputs take turns.
type SegmentArgs struct{}

// Kind names the job in the queue.
func (SegmentArgs) Kind() string { return store.SegmentJob }

type segmentWorker struct {
	river.WorkerDefaults[SegmentArgs]
	queue *Queue
	lanes int
	// making makes one segment; tests put something else in its place.
	making func(context.Context, store.Output, *store.Segment, release.Progress) error
	// The outputs worked at last, the last one first: their segments share what was prepared.
	preparing sync.Mutex
	last      []prepared
}

func newSegmentWorker(q *Queue, lanes int) *segmentWorker {
	w := &segmentWorker{queue: q, lanes: lanes}
	w.making = w.segment
	return w
}

// prepared is an output, worked out and ready to be made.
type prepared struct {
	output string
	work   *release.Work
}

// Work makes one segment. What is wrong with the output itself is final and told to its
// author; what is wrong around it (the database away, the process ending) is left to the
// queue: the segment is given back, or found when its worker has been silent.
func (w *segmentWorker) Work(ctx context.Context, _ *river.Job[SegmentArgs]) error {
	s := w.queue.store
	p, err := s.ClaimSegment(ctx)
	if err != nil || p == nil {
		return err
	}
	o, err := s.Output(ctx, p.OutputID)
	if err != nil {
		return err
	}
	err = w.make(ctx, o, p)
	calm := context.WithoutCancel(ctx)
	var mistake *mistake
	switch {
	case err == nil:
		return nil
	case errors.Is(err, errClaimLost):
		return w.leave(calm, p)
	case ctx.Err() != nil: // the process ends: let another worker have it
		return errors.Join(ctx.Err(), s.ReleaseSegment(calm, p, w.queue.notifyWorkers))
	case store.IsAway(err): // the database: what is lost is found
		return err
	case errors.As(err, &mistake):
		slog.Error(
			"making a segment of an output failed by a mistake of ours",
			"output",
			o.ID,
			"segment",
			p.Number,
			"mistake",
			mistake.what,
			"stack",
			mistake.stack,
		)
		w.forget(o) // what was prepared may be half of it
		last, err := s.FailSegment(calm, p, w.queue.notifyWorkers)
		if err != nil || !last {
			return err
		}
		os.RemoveAll(s.WorkFolder(o))
		return s.EndOutput(
			calm,
			o,
			store.Failed,
			fmt.Sprintf(
				"making %s failed %d times by a mistake in Slow Reveal: %v",
				p.Words(),
				store.MostFailures,
				mistake,
			),
			0,
		)
	}
	slog.Warn("an output failed", "output", o.ID, "error", err)
	os.RemoveAll(s.WorkFolder(o))
	return s.EndOutput(calm, o, store.Failed, err.Error(), 0)
}

// leave gives up a segment of an output that is paused, cancelled or gone.
func (w *segmentWorker) leave(ctx context.Context, p *store.Segment) error {
	s := w.queue.store
	o, err := s.Output(ctx, p.OutputID)
	if errors.Is(err, store.ErrMissing) || err == nil && o.State == store.Cancelled {
		return os.RemoveAll(s.WorkFolder(store.Output{ID: p.OutputID}))
	}
	if err != nil {
		return err
	}
	return s.ReleaseSegment(ctx, p, w.queue.notifyWorkers)
}

// errClaimLost says that the output was cancelled or paused, or the segment given to another worker.
var errClaimLost = errors.New("the output was taken away")

// between is how often a worker says that it is at it, and how far it is.
const between = 400 * time.Millisecond

// lookEvery is how often the frame that is being made is kept as a small picture.
const lookEvery = 1500 * time.Millisecond

func (w *segmentWorker) make(ctx context.Context, o store.Output, p *store.Segment) error {
	s := w.queue.store
	ctx, stop := context.WithCancelCause(ctx)
	defer stop(nil)
	var done atomic.Int64
	ended := make(chan struct{})
	defer close(ended)
	go func() {
		tick := time.NewTicker(between)
		defer tick.Stop()
		for {
			select {
			case <-ended:
				return
			case <-tick.C:
				if ok, err := s.AdvanceSegment(ctx, o, p, int(done.Load())); err == nil && !ok {
					stop(errClaimLost)
				}
			}
		}
	}()
	shown := time.Now()
	progress := func(n int, last func() image.Image) {
		done.Store(int64(n))
		if time.Since(shown) > lookEvery {
			shown = time.Now()
			if err := release.WriteThumb(w.queue.store.FramePath(o), last()); err != nil {
				slog.Debug("the picture of a frame", "output", o.ID, "error", err)
			}
		}
	}
	err := recovering(func() error { return w.making(ctx, o, p, progress) })
	if errors.Is(context.Cause(ctx), errClaimLost) {
		return errClaimLost
	}
	return err
}

func (w *segmentWorker) segment(
	ctx context.Context,
	o store.Output,
	p *store.Segment,
	progress release.Progress,
) error {
	s := w.queue.store
	work, err := w.prepare(ctx, o)
	if err != nil {
		return err
	}
	folder := s.WorkFolder(o)
	if err := os.MkdirAll(folder, 0o755); err != nil {
		return fmt.Errorf("preparing the folder of an output: %w", err)
	}
	if !p.Finish {
		if err := w.provide(ctx, work, folder, p.Number, progress); err != nil {
			return err
		}
		ok, err := s.FinishSegment(ctx, p, w.queue.notifyWorkers)
		if err == nil && !ok {
			return errClaimLost
		}
		return err
	}
	if err := work.Finish(ctx, folder, s.OutputPath(o)); err != nil {
		return err
	}
	if err := picture(work, s.PicturePath(o)); err != nil {
		return err
	}
	w.forget(o)
	info, err := os.Stat(s.OutputPath(o))
	if err != nil {
		return fmt.Errorf("the finished output is gone: %w", err)
	}
	// First it is done, then its segments go: who dies in between leaves a folder, not an
	// output that waits for ever.
	if ok, err := s.AdvanceSegment(ctx, o, p, 0); err != nil || !ok {
		return errors.Join(err, errClaimLost)
	}
	if err := s.EndOutput(ctx, o, store.Done, "", info.Size()); err != nil {
		return err
	}
	if _, err := s.FinishSegment(ctx, p, w.queue.notifyWorkers); err != nil {
		return err
	}
	return os.RemoveAll(folder)
}

// provide makes a segment of an output, or takes one that was made before in which the same is seen.
func (w *segmentWorker) provide(
	ctx context.Context,
	work *release.Work,
	folder string,
	n int,
	progress release.Progress,
) error {
	s := w.queue.store
	key, err := work.SegmentKey(n)
	if err != nil {
		return err
	}
	if key == "" {
		return work.Segment(ctx, folder, n, progress)
	}
	path := work.SegmentPath(folder, n)
	taken, err := s.TakeSegment(key, path)
	if err != nil || taken {
		return err
	}
	if err := work.Segment(ctx, folder, n, progress); err != nil {
		return err
	}
	if err := s.KeepSegment(key, path); err != nil { // the film can do without
		slog.Warn("a segment is not kept", "error", err)
	}
	return nil
}

// picture keeps the small picture that stands for an output.
func picture(work *release.Work, path string) error {
	img, err := work.Poster()
	if err != nil || img == nil {
		return err
	}
	return release.WriteThumb(path, img)
}

// prepare works an output out.
func (w *segmentWorker) prepare(ctx context.Context, o store.Output) (*release.Work, error) {
	w.preparing.Lock()
	defer w.preparing.Unlock()
	for i, p := range w.last {
		if p.output == o.ID {
			w.last = slices.Insert(slices.Delete(w.last, i, i+1), 0, p)
			return p.work, nil
		}
	}
	work, err := w.queue.planned(ctx, o, true)
	if err != nil {
		return nil, err
	}
	if err := work.Attach(w.queue.attachments(ctx, o.ProjectID)); err != nil {
		return nil, err
	}
	work.Threads(w.queue.threads)
	w.last = slices.Insert(w.last, 0, prepared{o.ID, work})
	w.last = slices.Delete(w.last, min(w.lanes, len(w.last)), len(w.last)) // what they keep is large
	return work, nil
}

// forget lets go of an output that is done.
func (w *segmentWorker) forget(o store.Output) {
	w.preparing.Lock()
	defer w.preparing.Unlock()
	w.last = slices.DeleteFunc(w.last, func(p prepared) bool { return p.output == o.ID })
}

// planned works a stored output out again; shapes are needed for making it.
func (q *Queue) planned(ctx context.Context, o store.Output, shapes bool) (*release.Work, error) {
	from, err := q.authoring.OutputSource(ctx, o)
	if err != nil {
		return nil, err
	}
	models := map[string]*product.Model{}
	model := func(revision string) (m *product.Model, err error) {
		if models[revision] == nil {
			models[revision], err = q.authoring.ModelOf(ctx, from, revision, shapes)
		}
		return models[revision], err
	}
	m, err := model(from.RevisionID)
	if err != nil {
		return nil, err
	}
	doc, err := reveal.Parse([]byte(o.Document))
	if err != nil {
		return nil, err
	}
	var settings release.Settings
	if err := json.Unmarshal([]byte(o.Settings), &settings); err != nil {
		return nil, fmt.Errorf("reading the output's settings: %w", err)
	}
	w, err := release.Plan(settings, m, doc, func(id string) (*product.Model, *reveal.Reveal, error) {
		for i := range from.Joined {
			if j := &from.Joined[i]; j.ID == id {
				m, err := model(j.RevisionID)
				if err != nil {
					return nil, nil, err
				}
				doc, err := reveal.Parse([]byte(j.Document))
				return m, doc, err
			}
		}
		return nil, nil, store.ErrMissing
	})
	if err != nil {
		return nil, &store.Refused{Cause: err}
	}
	of, err := q.store.RevisionNamed(ctx, from.RevisionID)
	if err != nil {
		return nil, err
	}
	w.Origin = release.Origin{
		File: of.FileName, Revision: of.Number, Version: o.Version, Proof: q.proofWords(context.WithoutCancel(ctx)),
	}
	return w, nil
}

// Captions returns the words of a stored output's steps.
func (q *Queue) Captions(ctx context.Context, o store.Output) ([]caption.Cue, error) {
	w, err := q.planned(ctx, o, false)
	if err != nil {
		return nil, err
	}
	return w.Cues(), nil
}

func (q *Queue) attachments(ctx context.Context, project string) release.Attachments {
	return func(id string, kind release.AttachmentKind) (string, error) {
		a, err := q.store.Attachment(ctx, project, id)
		if err != nil {
			return "", err
		}
		if a.Kind != string(kind) {
			return "", fmt.Errorf("%s was taken as a %s and cannot be used as a %s", a.Name, a.Kind, kind)
		}
		return q.store.AttachmentPath(a.ID), nil
	}
}

// notifyWorkers tells the workers that segments wait.
func (q *Queue) notifyWorkers(ctx context.Context, tx *sqlx.Tx, segments int) error {
	list := make([]river.InsertManyParams, segments)
	for i := range list {
		list[i] = river.InsertManyParams{Args: SegmentArgs{}, InsertOpts: &river.InsertOpts{MaxAttempts: 3}}
	}
	if _, err := q.client.InsertManyTx(ctx, tx.Tx, list); err != nil {
		return fmt.Errorf("queueing the output: %w", err)
	}
	return nil
}

// keptFor is how long finished outputs stay that nobody keeps.
const keptFor = 90 * 24 * time.Hour

// expire removes old outputs.
func (q *Queue) expire(ctx context.Context) error {
	list, err := q.store.Expired(ctx, keptFor)
	for _, o := range list {
		err = errors.Join(err, q.store.DeleteOutput(ctx, o))
	}
	return err
}
