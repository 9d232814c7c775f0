package server

import (
	"context"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"
)

func (s *Server) healthRoutes() []route {
	return []route{
		get("/health", "health", s.health).gives(Health{}).
			says("Whether the server and its database answer."),
	}
}

// Health says how the server is.
type Health struct {
	Status string `json:"status"`
}

// pulseFor is how long the database has to answer before it counts as away.
const pulseFor = 800 * time.Millisecond

// health asks over a connection of its own: it answers however busy everything else is.
func (s *Server) health(c *gin.Context) {
	ctx, cancel := context.WithTimeout(c.Request.Context(), pulseFor)
	defer cancel()
	if err := s.store.Pulse(ctx); err != nil {
		c.Header("Retry-After", "2")
		refuse(c, http.StatusServiceUnavailable, "away", "the database does not answer")
		return
	}
	c.JSON(http.StatusOK, Health{"ok"})
}
