package server

import (
	"context"
	"encoding/json"
	"net/http"
	"sync"

	"github.com/gin-gonic/gin"

	"slowreveal/core/assembly"
	"slowreveal/core/clearance"
	"slowreveal/core/film"
	"slowreveal/core/product"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

func (s *Server) clearanceRoutes() []route {
	return []route{
		post(
			"/reveals/{id}/clearance",
			"clearance",
			s.clearance,
		).takes(Reach{}).
			gives([]clearance.Way{}).
			asks(inVariant).
			says("How far parts go in some directions, at a time of the reveal, before they touch what stays; as application/x-ndjson each as soon as it is found."),
	}
}

// Reach asks how far parts go before they touch what stays.
type Reach struct {
	Time       reveal.Micros     `json:"time"`
	Nodes      []assembly.NodeID `json:"nodes"`
	Directions []space.Vec3      `json:"directions"` // in the world
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

func (s *spaces) ready(m *product.Model) *clearance.Space {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.of != m.Assembly {
		s.of, s.space = m.Assembly, clearance.NewSpace(m.Assembly, m.Shapes)
	}
	return s.space
}

// clearance answers for a reveal as it is stored, at a time of it: all ways at once, or, where lines are asked
// for, each as soon as it is found.
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
	m, at, err := s.standing(c.Request.Context(), key, c.Query("variant"), q.Time)
	if err != nil {
		fail(c, err)
		return
	}
	size := m.Assembly.Bounds().Size()
	limit := 4 * max(size.X, size.Y, size.Z)
	directions := make([]space.Vec, len(q.Directions))
	for i, d := range q.Directions {
		directions[i] = d.Vec()
	}
	if c.NegotiateFormat(gin.MIMEJSON, lines) != lines {
		c.JSON(http.StatusOK, s.spaces.ready(m).Ways(at, q.Nodes, directions, limit))
		return
	}
	c.Header("Content-Type", lines)
	var mu sync.Mutex
	text := json.NewEncoder(c.Writer)
	s.spaces.ready(m).Each(at, q.Nodes, directions, limit, func(i int, w clearance.Way) {
		mu.Lock()
		defer mu.Unlock()
		if text.Encode(Found{i, w}) == nil { // who has gone is told no more
			c.Writer.Flush()
		}
	})
}

// lines is the type of an answer that is one JSON document a line, each as soon as it is known.
const lines = "application/x-ndjson"

// Found is the way in one of the directions that were asked about, by its number.
type Found struct {
	Direction int           `json:"direction"`
	Way       clearance.Way `json:"way"`
}

// standing is a model as a reveal has it at a time, in a variant of the product.
func (s *Server) standing(
	ctx context.Context,
	key, asked string,
	at reveal.Micros,
) (*product.Model, clearance.Pose, error) {
	on, err := s.stage(ctx, key, asked)
	if err != nil {
		return nil, clearance.Pose{}, err
	}
	return on.model, poseAt(film.Compile(on.model.Assembly, on.doc), at), nil
}

// poseAt is how a film has its assembly stand at a time.
func poseAt(f *film.Film, at reveal.Micros) clearance.Pose {
	fr := f.NewFrame()
	f.At(at, fr)
	return clearance.Pose{World: fr.World, Opacity: fr.Opacity}
}
