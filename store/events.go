package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"log/slog"
	"time"

	"github.com/jackc/pgx/v5"
)

// Event tells other pages and processes what has changed.
type Event struct {
	// Kind is "reveal", "reveals", "arrangement", "output", "import", "renewal" or "presence"; MissedEvents says
	// that events may have been lost, of every project: who listens looks at everything again.
	Kind    string `json:"kind"`
	Project string `json:"project"`
	ID      string `json:"id"`
	Version int64  `json:"version,omitempty"`
	// Author is who did it; Presence where they are.
	Author   string    `json:"author,omitempty"`
	Presence *Presence `json:"presence,omitempty"`
}

// Presence is where somebody is in a reveal. It is passed on, not kept.
type Presence struct {
	// Page tells the pages of one person apart.
	Page string `json:"page"`
	Name string `json:"name"`
	// Time is that of their playhead, µs; Selected what they have selected, in words.
	Time     int64  `json:"time"`
	Selected string `json:"selected,omitempty"`
	Gone     bool   `json:"gone,omitempty"`
}

// Announce tells the other pages of a reveal where somebody is.
func (s *Store) Announce(ctx context.Context, reveal string, p Presence) error {
	var project string
	if err := s.db.GetContext(ctx, &project, `select project_id from reveals where id = $1`, reveal); err != nil {
		return missing(err)
	}
	return s.notify(ctx, Event{Kind: "presence", Project: project, ID: reveal, Presence: &p})
}

const channel = "slowreveal"

// execer is what the pool and a transaction offer for changing something.
type execer interface {
	ExecContext(ctx context.Context, query string, args ...any) (sql.Result, error)
}

// Notify tells others of an event when the transaction commits.
func (tx *Tx) Notify(ctx context.Context, e Event) error { return notify(ctx, tx.sql, e) }

// notify tells others of an event at once.
func (s *Store) notify(ctx context.Context, e Event) error { return notify(ctx, s.db, e) }

func notify(ctx context.Context, q execer, e Event) error {
	text, err := json.Marshal(e)
	if err != nil {
		return err
	}
	_, err = q.ExecContext(ctx, `select pg_notify($1, $2)`, channel, string(text))
	return err
}

// MissedEvents is the kind of the event that says that others may have been missed.
const MissedEvents = "missed"

// Listen calls heard for every event of every process until ctx ends. It
// connects again when the database was away; the first event after that says that others may
// have been missed.
func (s *Store) Listen(ctx context.Context, heard func(Event)) {
	for first := true; ctx.Err() == nil; first = false {
		if err := s.listenOnce(ctx, first, heard); err != nil && ctx.Err() == nil {
			slog.Warn("the database's events are not heard", "error", err)
			select {
			case <-ctx.Done():
			case <-time.After(time.Second):
			}
		}
	}
}

func (s *Store) listenOnce(ctx context.Context, first bool, heard func(Event)) error {
	conn, err := pgx.Connect(ctx, s.url)
	if err != nil {
		return fmt.Errorf("listening: %w", err)
	}
	defer conn.Close(context.WithoutCancel(ctx))
	if _, err := conn.Exec(ctx, "listen "+channel); err != nil {
		return err
	}
	if !first {
		heard(Event{Kind: MissedEvents})
	}
	for {
		n, err := conn.WaitForNotification(ctx)
		if err != nil {
			return err
		}
		var e Event
		if json.Unmarshal([]byte(n.Payload), &e) == nil {
			heard(e)
		}
	}
}
