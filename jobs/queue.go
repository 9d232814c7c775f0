package jobs

import (
	"context"
	"database/sql"
	"fmt"
	"io"
	"log/slog"
	"time"

	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"

	"slowreveal/store"
)

// Queue takes orders and, after Work, works them off.
type Queue struct {
	store   *store.Store
	client  *river.Client[*sql.Tx]
	threads int // for each piece; 0 is one for each processor
}

// Open returns a queue on the store's database. With workers it can work jobs
// off; without, it only takes orders.
func Open(s *store.Store, workers bool) (*Queue, error) {
	q := &Queue{store: s}
	config := &river.Config{Logger: slog.New(slog.NewTextHandler(io.Discard, nil)), TestOnly: false}
	if workers {
		config.Workers = river.NewWorkers()
		river.AddWorker(config.Workers, &pieceWorker{queue: q})
		river.AddWorker(config.Workers, &importWorker{store: s})
		config.Queues = map[string]river.QueueConfig{river.QueueDefault: {MaxWorkers: 1}, importQueue: {MaxWorkers: 1}}
		config.JobTimeout = -1
		config.FetchPollInterval = 250 * time.Millisecond
		config.FetchCooldown = 100 * time.Millisecond
	}
	var err error
	if q.client, err = river.NewClient(riverdatabasesql.New(s.DB.DB), config); err != nil {
		return nil, fmt.Errorf("opening the queue: %w", err)
	}
	return q, nil
}

// Threads bounds the threads with which a piece of an output is made.
func (q *Queue) Threads(n int) { q.threads = n }

// Work works jobs off until ctx ends, and picks up what other workers lost.
func (q *Queue) Work(ctx context.Context) error {
	if err := q.client.Start(ctx); err != nil {
		return fmt.Errorf("starting to work: %w", err)
	}
	tick, hour := time.NewTicker(5*time.Second), time.NewTicker(time.Hour)
	defer tick.Stop()
	defer hour.Stop()
	q.tidy(ctx)
	for {
		select {
		case <-ctx.Done():
			stop, cancel := context.WithTimeout(context.WithoutCancel(ctx), 10*time.Second)
			defer cancel()
			return q.client.StopAndCancel(stop)
		case <-tick.C:
			if err := q.store.RequeueLost(ctx, q.wake, q.enqueueImport); err != nil && ctx.Err() == nil {
				slog.Warn("looking for lost work", "error", err)
			}
		case <-hour.C:
			q.tidy(ctx)
		}
	}
}

func (q *Queue) tidy(ctx context.Context) {
	if err := q.expire(ctx); err != nil && ctx.Err() == nil {
		slog.Warn("removing old outputs", "error", err)
	}
}
