package server

import (
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"

	"slowreveal/core/compose"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/store"
)

// OnVersion asks for something that is done to a version of a reveal.
type OnVersion struct {
	Version int64 `json:"version"`
}

func (s *Server) versionRoutes() []route {
	return []route{
		del("/reveals/{id}", "deleteReveal", s.deleteReveal).
			says("Takes a reveal away; it can be brought back."),
		post("/reveals/{id}/restore", "bringBack", s.bringBack).
			says("Brings a deleted reveal back."),
		post("/reveals/{id}/reverse", "reversed", s.reversed).makes(store.StoredReveal{}).
			says("Adds a reveal that shows this one backwards."),
		post("/reveals/{id}/versions", "nameVersion", s.nameVersion).takes(NewVersion{}).makes(store.Version{}).
			says("Gives the present state a name."),
		get("/reveals/{id}/versions", "versions", s.versions).gives([]store.Version{}).
			says("The named versions, the newest first."),
		get("/versions/{id}/differences", "differences", s.differences).gives(Differences{}).asks(asked{"to", anID}).
			says("What has changed since a named version, to another one (?to=) or to the present."),
		post("/versions/{id}/restore", "goBack", s.goBack).takes(OnVersion{}).gives(Changed{}).
			says("Makes the reveal what this version of it was, as an edit that can be undone."),
		post("/reveals/{id}/presence", "announce", s.announce).takes(store.Presence{}).
			says("Tells the other pages where somebody is."),
	}
}

// NewVersion asks for a name for a reveal's present state.
type NewVersion struct {
	Name string `json:"name"`
}

// Differences says in words what has changed.
type Differences struct {
	Lines []string `json:"lines"`
}

func (s *Server) nameVersion(c *gin.Context) {
	key, ok := id(c, "id")
	var n NewVersion
	if !ok || !read(c, &n) {
		return
	}
	name := strings.TrimSpace(n.Name)
	if name == "" || len(name) > maxName || !printable(name) {
		refuse(
			c,
			http.StatusUnprocessableEntity,
			"name",
			"a version needs a name of at most 200 letters, without control characters",
		)
		return
	}
	v, err := s.store.NameVersion(c.Request.Context(), key, name, author(c))
	answer(c, http.StatusCreated, v, err)
}

func (s *Server) versions(c *gin.Context) {
	if key, ok := id(c, "id"); ok {
		list, err := s.store.Versions(c.Request.Context(), key)
		answer(c, http.StatusOK, list, err)
	}
}

func (s *Server) differences(c *gin.Context) {
	key, ok := id(c, "id")
	if !ok {
		return
	}
	to := c.Query("to")
	if to != "" && !isUUID(to) {
		refuse(c, http.StatusBadRequest, "to", "?to= is not the id of a version")
		return
	}
	lines, err := s.authoring.Differences(c.Request.Context(), key, to)
	answer(c, http.StatusOK, Differences{lines}, err)
}

func (s *Server) goBack(c *gin.Context) {
	key, ok := id(c, "id")
	var o OnVersion
	if !ok || !read(c, &o) {
		return
	}
	out, err := s.authoring.GoBack(c.Request.Context(), key, on(c, o.Version))
	s.changed(c, nil, out, err)
}

func (s *Server) deleteReveal(c *gin.Context) {
	if key, ok := id(c, "id"); ok {
		done(c, s.store.DeleteReveal(c.Request.Context(), key))
	}
}

func (s *Server) bringBack(c *gin.Context) {
	if key, ok := id(c, "id"); ok {
		done(c, s.authoring.RestoreReveal(c.Request.Context(), key))
	}
}

// reversed adds a reveal that shows another one backwards.
func (s *Server) reversed(c *gin.Context) {
	key, ok := id(c, "id")
	if !ok {
		return
	}
	r, err := s.backwards(c, key)
	answer(c, http.StatusCreated, r, err)
}

func (s *Server) backwards(c *gin.Context, key string) (store.StoredReveal, error) {
	r, err := s.store.Reveal(c.Request.Context(), key)
	if err != nil {
		return r, err
	}
	m, err := s.authoring.Model(c.Request.Context(), r.RevisionID, false)
	if err != nil {
		return r, err
	}
	doc, err := reveal.Parse([]byte(r.Document))
	if err != nil {
		return r, err
	}
	forwards := compose.Forwards(doc)
	f := film.Compile(m.Assembly, forwards)
	back := compose.Reversed(forwards, f.Opening(f.Duration()))
	back.Title = cut(doc.Title+", backwards", reveal.MaxTitle)
	return s.authoring.CreateReveal(c.Request.Context(), r.ProjectID, back)
}

// cut keeps at most n letters.
func cut(text string, n int) string {
	if r := []rune(text); len(r) > n {
		return string(r[:n])
	}
	return text
}

// announce passes on where somebody is.
func (s *Server) announce(c *gin.Context) {
	key, ok := id(c, "id")
	var p store.Presence
	if !ok || !read(c, &p) {
		return
	}
	if len(p.Page) > 64 || len(p.Name) > maxName || len(p.Selected) > 2*maxName {
		refuse(c, http.StatusUnprocessableEntity, "too-long", "a name has at most 200 letters")
		return
	}
	done(c, s.store.Announce(c.Request.Context(), key, p))
}
