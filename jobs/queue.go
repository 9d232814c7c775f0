package jobs

import (
	"context"
	"database/sql"
	"fmt"
	"log/slog"
	"sync"
	"time"

	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"

	"slowreveal/authoring"
	"slowreveal/sequence"
	"slowreveal/store"
)

// Queue takes orders and, after Work, works them off.
type Queue struct {
	authoring *authoring.Service
	store     *store.Store
	client    *river.Client[*sql.Tx]
	threads   int // for each segment
}

// Open returns a queue on the database of a service that only takes orders.
func Open(a *authoring.Service) (*Queue, error) {
	q := &Queue{authoring: a, store: a.Store}
	return q, q.connect(&river.Config{})
}

// importsAtOnce is how many imports a process reads at once: a large one does not keep small ones
// waiting.
const importsAtOnce = 3

// OpenWorkers returns a queue that can also work jobs off, with so many threads for rendering;
// 0 is one for each processor. It makes as many segments at once as there are threads for
// them: while one waits for its encoder, another has the processors.
func OpenWorkers(a *authoring.Service, threads int) (*Queue, error) {
	lanes, each := sequence.Lanes(threads, sequence.MaxLanes)
	q := &Queue{authoring: a, store: a.Store, threads: each}
	config := &river.Config{
		Workers:           river.NewWorkers(),
		JobTimeout:        -1,
		FetchPollInterval: 250 * time.Millisecond,
		FetchCooldown:     100 * time.Millisecond,
	}
	river.AddWorker(config.Workers, newSegmentWorker(q, lanes))
	river.AddWorker(config.Workers, newImportWorker(a))
	config.Queues = map[string]river.QueueConfig{
		river.QueueDefault: {MaxWorkers: lanes},
		importQueue:        {MaxWorkers: importsAtOnce},
	}
	return q, q.connect(config)
}

// connect opens the queue's library on the store's database.
func (q *Queue) connect(config *river.Config) (err error) {
	config.Logger = slog.New(quiet{slog.Default().Handler()})
	if q.client, err = river.NewClient(riverdatabasesql.New(q.store.SQL().DB), config); err != nil {
		return fmt.Errorf("opening the queue: %w", err)
	}
	return nil
}

// quiet passes on what the queue's library says of things that went wrong, and nothing of the rest.
type quiet struct{ slog.Handler }

// Enabled reports whether something is worth saying.
func (q quiet) Enabled(ctx context.Context, l slog.Level) bool {
	return l >= slog.LevelWarn && q.Handler.Enabled(ctx, l)
}

// WithAttrs keeps it quiet.
func (q quiet) WithAttrs(attrs []slog.Attr) slog.Handler { return quiet{q.Handler.WithAttrs(attrs)} }

// WithGroup keeps it quiet.
func (q quiet) WithGroup(name string) slog.Handler { return quiet{q.Handler.WithGroup(name)} }

// Work works jobs off until ctx ends, and picks up what other workers lost.
func (q *Queue) Work(ctx context.Context) error {
	if err := q.client.Start(ctx); err != nil {
		return fmt.Errorf("starting to work: %w", err)
	}
	var tidying sync.WaitGroup
	tidying.Go(func() { q.tidyHourly(ctx) }) // beside: much to remove keeps no lost work waiting
	defer tidying.Wait()
	tick := time.NewTicker(5 * time.Second)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			stop, cancel := context.WithTimeout(context.WithoutCancel(ctx), 10*time.Second)
			defer cancel()
			return q.client.StopAndCancel(stop)
		case <-tick.C:
			if err := q.store.RequeueLost(ctx, q.notifyWorkers, q.enqueueImport); err != nil && ctx.Err() == nil {
				slog.Warn("looking for lost work", "error", err)
			}
		}
	}
}

func (q *Queue) tidyHourly(ctx context.Context) {
	hour := time.NewTicker(time.Hour)
	defer hour.Stop()
	for {
		q.tidy(ctx)
		select {
		case <-ctx.Done():
			return
		case <-hour.C:
		}
	}
}

func (q *Queue) tidy(ctx context.Context) {
	if err := q.expire(ctx); err != nil && ctx.Err() == nil {
		slog.Warn("removing old outputs", "error", err)
	}
	if _, err := q.store.Sweep(ctx, time.Now()); err != nil && ctx.Err() == nil {
		slog.Warn("removing what nothing refers to", "error", err)
	}
	if err := q.store.ForgetReceipts(ctx); err != nil && ctx.Err() == nil {
		slog.Warn("forgetting old receipts", "error", err)
	}
}
