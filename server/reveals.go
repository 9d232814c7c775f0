package server

import (
	"context"
	"encoding/json"
	"errors"
	"io"
	"net/http"
	"strconv"

	"github.com/gin-gonic/gin"

	"slowreveal/authoring"
	"slowreveal/core/edit"
	"slowreveal/core/film"
	"slowreveal/core/product"
	"slowreveal/core/reveal"
	"slowreveal/store"
)

// Change asks for edits that were made on a version of a reveal.
type Change struct {
	Version int64          `json:"version"`
	Edits   []KeyedCommand `json:"edits"`
}

// KeyedCommand is an edit with the key that its page gave it, a UUID: the same key twice is one
// edit.
type KeyedCommand struct {
	Key     string          `json:"key,omitempty"`
	Command json.RawMessage `json:"command"`
}

// Reverse asks for an undo or a redo; the answer tells what has happened since the version.
type Reverse struct {
	Version int64 `json:"version"`
	// Before has an undo go past the later changes: it reverses the last one before this version.
	Before int64 `json:"before,omitempty"`
}

// OpenedReveal is a reveal as who asks opens it.
type OpenedReveal struct {
	store.StoredReveal
	store.Marks
}

// Changed says how a reveal stands after a change.
type Changed struct {
	Version int64 `json:"version"`
	store.Marks
	// Entries are the log since the version that the page knows, its own edits among them. The
	// commands of those are left out: the page has them. When the log is long, Whole is the
	// reveal as it is instead.
	Entries []store.Entry       `json:"entries"`
	Whole   *store.StoredReveal `json:"whole,omitempty"`
	// Refused is what is wrong with the edit at which it ended: those before it are done, those
	// behind it are not.
	Refused *Problem `json:"refused,omitempty"`
}

// NewReveal asks for a reveal.
type NewReveal struct {
	Title string `json:"title"`
}

// BringReveal asks for a reveal from a document.
type BringReveal struct {
	// Title replaces the document's own when it is set.
	Title    string          `json:"title,omitempty"`
	Document json.RawMessage `json:"document"`
}

// BroughtReveal is what became of it.
type BroughtReveal struct {
	Reveal store.StoredReveal `json:"reveal"`
	// Unmatched says what the document names and the assembly does not have.
	Unmatched []string `json:"unmatched"`
}

func (s *Server) revealRoutes() []route {
	return []route{
		get("/projects/{id}/reveals", "listReveals", s.listReveals).gives([]store.StoredReveal{}).
			says("The reveals of a project, without their documents."),
		post("/projects/{id}/reveals", "createReveal", s.createReveal).takes(NewReveal{}).makes(store.StoredReveal{}).
			says("Adds an empty reveal."),
		post("/projects/{id}/reveals/import", "bringReveal", s.bringReveal).takes(BringReveal{}).makes(BroughtReveal{}).
			says("Adds a reveal from a document; what does not match the assembly is left out and named."),
		get("/reveals/{id}", "openReveal", s.openReveal).gives(OpenedReveal{}).
			says("A reveal with its document."),
		get("/reveals/{id}/entries", "entries", s.entries).gives(Changed{}).asks(asked{"after", aNumber}).
			says("What has happened to a reveal after version ?after=."),
		post("/reveals/{id}/commands", "changeReveal", s.changeReveal).takes(Change{}).gives(Changed{}).
			says("Applies edits on top of what others have done since the version; 409 when the first of them touches the same."),
		post("/reveals/{id}/undo", "undo", s.undo).takes(Reverse{}).gives(Changed{}).
			says("Reverses the last change of who asks; 409 when others have changed the same since."),
		post("/reveals/{id}/redo", "redo", s.redo).takes(Reverse{}).gives(Changed{}).
			says("Reverses the last undo of who asks."),
	}
}

// read decodes a JSON body of bounded size; it has answered when it is false.
func read(c *gin.Context, v any) bool {
	d := json.NewDecoder(http.MaxBytesReader(c.Writer, c.Request.Body, edit.MaxCommand+1024))
	d.DisallowUnknownFields()
	if err := d.Decode(v); err != nil && !errors.Is(err, io.EOF) {
		refuse(c, http.StatusBadRequest, "unreadable", "the request is not understood: "+err.Error())
		return false
	}
	return true
}

// currentModel is what the newest revision of a project holds, without its shapes.
func (s *Server) currentModel(ctx context.Context, project string) (*product.Model, error) {
	revision, err := s.store.Revision(ctx, project)
	if err != nil {
		return nil, err
	}
	return s.authoring.Model(ctx, revision.ID, false)
}

func (s *Server) listReveals(c *gin.Context) {
	if key, ok := id(c, "id"); ok {
		list, err := s.store.Reveals(c.Request.Context(), key)
		answer(c, http.StatusOK, list, err)
	}
}

