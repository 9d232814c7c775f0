package server

import (
	"context"
	"errors"
	"log/slog"
	"net"
	"net/http"
	"net/url"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"slowreveal/jobs"
	"slowreveal/store"
)

// Server answers requests.
type Server struct {
	store  *store.Store
	queue  *jobs.Queue
	page   *page
	events *events
	engine *gin.Engine
	spaces spaces
	scenes scenes
	// drawing holds whoever draws a picture.
	drawing chan struct{}
}

// New returns a server on the store and queue.
func New(s *store.Store, q *jobs.Queue) (*Server, error) {
	gin.SetMode(gin.ReleaseMode)
	page, err := loadPage()
	if err != nil {
		return nil, err
	}
	srv := &Server{store: s, queue: q, page: page, events: newEvents(), engine: gin.New(), drawing: make(chan struct{}, 1)}
	srv.engine.HandleMethodNotAllowed = true
	srv.engine.Use(recovered, guard)
	api := srv.engine.Group("/api")
	for _, r := range srv.routes() {
		api.Handle(r.method, ginPath(r.path), r.handle)
	}
	api.GET("/openapi.json", func(c *gin.Context) { c.JSON(http.StatusOK, Describe()) })
	srv.engine.NoRoute(srv.servePage)
	return srv, nil
}

// Handler returns the server as an HTTP handler.
func (s *Server) Handler() http.Handler { return s.engine }

// Serve answers requests on the listener until ctx ends.
func (s *Server) Serve(ctx context.Context, l net.Listener) error {
	go s.store.Listen(ctx, s.events.publish)
	h := &http.Server{Handler: s.engine, ReadHeaderTimeout: 10 * time.Second, IdleTimeout: 2 * time.Minute,
		BaseContext: func(net.Listener) context.Context { return ctx }}
	go func() {
		<-ctx.Done()
		stop, cancel := context.WithTimeout(context.WithoutCancel(ctx), 5*time.Second)
		defer cancel()
		h.Shutdown(stop)
	}()
	if err := h.Serve(l); !errors.Is(err, http.ErrServerClosed) {
		return err
	}
	return nil
}

// contentPolicy allows what the page is made of and nothing else. WebAssembly
// needs its own word; colours and places set by script need inline style.
const contentPolicy = "default-src 'none'; script-src 'self' 'wasm-unsafe-eval'; style-src 'self' 'unsafe-inline'; " +
	"img-src 'self' data: blob:; font-src 'self'; connect-src 'self'; media-src 'self'; worker-src 'self' blob:; " +
	"base-uri 'none'; form-action 'none'; frame-ancestors 'none'"

// guard lets in only requests that were meant for this server: it has no
// accounts yet, so it must not be reachable through a foreign page or name.
func guard(c *gin.Context) {
	h := c.Writer.Header()
	h.Set("Content-Security-Policy", contentPolicy)
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "no-referrer")
	h.Set("Cross-Origin-Opener-Policy", "same-origin")
	h.Set("Cross-Origin-Resource-Policy", "same-origin")
	if !local(c.Request.Host) {
		refuse(c, http.StatusForbidden, "foreign-host", "this server answers only to localhost, not to "+c.Request.Host)
		return
	}
	if origin := c.GetHeader("Origin"); origin != "" {
		u, err := url.Parse(origin)
		if err != nil || u.Host != c.Request.Host {
			refuse(c, http.StatusForbidden, "foreign-origin", "requests from pages of "+origin+" are refused")
		}
	}
}

func local(host string) bool {
	name := host
	if h, _, err := net.SplitHostPort(host); err == nil {
		name = h
	}
	name = strings.Trim(name, "[]")
	if name == "localhost" {
		return true
	}
	ip := net.ParseIP(name)
	return ip != nil && ip.IsLoopback()
}

func recovered(c *gin.Context) {
	defer func() {
		if p := recover(); p != nil {
			if p == http.ErrAbortHandler {
				panic(p)
			}
			slog.Error("a request failed by a mistake of ours", "path", c.Request.URL.Path, "mistake", p)
			refuse(c, http.StatusInternalServerError, "mistake", "this is a mistake in Slow Reveal; nothing was changed")
		}
	}()
	c.Next()
}

// Problem is what every error of the API looks like.
type Problem struct {
	Code    string `json:"code"`
	Message string `json:"message"`
	// Version and Since come with code "stale".
	Version int64         `json:"version,omitempty"`
	Since   []store.Entry `json:"since,omitempty"`
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

// fail answers with what an error of the store or queue means.
func fail(c *gin.Context, err error) {
	var stale *store.Stale
	var refused *store.Refused
	var nothing *store.NothingLeft
	switch {
	case errors.As(err, &stale):
		c.AbortWithStatusJSON(http.StatusConflict, Problem{Code: "stale", Message: err.Error(), Version: stale.Current, Since: stale.Since})
	case errors.As(err, &refused):
		refuse(c, http.StatusUnprocessableEntity, "refused", err.Error())
	case errors.As(err, &nothing):
		refuse(c, http.StatusUnprocessableEntity, "nothing-left", err.Error())
	case errors.Is(err, store.ErrMissing):
		refuse(c, http.StatusNotFound, "missing", err.Error())
	case c.Request.Context().Err() != nil:
		c.Abort()
	default:
		slog.Error("a request failed", "path", c.Request.URL.Path, "error", err)
		refuse(c, http.StatusServiceUnavailable, "unavailable", "the change was not stored: "+err.Error())
	}
}
