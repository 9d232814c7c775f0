package server

import (
	"errors"
	"net/http"

	"github.com/gin-gonic/gin"

	"slowreveal/core/assembly"
	"slowreveal/core/joint"
	"slowreveal/store"
)

// CamTable is how one joint follows another by the outline of a cam: rows as a coupling's table has them.
type CamTable struct {
	Rows [][2]float64 `json:"rows"`
}

func (s *Server) camRoutes() []route {
	return []route{
		get("/projects/{id}/cam", "camTable", s.camTable).gives(CamTable{}).
			asks(asked{"joint", aText}, asked{"by", aText}).
			says("The table of a cam, read from the shapes: how one joint of the project follows another one, as both stand."),
	}
}

func (s *Server) camTable(c *gin.Context) {
	key, ok := id(c, "id")
	if !ok {
		return
	}
	ctx := c.Request.Context()
	revision, err := s.store.Revision(ctx, key)
	if err != nil {
		fail(c, err)
		return
	}
	m, err := s.authoring.Model(ctx, revision.ID, true)
	if err != nil {
		fail(c, err)
		return
	}
	follower := m.Assembly.FindJoint(assembly.JointID(c.Query("joint")))
	cam := m.Assembly.FindJoint(assembly.JointID(c.Query("by")))
	if follower == nil || cam == nil {
		fail(c, &store.Refused{Cause: errors.New("one of the joints is gone; choose another one")})
		return
	}
	rows, err := joint.CamTable(m.Assembly, m.Shapes, cam, follower)
	if err != nil {
		fail(c, &store.Refused{Cause: err})
		return
	}
	c.JSON(http.StatusOK, CamTable{rows})
}