func (s *Server) createReveal(c *gin.Context) {
	key, ok := id(c, "id")
	var n NewReveal
	if !ok || !read(c, &n) {
		return
	}
	m, err := s.currentModel(c.Request.Context(), key)
	if err != nil {
		fail(c, err)
		return
	}
	r, err := s.authoring.CreateReveal(c.Request.Context(), key, reveal.New(n.Title, film.FirstLook(m.Assembly)))
	answer(c, http.StatusCreated, r, err)
}

// bringReveal adds a reveal from a document, as far as it fits the assembly.
func (s *Server) bringReveal(c *gin.Context) {
	key, ok := id(c, "id")
	var b BringReveal
	if !ok || !read(c, &b) {
		return
	}
	r, err := reveal.Parse(b.Document)
	if err != nil {
		refuse(c, http.StatusUnprocessableEntity, "document", err.Error())
		return
	}
	if b.Title != "" {
		r.Title = b.Title
	}
	m, err := s.currentModel(c.Request.Context(), key)
	if err != nil {
		fail(c, err)
		return
	}
	unmatched := reveal.Match(r, m.Assembly)
	stored, err := s.authoring.CreateReveal(c.Request.Context(), key, r)
	answer(c, http.StatusCreated, BroughtReveal{stored, unmatched}, err)
}

func (s *Server) openReveal(c *gin.Context) {
	key, ok := id(c, "id")
	if !ok {
		return
	}
	r, err := s.store.Reveal(c.Request.Context(), key)
	if err != nil {
		fail(c, err)
		return
	}
	marks, err := s.store.Marks(c.Request.Context(), key, person(c), store.NoVersion)
	answer(c, http.StatusOK, OpenedReveal{r, marks}, err)
}

func (s *Server) entries(c *gin.Context) {
	key, ok := id(c, "id")
	if !ok {
		return
	}
	after, err := strconv.ParseInt(c.DefaultQuery("after", "0"), 10, 64)
	if err != nil || after < 0 {
		refuse(c, http.StatusBadRequest, "after", "?after= is not a version")
		return
	}
	out, err := s.authoring.Since(c.Request.Context(), key, on(c, after))
	s.changed(c, nil, out, err)
}

// maxEdits bounds how many edits come at once.
const maxEdits = 500

func (s *Server) changeReveal(c *gin.Context) {
	key, ok := id(c, "id")
	var change Change
	if !ok || !read(c, &change) {
		return
	}
	if len(change.Edits) == 0 || len(change.Edits) > maxEdits {
		refuse(c, http.StatusBadRequest, "edits", "between 1 and 500 edits can be made at once")
		return
	}
	edits := make([]authoring.Edit, len(change.Edits))
	for i, e := range change.Edits {
		if e.Key != "" && !isUUID(e.Key) {
			refuse(c, http.StatusBadRequest, "key", "an edit's key is no UUID")
			return
		}
		command, err := edit.Parse(e.Command)
		if err != nil {
			refuse(c, http.StatusBadRequest, "unreadable", err.Error())
			return
		}
		edits[i] = authoring.Edit{Key: e.Key, Command: command}
	}
	out, err := s.authoring.Do(c.Request.Context(), key, on(c, change.Version), edits...)
	s.changed(c, change.Edits, out, err)
}

func (s *Server) undo(c *gin.Context) {
	s.reverse(c, func(id string, r Reverse) (authoring.Outcome, error) {
		return s.authoring.Undo(c.Request.Context(), id, on(c, r.Version), r.Before)
	})
}

func (s *Server) redo(c *gin.Context) {
	s.reverse(c, func(id string, r Reverse) (authoring.Outcome, error) {
		return s.authoring.Redo(c.Request.Context(), id, on(c, r.Version))
	})
}

// reverse answers an undo or redo.
func (s *Server) reverse(c *gin.Context, do func(id string, r Reverse) (authoring.Outcome, error)) {
	key, ok := id(c, "id")
	var r Reverse
	if !ok || !read(c, &r) {
		return
	}
	out, err := do(key, r)
	s.changed(c, nil, out, err)
}

// changed answers with what came of a change. Commands that the page has sent itself do not go back.
func (s *Server) changed(c *gin.Context, sent []KeyedCommand, out authoring.Outcome, err error) {
	if err != nil {
		fail(c, err)
		return
	}
	reply := Changed{Version: out.Reveal.Version, Marks: out.Marks, Entries: out.Since, Whole: out.Whole}
	known := map[string]bool{}
	for _, e := range sent {
		known[e.Key] = true
	}
	for i := range reply.Entries {
		if e := &reply.Entries[i]; e.Key != nil && known[*e.Key] {
			e.Command = ""
		}
	}
	if out.Why != nil {
		p := Problem{Code: "refused", Message: out.Why.Error(), Key: out.Refused}
		var stale *authoring.Stale
		if errors.As(out.Why, &stale) {
			p.Code = "stale"
		}
		reply.Refused = &p
	}
	c.JSON(http.StatusOK, reply)
}
