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
	go s.runRenewal(&r)
	c.JSON(http.StatusCreated, r)
}

// runRenewal leads a renewal to its end. One that the server's end cuts off is told of by the next server.
func (s *Server) runRenewal(r *store.Renewal) {
	m := &renewal.Maker{Authoring: s.authoring, Queue: s.queue, Tell: func(says string) {
		if err := s.store.TellRenewal(s.living, r, says); err != nil {
			slog.Warn("how far a renewal is could not be noted", "renewal", r.ID, "error", err)
		}
	}}
	report, page, err := reported(s.living, m, r.ProjectID)
	if s.living.Err() != nil {
		return
	}
	if err != nil {
		err = s.store.FailRenewal(s.living, r, err)
	} else {
		err = s.store.EndRenewal(s.living, r, report, page)
	}
	if err != nil {
		slog.Error("the end of a renewal could not be noted", "renewal", r.ID, "error", err)
	}
}

// reported renews a project and returns the report, as JSON and as a page.
func reported(ctx context.Context, m *renewal.Maker, project string) (text, page string, err error) {
	defer func() {
		if p := recover(); p != nil {
			slog.Error("a renewal failed", "panic", p, "stack", string(debug.Stack()))
			err = errors.New("something went wrong that is our mistake; it is in the server's log")
		}
	}()
	report, err := m.Again(ctx, project)
	if err != nil {
		return "", "", err
	}
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
	state := RenewalState{Renewal: r}
	if r.State == store.Done {
		report, err := s.reportOf(ctx, r.ID)
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
