package server

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"runtime/debug"
	"strings"
	"sync"

	"github.com/gin-gonic/gin"

	"slowreveal/renewal"
	"slowreveal/store"
)

func (s *Server) renewalRoutes() []route {
	return []route{
		post("/projects/{id}/renewals", "renew", s.renew).makes(store.Renewal{}).
			says("Makes everything again that is out of date, and proves the reveals; one renewal of a project at a time."),
		get("/projects/{id}/renewals/newest", "renewal", s.newestRenewal).gives(RenewalState{}).
			says("The newest renewal of the project: how far it is, or what came of it; its state is none where there was no renewal."),
		post("/renewals/{id}/stop", "stopRenewal", s.stopRenewal).gives(RenewalState{}).
			says("Stops a renewal: what it has ordered and is not made yet is cancelled."),
		get("/renewals/{id}/report", "renewalReport", s.renewalReport).sends("text/html").
			says("The report of a renewal as a page to hand on, with pictures of what is otherwise (HTML)."),
		get("/renewals/{id}/report.json", "renewalJSON", s.renewalReport).sends(jsonType).
			says("The report of a renewal (JSON)."),
	}
}

// RenewalState is a renewal and, when it is done, what came of it.
type RenewalState struct {
	store.Renewal
	// Made are outputs that were made again, Failed those that could not be, Changed those whose pictures are otherwise.
	Made    int `json:"made"`
	Failed  int `json:"failed"`
	Changed int `json:"changed"`
	// Faults are those of the proofs that nobody has accepted.
	Faults int `json:"faults"`
}

// renew begins a renewal, which goes on when the request has been answered.
func (s *Server) renew(c *gin.Context) {
	project, ok := id(c, "id")
	if !ok {
		return
	}
	r, err := s.store.BeginRenewal(c.Request.Context(), project)
	if err != nil {
		fail(c, err)
		return
	}
	l := s.leading.begin(s.living, r.ID)
	go func() {
		defer s.leading.end(r.ID)
		s.runRenewal(l.ctx, &r)
	}()
	c.JSON(http.StatusCreated, r)
}

// leading are the renewals that this server leads, by their ids.
type leading struct {
	mu sync.Mutex
	of map[string]*led
}

type led struct {
	ctx   context.Context
	stop  context.CancelCauseFunc
	ended chan struct{}
}

func (l *leading) begin(ctx context.Context, id string) *led {
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.of == nil {
		l.of = map[string]*led{}
	}
	ctx, stop := context.WithCancelCause(ctx)
	l.of[id] = &led{ctx, stop, make(chan struct{})}
	return l.of[id]
}

func (l *leading) end(id string) {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.of[id].stop(nil)
	close(l.of[id].ended)
	delete(l.of, id)
}

func (l *leading) named(id string) *led {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.of[id]
}

// stopRenewal ends a renewal and waits until that is noted.
func (s *Server) stopRenewal(c *gin.Context) {
	key, ok := id(c, "id")
	if !ok {
		return
	}
	ctx := c.Request.Context()
	if l := s.leading.named(key); l != nil {
		l.stop(renewal.ErrStopped)
		select {
		case <-l.ended:
		case <-ctx.Done():
			return
		}
	}
	r, err := s.store.RenewalNamed(ctx, key)
	if err == nil && r.State == store.Running {
		err = &store.Refused{Cause: errors.New("another server leads this renewal: stop it there")}
	}
	if err != nil {
		fail(c, err)
		return
	}
	s.answerRenewal(c, r)
}

// runRenewal leads a renewal to its end. One that the server's end cuts off is told of by the next server.
func (s *Server) runRenewal(ctx context.Context, r *store.Renewal) {
	m := &renewal.Maker{Authoring: s.authoring, Queue: s.queue, Tell: func(says string) {
		if err := s.store.TellRenewal(s.living, r, says); err != nil {
			slog.Warn("how far a renewal is could not be noted", "renewal", r.ID, "error", err)
		}
	}}
	report, err := again(ctx, m, r.ProjectID)
	if s.living.Err() != nil {
		return
	}
	switch {
	case errors.Is(err, renewal.ErrStopped), errors.Is(context.Cause(ctx), renewal.ErrStopped):
		err = s.store.StopRenewal(s.living, r, stoppedWords(report))
	case err != nil:
		err = s.store.FailRenewal(s.living, r, err)
	default:
		var text, page string
		if text, page, err = written(report); err == nil {
			err = s.store.EndRenewal(s.living, r, text, page)
		}
	}
	if err != nil {
		slog.Error("the end of a renewal could not be noted", "renewal", r.ID, "error", err)
	}
}

// stoppedWords says what had been made when a renewal was stopped.
func stoppedWords(r *renewal.Report) string {
	switch made := len(r.Outputs) - r.Failed(); made {
	case 0:
		return "Stopped before anything was made again."
	case 1:
		return "Stopped when one output had been made again."
	default:
		return fmt.Sprintf("Stopped when %d outputs had been made again.", made)
	}
}

// again renews a project.
func again(ctx context.Context, m *renewal.Maker, project string) (report *renewal.Report, err error) {
	report = &renewal.Report{}
	defer func() {
		if p := recover(); p != nil {
			slog.Error("a renewal failed", "panic", p, "stack", string(debug.Stack()))
			err = errors.New("something went wrong that is our mistake; it is in the server's log")
		}
	}()
	*report, err = m.Again(ctx, project)
	return report, err
}

// written is the report as JSON and as a page.
func written(report *renewal.Report) (text, page string, err error) {
	data, err := json.Marshal(report)
	if err != nil {
		return "", "", err
	}
	var b strings.Builder
	err = report.Page(&b)
	return string(data), b.String(), err
}

func (s *Server) newestRenewal(c *gin.Context) {
	project, ok := id(c, "id")
	if !ok {
		return
	}
	ctx := c.Request.Context()
	r, err := s.store.Renewal(ctx, project)
	if errors.Is(err, store.ErrMissing) {
		r, err = store.Renewal{ProjectID: project, State: store.None}, nil
	}
	if err != nil {
		fail(c, err)
		return
	}
	s.answerRenewal(c, r)
}

// answerRenewal answers with a renewal and what came of it.
func (s *Server) answerRenewal(c *gin.Context, r store.Renewal) {
	state := RenewalState{Renewal: r}
	if r.State == store.Done {
		report, err := s.reportOf(c.Request.Context(), r.ID)
		if err != nil {
			fail(c, err)
			return
		}
		state.Failed, state.Faults = report.Failed(), report.Faults()
		state.Made = len(report.Outputs) - state.Failed
		for i := range report.Outputs {
			if report.Outputs[i].Changed() {
				state.Changed++
			}
		}
	}
	c.JSON(http.StatusOK, state)
}

func (s *Server) reportOf(ctx context.Context, key string) (*renewal.Report, error) {
	text, _, err := s.store.RenewalReport(ctx, key)
	if err != nil {
		return nil, err
	}
	report := new(renewal.Report)
	if err := json.Unmarshal([]byte(text), report); err != nil {
		return nil, fmt.Errorf("reading the report of a renewal: %w", err)
	}
	return report, nil
}

func (s *Server) renewalReport(c *gin.Context) {
	key, ok := id(c, "id")
	if !ok {
		return
	}
	text, page, err := s.store.RenewalReport(c.Request.Context(), key)
	switch {
	case err != nil:
		fail(c, err)
	case strings.HasSuffix(c.FullPath(), ".json"):
		c.Data(http.StatusOK, jsonType, []byte(text))
	default:
		c.Data(http.StatusOK, "text/html; charset=utf-8", []byte(page))
	}
}
