package server

import (
	"encoding/json"
	"fmt"
	"net/http"
	"sync"
	"time"

	"github.com/gin-gonic/gin"

	"slowreveal/store"
)

// events hands what happens to all listening pages.
type events struct {
	mu        sync.Mutex
	listeners map[chan store.Event]string // to the project that they watch
}

func newEvents() *events { return &events{listeners: map[chan store.Event]string{}} }

// publish never waits: a page that does not keep up misses an event and learns
// the state by its next request.
func (e *events) publish(event store.Event) {
	e.mu.Lock()
	defer e.mu.Unlock()
	for l, project := range e.listeners {
		if project == event.Project {
			select {
			case l <- event:
			default:
			}
		}
	}
}

func (e *events) listen(project string) (events chan store.Event, leave func()) {
	l := make(chan store.Event, 64)
	e.mu.Lock()
	e.listeners[l] = project
	e.mu.Unlock()
	return l, func() {
		e.mu.Lock()
		delete(e.listeners, l)
		e.mu.Unlock()
	}
}

// stream sends a project's events until the page goes away.
func (s *Server) stream(c *gin.Context) {
	project, ok := id(c, "id")
	if !ok {
		return
	}
	l, leave := s.events.listen(project)
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
		case e := <-l:
			text, err := json.Marshal(e)
			if err != nil {
				return
			}
			fmt.Fprintf(c.Writer, "data: %s\n\n", text)
		}
		c.Writer.Flush()
	}
}
