package server

import (
	"context"
	"errors"
	"log/slog"
	"net"
	"net/http"
	"sync/atomic"
	"time"

	"github.com/gin-gonic/gin"
	"golang.org/x/net/netutil"

	"slowreveal/authoring"
	"slowreveal/jobs"
	"slowreveal/store"
)

// Server answers requests.
type Server struct {
	authoring *authoring.Service
	store     *store.Store
	queue     *jobs.Queue
	page      *page
	events    *events
	engine    *gin.Engine
	spaces    spaces
	scenes    scenes
	earlier   scenes // of the revision before
	dressed   dressed
	memories  memories
	proofs    proofs
	plans     plans
	leading   leading
	// drawing holds whoever draws a picture.
	drawing chan struct{}
	// living ends with the server: what runs in the background does too.
	living context.Context
	die    context.CancelFunc
	// stopping is set when what comes is no longer taken.
	stopping atomic.Bool
}

// New returns a server on a service and its queue.
func New(a *authoring.Service, q *jobs.Queue) (*Server, error) {
	gin.SetMode(gin.ReleaseMode)
	page, err := loadPage()
	if err != nil {
		return nil, err
	}
	living, die := context.WithCancel(context.Background())
	srv := &Server{
		living:    living,
		die:       die,
		authoring: a,
		store:     a.Store,
		queue:     q,
		page:      page,
		events:    newEvents(),
		engine:    gin.New(),
		drawing:   make(chan struct{}, 1),
		proofs:    newProofs(),
		plans:     newPlans(),
	}
	srv.engine.HandleMethodNotAllowed = true
	srv.engine.ContextWithFallback = true // a handler's context ends with its request
	srv.engine.Use(logged, recovered, guard, patient)
	api := srv.engine.Group("/api", srv.open, keyed)
	for _, r := range srv.routes() {
		api.Handle(r.method, ginPath(r.path), r.handle)
	}
	api.GET("/openapi.json", func(c *gin.Context) { c.JSON(http.StatusOK, Describe()) })
	srv.engine.NoRoute(srv.servePage)
	return srv, nil
}

// Handler returns the server as an HTTP handler.
func (s *Server) Handler() http.Handler { return s.engine }

const (
	// maxConnections bounds how many connections are open at once, maxStreams how many of them
	// listen to events.
	maxConnections, maxStreams = 600, 300
	// drainFor is how long what was taken may take to end when the server stops.
	drainFor = 20 * time.Second
)

// Serve answers requests on the listener until ctx ends. What has been taken by then is finished;
// what comes later is sent away with 503, or finds nobody.
func (s *Server) Serve(ctx context.Context, l net.Listener) error {
	living, die := context.WithCancel(context.WithoutCancel(ctx))
	defer die()
	defer s.die()
	go s.store.Listen(living, s.events.publish)
	if err := s.store.AbandonRenewals(living); err != nil {
		slog.Warn("renewals of before could not be told of", "error", err)
	}
	h := &http.Server{
		Handler:           s.engine,
		ReadHeaderTimeout: 10 * time.Second,
		IdleTimeout:       2 * time.Minute,
		MaxHeaderBytes:    64 << 10,
		BaseContext:       func(net.Listener) context.Context { return living },
		ErrorLog:          slog.NewLogLogger(slog.Default().Handler(), slog.LevelDebug),
	}
	drained := make(chan struct{})
	stop := context.AfterFunc(ctx, func() {
		defer close(drained)
		s.stopping.Store(true)
		s.events.close()
		limit, cancel := context.WithTimeout(living, drainFor)
		defer cancel()
		if err := h.Shutdown(limit); err != nil {
			slog.Warn("some requests did not end in time", "error", err)
			h.Close()
		}
	})
	err := h.Serve(netutil.LimitListener(l, maxConnections))
	if !stop() {
		<-drained
	}
	if errors.Is(err, http.ErrServerClosed) {
		return nil
	}
	return err
}

// contentPolicy allows what the page is made of and nothing else. WebAssembly
// needs its own word; colours and places set by script need inline style.
const contentPolicy = "default-src 'none'; script-src 'self' 'wasm-unsafe-eval'; style-src 'self' 'unsafe-inline'; " +
	"img-src 'self' data: blob:; font-src 'self'; connect-src 'self'; media-src 'self'; worker-src 'self' blob:; " +
	"base-uri 'none'; form-action 'none'; frame-ancestors 'none'"

