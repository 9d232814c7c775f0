package server

import (
	"context"
	"encoding/json"
	"errors"
	"io"
	"net/http"
	"net/url"
	"strconv"

	"github.com/gin-gonic/gin"

	"slowreveal/core/edit"
	"slowreveal/core/reveal"
	"slowreveal/formats"
	"slowreveal/store"
)

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
func (s *Server) currentModel(ctx context.Context, project string) (*formats.Model, error) {
	revision, err := s.store.Revision(ctx, project)
	if err != nil {
		return nil, err
	}
	return s.store.Model(ctx, revision.ID, false)
}

func (s *Server) createReveal(c *gin.Context) {
	key, ok := id(c, "id")
	var n NewReveal
	if !ok || !read(c, &n) {
		return
	}
	m, err := s.currentModel(c, key)
	if err != nil {
		fail(c, err)
		return
	}
	r, err := s.store.CreateReveal(c, key, reveal.New(n.Title, store.FirstLook(m.Assembly)))
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
	m, err := s.currentModel(c, key)
	if err != nil {
		fail(c, err)
		return
	}
	unmatched := reveal.Match(r, m.Assembly)
	stored, err := s.store.CreateReveal(c, key, r)
	answer(c, http.StatusCreated, BroughtReveal{stored, unmatched}, err)
}

func (s *Server) openReveal(c *gin.Context) {
	key, ok := id(c, "id")
	if !ok {
		return
	}
	r, err := s.store.Reveal(c, key)
	answer(c, http.StatusOK, r, err)
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
	list, err := s.store.Entries(c, key, after)
	answer(c, http.StatusOK, list, err)
}

func (s *Server) changeReveal(c *gin.Context) {
	key, ok := id(c, "id")
	var change Change
	if !ok || !read(c, &change) {
		return
	}
	command, err := edit.Parse(change.Command)
	if err != nil {
		refuse(c, http.StatusBadRequest, "unreadable", err.Error())
		return
	}
	entry, r, err := s.store.Do(c, key, store.Edit{Base: change.Version, Author: author(c)}, command)
	s.changed(c, entry, r, err)
}

func (s *Server) undo(c *gin.Context) { s.reverse(c, s.store.Undo) }

func (s *Server) redo(c *gin.Context) { s.reverse(c, s.store.Redo) }

// author is what who asks calls themselves: a header, percent-encoded, as headers
// hold no other letters.
func author(c *gin.Context) string {
	name, err := url.QueryUnescape(c.GetHeader("X-Author"))
	if err != nil || len(name) > maxName {
		return ""
	}
	return name
}

// maxName bounds names of people and of versions, in bytes.
const maxName = 200

// reverse answers an undo or redo.
func (s *Server) reverse(c *gin.Context, do func(context.Context, string, store.Edit) (store.Entry, store.StoredReveal, error)) {
	key, ok := id(c, "id")
	var change Change
	if !ok || !read(c, &change) {
		return
	}
	entry, r, err := do(c, key, store.Edit{Base: change.Version, Author: author(c)})
	s.changed(c, entry, r, err)
}

func (s *Server) changed(c *gin.Context, e store.Entry, r store.StoredReveal, err error) {
	if err != nil {
		fail(c, err)
		return
	}
	command, err := edit.Parse([]byte(e.Command))
	answer(c, http.StatusOK, Changed{Version: r.Version, UndoTo: r.UndoTo, RedoTo: r.RedoTo, Label: e.Label, Command: command}, err)
}
