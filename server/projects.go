package server

import (
	"encoding/binary"
	"net/http"

	"github.com/gin-gonic/gin"

	"slowreveal/store"
)

// ProjectPage is everything that a page needs to open a project.
type ProjectPage struct {
	Project  store.Project        `json:"project"`
	Revision store.Revision       `json:"revision"`
	Arranged Arranged             `json:"arranged"`
	Reveals  []store.StoredReveal `json:"reveals"`
}

func (s *Server) projectRoutes() []route {
	return []route{
		get("/projects", "listProjects", s.listProjects).gives([]store.Project{}).
			says("All projects, the newest first."),
		get("/projects/{id}", "openProject", s.openProject).gives(ProjectPage{}).
			says("A project with its newest assembly and its reveals."),
		del("/projects/{id}", "deleteProject", s.deleteProject).
			says("Deletes a project with all that is in it."),
		get("/revisions/{revision}/geometry", "geometry", s.geometry).sends("application/octet-stream").
			says("All shapes of a revision, one after the other (docs/formats.md)."),
	}
}

// id returns a path parameter that must be a UUID; it has answered when ok is
// false.
func id(c *gin.Context, name string) (string, bool) {
	v := c.Param(name)
	if !isUUID(v) {
		fail(c, store.ErrMissing)
		return "", false
	}
	return v, true
}

func (s *Server) listProjects(c *gin.Context) {
	list, err := s.store.Projects(c.Request.Context())
	answer(c, http.StatusOK, list, err)
}

func (s *Server) openProject(c *gin.Context) {
	key, ok := id(c, "id")
	if !ok {
		return
	}
	p, err := s.store.Project(c.Request.Context(), key)
	if err != nil {
		fail(c, err)
		return
	}
	revision, err := s.store.Revision(c.Request.Context(), key)
	if err != nil {
		fail(c, err)
		return
	}
	reveals, err := s.store.Reveals(c.Request.Context(), key)
	if err != nil {
		fail(c, err)
		return
	}
	arranged, err := s.arrangedPage(c.Request.Context(), revision.ID)
	if err != nil {
		fail(c, err)
		return
	}
	revision.Assembly = "null" // the arranged one counts
	c.JSON(http.StatusOK, ProjectPage{p, revision, arranged, reveals})
}

func (s *Server) deleteProject(c *gin.Context) {
	if key, ok := id(c, "id"); ok {
		done(c, s.store.DeleteProject(c.Request.Context(), key))
	}
}

// done answers an operation that returns nothing.
func done(c *gin.Context, err error) {
	if err != nil {
		fail(c, err)
		return
	}
	c.Status(http.StatusNoContent)
}

// geometry streams every shape of a revision, each behind its length, padded
// to 4 bytes. It never changes, so it may be cached for good.
func (s *Server) geometry(c *gin.Context) {
	revision, ok := id(c, "revision")
	if !ok {
		return
	}
	m, err := s.authoring.Model(c.Request.Context(), revision, false)
	if err != nil {
		fail(c, err)
		return
	}
	for _, ref := range m.Assembly.Shapes { // before anything is sent: what is wrong is said in words
		if _, err := s.store.DrawnShape(c.Request.Context(), ref.Hash); err != nil {
			fail(c, err)
			return
		}
	}
	h := c.Writer.Header()
	h.Set("Content-Type", "application/octet-stream")
	h.Set("Cache-Control", "public, max-age=31536000, immutable")
	body, finish := compressed(c)
	defer finish()
	for _, ref := range m.Assembly.Shapes {
		data, err := s.store.DrawnShape(c.Request.Context(), ref.Hash)
		if err != nil {
			panic(http.ErrAbortHandler) // it was there a moment ago; the page says that the transfer broke
		}
		body.Write(binary.LittleEndian.AppendUint32(nil, uint32(len(data))))
		body.Write(data)
		body.Write(make([]byte, (4-len(data)%4)%4))
	}
}