// Problem is what every error of the API looks like.
type Problem struct {
	Code    string `json:"code"`
	Message string `json:"message"`
	// The others come with code "stale": the current version, the log since the one that was
	// known or the whole reveal instead, which edits of the request are in it already, and, when
	// it was one edit that touched what has changed since, which.
	Version int64               `json:"version,omitempty"`
	Since   []store.Entry       `json:"since,omitempty"`
	Whole   *store.StoredReveal `json:"whole,omitempty"`
	Done    []string            `json:"done,omitempty"`
	Key     string              `json:"key,omitempty"`
	// Marks are those of who asks, with a whole reveal. With code "depends", Version is that of the
	// entry that cannot be reversed.
	Marks *store.Marks `json:"marks,omitempty"`
}

func refuse(c *gin.Context, status int, code, message string) {
	c.AbortWithStatusJSON(status, Problem{Code: code, Message: message})
}

// answer answers with v, or with what an error means.
func answer(c *gin.Context, status int, v any, err error) {
	if err != nil {
		fail(c, err)
		return
	}
	c.JSON(status, v)
}

// fail answers with what an error of the store or queue means. What is wrong inside is told to the
// log; the page gets words, and the number under which the log has it.
func fail(c *gin.Context, err error) {
	var stale *authoring.Stale
	var refused *store.Refused
	var nothing *authoring.NothingLeft
	var depends *authoring.Depends
	var damaged *store.Damaged
	switch {
	case errors.As(err, &stale):
		c.AbortWithStatusJSON(http.StatusConflict, staleProblem(stale))
	case errors.As(err, &refused):
		refuse(c, http.StatusUnprocessableEntity, "refused", err.Error())
	case errors.As(err, &nothing):
		refuse(c, http.StatusUnprocessableEntity, "nothing-left", err.Error())
	case errors.As(err, &depends):
		c.AbortWithStatusJSON(
			http.StatusConflict,
			Problem{Code: "depends", Message: depends.Error(), Version: depends.Version},
		)
	case errors.Is(err, authoring.ErrTooLongAgo):
		refuse(c, http.StatusConflict, "too-long-ago", err.Error())
	case errors.Is(err, store.ErrMissing):
		refuse(c, http.StatusNotFound, "missing", err.Error())
	case errors.As(err, &damaged):
		slog.Error("a stored shape is not what was stored", "request", c.GetString(requestID), "error", err)
		c.Header("Cache-Control", "no-store")
		refuse(c, http.StatusInternalServerError, "damaged", damaged.Error())
	case store.IsUnstorable(err):
		refuse(
			c,
			http.StatusBadRequest,
			"unstorable",
			"a text holds a sign that cannot be stored (such as U+0000); take it out and send it again",
		)
	case errors.Is(err, store.ErrBusy):
		c.Header("Retry-After", "1")
		refuse(c, http.StatusServiceUnavailable, "busy", err.Error())
	case c.Request.Context().Err() != nil: // nobody is there to read it
		refuse(c, statusGone, "gone", "the request was given up before it was answered")
	case store.IsAway(err):
		slog.Warn("the database is away", "request", c.GetString(requestID), "error", err)
		c.Header("Retry-After", "2")
		refuse(
			c,
			http.StatusServiceUnavailable,
			"away",
			"the database does not answer just now; nothing was changed, try again in a moment",
		)
	default:
		slog.Error("a request failed", "request", c.GetString(requestID), "path", c.Request.URL.Path, "error", err)
		refuse(
			c,
			http.StatusInternalServerError,
			"failed",
			"this could not be done, and nothing was changed; the server's log says why under "+c.GetString(requestID),
		)
	}
}

// statusGone is what the log has for a request whose sender has left (nginx's number for it; no
// standard has one).
const statusGone = 499

func staleProblem(s *authoring.Stale) Problem {
	p := Problem{
		Code:    "stale",
		Message: s.Error(),
		Version: s.Current,
		Since:   s.Since,
		Whole:   s.Whole,
		Done:    s.Done,
		Key:     s.Key,
	}
	if s.Whole != nil {
		p.Marks = &s.Marks
	}
	return p
}
