package server

import (
	"context"
	"fmt"
	"net/http"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/product"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/store"
)

func (s *Server) identityRoutes() []route {
	return []route{
		post("/projects/{id}/confirm", "confirmMatches", s.confirm).takes(Confirmed{}).
			says("Notes that nodes of the newest revision are those of the one before for which they were taken."),
		get(
			"/revisions/{revision}/part",
			"partPicture",
			s.partPicture,
		).sends("image/png").
			asks(asked{"node", aText}, asked{"beside", aText}).
			says("One node of a revision alone, as it was imported, small (PNG)."),
	}
}

// Confirmed names nodes that are what they were taken for in a new revision.
type Confirmed struct {
	Nodes []assembly.NodeID `json:"nodes"`
}

// confirm notes that nodes in doubt are the same.
func (s *Server) confirm(c *gin.Context) {
	key, ok := id(c, "id")
	var q Confirmed
	if !ok || !read(c, &q) {
		return
	}
	if len(q.Nodes) > reveal.MaxTargets {
		refuse(c, http.StatusUnprocessableEntity, "too-much", "at most 10,000 nodes at once")
		return
	}
	if err := s.authoring.Confirm(c.Request.Context(), key, q.Nodes); err != nil {
		fail(c, err)
		return
	}
	c.Status(http.StatusNoContent)
}

// partPicture draws one node of a revision alone, as it was imported, small; where another revision is named beside it, in
// the scale in which both are seen whole.
func (s *Server) partPicture(c *gin.Context) {
	key, ok := id(c, "revision")
	if !ok {
		return
	}
	node, beside := assembly.NodeID(c.Query("node")), c.Query("beside")
	if _, err := uuid.Parse(beside); beside != "" && err != nil {
		fail(c, store.ErrMissing)
		return
	}
	ctx := c.Request.Context()
	picture, err := s.kept(
		ctx,
		fmt.Sprintf("part %s of %s beside %s", node, key, beside),
		func() ([]byte, error) { return s.drawPart(ctx, key, beside, node) },
	)
	if err != nil {
		fail(c, err)
		return
	}
	c.Header("Cache-Control", "private, max-age=86400")
	c.Data(http.StatusOK, "image/png", picture)
}

func (s *Server) drawPart(ctx context.Context, revision, beside string, node assembly.NodeID) ([]byte, error) {
	alone, err := s.alone(ctx, revision, node)
	if err != nil {
		return nil, err
	}
	box := alone.Assembly.Bounds()
	if beside != "" {
		other, err := s.alone(ctx, beside, node)
		if err != nil {
			return nil, err
		}
		box = atLeast(box, other.Assembly.Bounds().Size())
	}
	camera, err := film.Fit(film.FirstLook(alone.Assembly), 4.0/3, 0.1, []space.Box{box})
	if err != nil {
		return nil, &store.Refused{Cause: fmt.Errorf("there is nothing to be seen of %q", node)}
	}
	r := reveal.New("Alone", camera)
	r.Frame = reveal.Frame{Width: pictureWidth, Height: pictureWidth * 3 / 4, Rate: 30}
	r.Steps = []reveal.Step{{ID: "rest", Duration: reveal.Second}}
	return s.draw(alone, film.Compile(alone.Assembly, r), pictureWidth*3/4, 0)
}

// alone is a node of a revision with what is in it.
func (s *Server) alone(ctx context.Context, revision string, node assembly.NodeID) (*product.Model, error) {
	m, err := s.authoring.Imported(ctx, revision)
	if err != nil {
		return nil, err
	}
	at, there := m.Assembly.Index()[node]
	if !there {
		return nil, store.ErrMissing
	}
	return below(m, at), nil
}

// atLeast is a box about the same middle that is as large as another one, too.
func atLeast(b space.Box, size space.Vec) space.Box {
	middle, own := b.Centre(), b.Size()
	half := space.Vec{X: max(own.X, size.X) / 2, Y: max(own.Y, size.Y) / 2, Z: max(own.Z, size.Z) / 2}
	return space.Box{
		Min: space.Vec{X: middle.X - half.X, Y: middle.Y - half.Y, Z: middle.Z - half.Z},
		Max: space.Vec{X: middle.X + half.X, Y: middle.Y + half.Y, Z: middle.Z + half.Z},
	}
}

// below is a node with what is in it, as an assembly of its own in which it stands as it does in the whole.
func below(m *product.Model, at int) *product.Model {
	a := *m.Assembly
	worlds := a.Worlds()
	a.Nodes, a.Joints, a.Couplings, a.Variants, a.Hazards = nil, nil, nil, nil, nil
	place := map[int]int{at: 0}
	for i, n := range m.Assembly.Nodes {
		parent, inside := place[n.Parent]
		switch {
		case i == at:
			n.Parent, n.Pose = -1, assembly.PoseOf(worlds[i])
		case i > at && n.Parent >= 0 && inside:
			n.Parent = parent
		default:
			continue
		}
		place[i] = len(a.Nodes)
		a.Nodes = append(a.Nodes, n)
	}
	return &product.Model{Assembly: &a, Shapes: m.Shapes}
}
