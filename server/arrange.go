package server

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"net/http"
	"regexp"

	"github.com/gin-gonic/gin"

	"slowreveal/authoring"
	"slowreveal/core/arrange"
	"slowreveal/core/assembly"
	"slowreveal/core/solid"
	"slowreveal/core/survey"
	"slowreveal/store"
)

// Arranged is a project's assembly as it has been arranged.
type Arranged struct {
	Assembly    *assembly.Assembly    `json:"assembly"`
	Arrangement authoring.Arrangement `json:"arrangement"`
	// Geometry is the address of its shapes; it changes with them.
	Geometry string `json:"geometry"`
}

// Rearrange asks for an edit on a version of an arrangement; undo and redo need
// the version alone.
type Rearrange struct {
	Version int64         `json:"version"`
	Edit    *arrange.Edit `json:"edit,omitempty"`
}

// ShapeFeatures are the features of one shape.
type ShapeFeatures struct {
	Features []solid.Feature `json:"features"`
	// Of gives each triangle the index of its feature, −1 for none.
	Of []int32 `json:"of"`
}

func (s *Server) arrangeRoutes() []route {
	return []route{
		post("/projects/{id}/arrange", "arrange", s.arrange).takes(Rearrange{}).gives(Arranged{}).
			says("Adds an edit to the project's arrangement. What a split or “tell apart” needs is computed."),
		post("/projects/{id}/arrange/undo", "undoArrange", s.undoArrange).takes(Rearrange{}).gives(Arranged{}).
			says("Takes the arrangement's last edit off."),
		post("/projects/{id}/arrange/redo", "redoArrange", s.redoArrange).takes(Rearrange{}).gives(Arranged{}).
			says("Brings the edit back that was taken off last."),
		get("/projects/{id}/survey", "survey", s.survey).gives(survey.Survey{}).
			says("What is known of the parts: measures, families, fasteners, contacts."),
		get("/shapes/{hash}/features", "features", s.features).gives(ShapeFeatures{}).
			says("The planes, cylinders and edges of a shape, and which triangle belongs to which."),
	}
}

func (s *Server) arrangedPage(ctx context.Context, revision string) (Arranged, error) {
	a, arrangement, err := s.authoring.Arranged(ctx, revision)
	if err != nil {
		return Arranged{}, err
	}
	return Arranged{a, arrangement, geometryPath(revision, a)}, nil
}

// geometryPath is the address of an assembly's shapes. It is another one
// whenever the shapes are others, so that browsers may keep what is there.
func geometryPath(revision string, a *assembly.Assembly) string {
	h := sha256.New()
	h.Write([]byte(store.DrawnKey()))
	for _, ref := range a.Shapes {
		h.Write([]byte(ref.Hash))
	}
	return "/api/revisions/" + revision + "/geometry?shapes=" + hex.EncodeToString(h.Sum(nil)[:8])
}

var errNoEdit = errors.New("there is no edit in the request")

func (s *Server) arrange(c *gin.Context) {
	s.rearrange(c, func(project string, r Rearrange) error {
		if r.Edit == nil {
			return &store.Refused{Cause: errNoEdit}
		}
		if r.Edit.Do == arrange.Part {
			return s.authoring.Part(c.Request.Context(), project, r.Version, r.Edit.Node)
		}
		edit, err := s.complete(c.Request.Context(), project, *r.Edit)
		if err != nil {
			return err
		}
		return s.authoring.Arrange(c.Request.Context(), project, r.Version, edit)
	})
}

// complete computes what a edit needs and a page does not know.
func (s *Server) complete(ctx context.Context, project string, edit arrange.Edit) (arrange.Edit, error) {
	switch {
	case edit.Do == arrange.Split:
		return s.authoring.Split(ctx, project, edit.Node)
	case edit.Do == arrange.TellApart && edit.Colours == nil:
		r, err := s.store.Revision(ctx, project)
		if err != nil {
			return edit, err
		}
		a, _, err := s.authoring.Arranged(ctx, r.ID)
		if err != nil {
			return edit, err
		}
		known, err := s.authoring.SurveyOf(ctx, r.ID)
		if err != nil {
			return edit, err
		}
		edit.Colours = arrange.Apart(a, known.Contacts)
	}
	return edit, nil
}

func (s *Server) undoArrange(c *gin.Context) {
	s.rearrange(c, func(project string, r Rearrange) error {
		return s.authoring.UndoArrange(c.Request.Context(), project, r.Version)
	})
}

func (s *Server) redoArrange(c *gin.Context) {
	s.rearrange(c, func(project string, r Rearrange) error {
		return s.authoring.RedoArrange(c.Request.Context(), project, r.Version)
	})
}

func (s *Server) rearrange(c *gin.Context, change func(project string, r Rearrange) error) {
	key, ok := id(c, "id")
	var r Rearrange
	if !ok || !read(c, &r) {
		return
	}
	if r.Edit != nil {
		if err := r.Edit.Check(); err != nil {
			fail(c, &store.Refused{Cause: err})
			return
		}
	}
	revision, err := s.store.Revision(c.Request.Context(), key)
	if err == nil {
		err = change(key, r)
	}
	if err != nil {
		fail(c, err)
		return
	}
	arranged, err := s.arrangedPage(c.Request.Context(), revision.ID)
	answer(c, http.StatusOK, arranged, err)
}

func (s *Server) survey(c *gin.Context) {
	key, ok := id(c, "id")
	if !ok {
		return
	}
	revision, err := s.store.Revision(c.Request.Context(), key)
	if err != nil {
		fail(c, err)
		return
	}
	text, err := s.authoring.Survey(c.Request.Context(), revision.ID)
	if err != nil {
		fail(c, err)
		return
	}
	c.Data(http.StatusOK, jsonType, []byte(text))
}

var hash = regexp.MustCompile(`^[0-9a-f]{64}$`)

func (s *Server) features(c *gin.Context) {
	key := c.Param("hash")
	if !hash.MatchString(key) {
		fail(c, store.ErrMissing)
		return
	}
	data, err := s.store.Shape(c.Request.Context(), key)
	if err != nil {
		fail(c, err)
		return
	}
	shape, err := solid.Decode(data)
	if err != nil {
		fail(c, err)
		return
	}
	f := shape.Features()
	c.Header("Cache-Control", "public, max-age=31536000, immutable")
	c.JSON(http.StatusOK, ShapeFeatures{append([]solid.Feature{}, f.List...), f.Of})
}
