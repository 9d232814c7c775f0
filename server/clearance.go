package server

import (
	"net/http"
	"sync"

	"github.com/gin-gonic/gin"

	"slowreveal/core/assembly"
	"slowreveal/core/clearance"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/formats"
	"slowreveal/store"
)

// Reach asks how far parts go before they touch what stays.
type Reach struct {
	Time       reveal.Micros     `json:"time"`
	Nodes      []assembly.NodeID `json:"nodes"`
	Directions []space.Triple    `json:"directions"` // in the world
}

// maxDirections bounds one question.
const maxDirections = 24

// spaces keeps the assembly that was asked about last ready for the next
// question.
type spaces struct {
	mu    sync.Mutex
	of    *assembly.Assembly
	space *clearance.Space
}

func (s *spaces) ready(m *formats.Model) *clearance.Space {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.of != m.Assembly {
		s.of, s.space = m.Assembly, clearance.NewSpace(m.Assembly, m.Shapes)
	}
	return s.space
}

// clearance answers for a reveal as it is stored, at a time of it.
func (s *Server) clearance(c *gin.Context) {
	key, ok := id(c, "id")
	var q Reach
	if !ok || !read(c, &q) {
		return
	}
	if len(q.Directions) > maxDirections || len(q.Nodes) > reveal.MaxTargets {
		refuse(c, http.StatusUnprocessableEntity, "too-much", "at most 24 directions at once")
		return
	}
	ways, err := s.ways(c, key, q)
	answer(c, http.StatusOK, ways, err)
}

func (s *Server) ways(c *gin.Context, key string, q Reach) ([]clearance.Way, error) {
	r, err := s.store.Reveal(c.Request.Context(), key)
	if err != nil {
		return nil, err
	}
	m, err := s.store.Model(c.Request.Context(), r.RevisionID, true)
	if err != nil {
		return nil, err
	}
	doc, err := reveal.Parse([]byte(r.Document))
	if err != nil {
		return nil, err
	}
	if err := reveal.Validate(doc, m.Assembly); err != nil {
		return nil, &store.Refused{Cause: err}
	}
	f := film.Compile(m.Assembly, doc)
	fr := f.NewFrame()
	f.At(q.Time, fr)
	size := m.Assembly.Bounds().Size()
	limit := 4 * max(size.X, size.Y, size.Z)
	directions := make([]space.Vec, len(q.Directions))
	for i, d := range q.Directions {
		directions[i] = d.Vec()
	}
	return s.spaces.ready(m).Ways(clearance.Pose{World: fr.World, Opacity: fr.Opacity}, q.Nodes, directions, limit), nil
}
