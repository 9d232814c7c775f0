package server

import (
	"encoding/json"
	"fmt"
	"net/http"
	"sync"
	"sync/atomic"
	"time"

	"github.com/gin-gonic/gin"

	"slowreveal/store"
)

func (s *Server) eventRoutes() []route {
	return []route{
		get("/projects/{id}/events", "events", s.stream).streams(store.Event{}).
			says("Changes as they happen (server-sent events)."),
	}
}

// events hands what happens to all listening pages.
type events struct {
	mu        sync.Mutex
	listeners map[*listener]bool
	closed    bool
}

// listener is a page that watches a project.
type listener struct {
	project string
	events  chan store.Event
	// missed says that something did not fit into events: the page is told to look at everything
	// again.
	missed atomic.Bool
}

func newEvents() *events { return &events{listeners: map[*listener]bool{}} }

// publish never waits: a page that does not keep up is told so as soon as it does.
func (e *events) publish(event store.Event) {
	e.mu.Lock()
	defer e.mu.Unlock()
	for l := range e.listeners {
		if l.project != event.Project && event.Kind != store.MissedEvents {
			continue
		}
		select {
		case l.events <- event:
		default:
			l.missed.Store(true)
		}
	}
}

// listen returns a listener, nil when there are too many; leave ends it.
func (e *events) listen(project string) (l *listener, leave func()) {
	l = &listener{project: project, events: make(chan store.Event, 64)}
	e.mu.Lock()
	defer e.mu.Unlock()
	if e.closed || len(e.listeners) >= maxStreams {
		return nil, nil
	}
	e.listeners[l] = true
	return l, func() {
		e.mu.Lock()
		defer e.mu.Unlock()
		delete(e.listeners, l)
	}
}

// close ends all streams: the server stops.
func (e *events) close() {
	e.mu.Lock()
	defer e.mu.Unlock()
	e.closed = true
	for l := range e.listeners {
		close(l.events)
	}
	e.listeners = nil
}

// stream sends a project's events until the page goes away.
func (s *Server) stream(c *gin.Context) {
	project, ok := id(c, "id")
	if !ok {
		return
	}
	if _, err := s.store.Project(c.Request.Context(), project); err != nil {
		fail(c, err)
		return
	}
	l, leave := s.events.listen(project)
	if l == nil {
		c.Header("Retry-After", "5")
		refuse(c, http.StatusServiceUnavailable, "busy", "too many pages are open on this server")
		return
	}
	defer leave()
	c.Header("Content-Type", "text/event-stream")
	c.Header("Cache-Control", "no-store")
	c.Writer.WriteHeader(http.StatusOK)
	fmt.Fprint(c.Writer, ": listening\n\n")
	c.Writer.Flush()
	alive := time.NewTicker(20 * time.Second)
	defer alive.Stop()
	for {
		select {
		case <-c.Request.Context().Done():
			return
		case <-alive.C:
			fmt.Fprint(c.Writer, ": alive\n\n")
		case e, ok := <-l.events:
			if !ok {
				return
			}
			if len(l.events) == 0 && l.missed.Swap(false) {
				e = store.Event{Kind: store.MissedEvents, Project: project}
			}
			text, err := json.Marshal(e)
			if err != nil {
				return
			}
			fmt.Fprintf(c.Writer, "data: %s\n\n", text)
		}
		c.Writer.Flush()
	}
}
