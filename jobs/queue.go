package jobs

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"time"

	"github.com/jmoiron/sqlx"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/shoot"
	"slowreveal/store"
)

// FilmArgs is the queue's record of one film to make.
type FilmArgs struct {
	Output string `json:"output"`
}

// Kind names the job in the queue.
func (FilmArgs) Kind() string { return "film" }

// Settings are what a person chooses for a film.
type Settings struct {
	Width    int  `json:"width"`
	Height   int  `json:"height"`
	Rate     int  `json:"rate"`
	Captions bool `json:"captions"`
	Draft    bool `json:"draft"`
}

func (s Settings) order() shoot.Order {
	return shoot.Order{Width: s.Width, Height: s.Height, Rate: s.Rate, Captions: s.Captions, Draft: s.Draft}
}

// Queue takes orders and, after Work, works them off.
type Queue struct {
	store  *store.Store
	client *river.Client[*sql.Tx]
}

// Open returns a queue on the store's database. With workers it can work jobs
// off; without, it only takes orders.
func Open(s *store.Store, workers bool) (*Queue, error) {
	q := &Queue{store: s}
	config := &river.Config{Logger: slog.New(slog.NewTextHandler(io.Discard, nil)), TestOnly: false}
	if workers {
		config.Workers = river.NewWorkers()
		river.AddWorker(config.Workers, &filmWorker{store: s})
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

// Work works jobs off until ctx ends, and picks up what other workers lost.
func (q *Queue) Work(ctx context.Context) error {
	if err := q.client.Start(ctx); err != nil {
		return fmt.Errorf("starting to work: %w", err)
	}
	tick := time.NewTicker(5 * time.Second)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			stop, cancel := context.WithTimeout(context.WithoutCancel(ctx), 10*time.Second)
			defer cancel()
			return q.client.StopAndCancel(stop)
		case <-tick.C:
			if err := q.store.RequeueLost(ctx, q.enqueue, q.enqueueImport); err != nil && ctx.Err() == nil {
				slog.Warn("looking for lost work", "error", err)
			}
		}
	}
}

func (q *Queue) enqueue(tx *sqlx.Tx, id string) (int64, error) {
	result, err := q.client.InsertTx(context.Background(), tx.Tx, FilmArgs{Output: id}, &river.InsertOpts{MaxAttempts: 3})
	if err != nil {
		return 0, fmt.Errorf("queueing the output: %w", err)
	}
	return result.Job.ID, nil
}

// Order queues a film of a reveal as it is now. The order is checked before
// anything is stored.
func (q *Queue) Order(ctx context.Context, revealID string, s Settings) (store.Output, error) {
	r, err := q.store.Reveal(ctx, revealID)
	if err != nil {
		return store.Output{}, err
	}
	m, err := q.store.Model(ctx, r.RevisionID, false)
	if err != nil {
		return store.Output{}, err
	}
	doc, err := reveal.Parse([]byte(r.Document))
	if err != nil {
		return store.Output{}, err
	}
	order := s.order()
	frames, err := order.Fill(film.Compile(m.Assembly, doc))
	if err != nil {
		return store.Output{}, &store.Refused{Cause: err}
	}
	s.Width, s.Height, s.Rate = order.Width, order.Height, order.Rate
	settings, err := json.Marshal(s)
	if err != nil {
		return store.Output{}, err
	}
	return q.store.InsertOutput(ctx, store.Output{RevealID: r.ID, ProjectID: r.ProjectID, Version: r.Version, Title: r.Title,
		Document: r.Document, Settings: store.RawText(settings), Frames: frames}, q.enqueue)
}

// Cancel stops an output, whoever is at it.
func (q *Queue) Cancel(ctx context.Context, id string) error {
	o, err := q.store.Output(ctx, id)
	if err != nil {
		return err
	}
	return q.store.EndOutput(ctx, o, "cancelled", "", 0)
}

// Retry queues a failed or cancelled output again.
func (q *Queue) Retry(ctx context.Context, id string) error {
	o, err := q.store.Output(ctx, id)
	if err != nil {
		return err
	}
	return q.store.RetryOutput(ctx, o, q.enqueue)
}
