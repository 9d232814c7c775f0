package server

import (
	"context"
	"errors"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"path"
	"strings"
	"unicode/utf8"

	"github.com/gin-gonic/gin"

	"slowreveal/core/reveal"
	"slowreveal/formats"
	"slowreveal/formats/importer"
	"slowreveal/store"
)

func (s *Server) importRoutes() []route {
	return []route{
		get("/imports", "listImports", s.listImports).gives([]store.Import{}).
			says("The imports on their way, those that failed, and those just done, the newest first."),
		post("/imports", "takeImport", s.takeImport).takesForm().makes(store.Import{}).
			says("Queues files that are one assembly together; form fields files, name, unit, up, detail, and project for its next revision."),
		post("/imports/{id}/cancel", "cancelImport", s.cancelImport).
			says("Stops an import."),
		post("/imports/{id}/retry", "retryImport", s.retryImport).
			says("Queues a failed or cancelled import again."),
		del("/imports/{id}", "deleteImport", s.deleteImport).
			says("Forgets an import that failed or was cancelled."),
		post("/projects/{id}/imports/before", "takeBefore", s.takeBefore).makes(store.Import{}).
			says("Takes the revision before the newest one in once more, as the next revision."),
		post("/projects/{id}/imports", "reread", s.reread).takes(formats.Options{}).makes(store.Import{}).
			says("Reads a project's files once more, with another unit, axis or detail."),
	}
}

func (s *Server) listImports(c *gin.Context) {
	list, err := s.store.Imports(c.Request.Context())
	answer(c, http.StatusOK, list, err)
}

// maxField bounds a field of a form, in bytes.
const maxField = 4 << 10

// takeImport stores the files of a form as they come in and queues them.
func (s *Server) takeImport(c *gin.Context) {
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, 2*formats.MaxFile)
	form, err := c.Request.MultipartReader()
	if err != nil {
		refuse(c, http.StatusBadRequest, "no-file", "there is no file in the request: send a form with fields “files”")
		return
	}
	i := store.Import{ID: store.NewImport()}
	i.Source = i.ID
	var o formats.Options
	if err := s.takeParts(c, form, &i, &o); err == nil {
		if i.Name = strings.TrimSpace(o.Name); i.Name == "" {
			i.Name = strings.TrimSuffix(i.Files[0].Name, path.Ext(i.Files[0].Name))
		}
		if n := utf8.RuneCountInString(i.Name); n < 1 || n > reveal.MaxTitle || !utf8.ValidString(i.Name) {
			err = &store.Refused{Cause: errors.New("a project's name has 1 to 200 characters")}
		} else {
			var known store.Import
			if i.ProjectID != nil {
				_, err = s.store.Project(c.Request.Context(), *i.ProjectID)
			}
			if err == nil {
				known, err = s.queue.Import(c.Request.Context(), i, o)
			}
			if err == nil {
				if known.ID != i.ID { // the same request once more: its files are there already
					s.store.DropFiles(c.Request.Context(), i.Source)
				}
				i = known
			}
		}
		if err == nil {
			c.JSON(http.StatusCreated, i)
			return
		}
		s.forget(c, i, err)
	} else {
		s.forget(c, i, err)
	}
}

// forget takes back what was stored of an import that did not come about.
func (s *Server) forget(c *gin.Context, i store.Import, why error) {
	// what stays after a failure here is in nobody's way
	s.store.DropFiles(context.WithoutCancel(c.Request.Context()), i.Source)
	var large *http.MaxBytesError
	if errors.As(why, &large) {
		refuse(c, http.StatusRequestEntityTooLarge, "too-large", "the files are larger than 2 GiB together")
		return
	}
	fail(c, why)
}

func (s *Server) takeParts(c *gin.Context, form *multipart.Reader, i *store.Import, o *formats.Options) error {
	for {
		part, err := form.NextPart()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return broken(err)
		}
		if part.FormName() != "files" {
			if err := field(part, i, o); err != nil {
				return err
			}
			continue
		}
		name := path.Base(strings.ReplaceAll(part.FileName(), "\\", "/"))
		if utf8.RuneCountInString(name) > 200 {
			return &store.Refused{Cause: errors.New("a file's name has more than 200 characters")}
		}
		names := append(i.Files.Names(), name)
		for _, known := range i.Files {
			if known.Name == name {
				return &store.Refused{Cause: fmt.Errorf("two files are called %s", name)}
			}
		}
		if err := importer.Check(names); err != nil && !importer.Sidecars.Has(name) {
			return &store.Refused{Cause: err}
		}
		n, err := s.store.PutFile(c.Request.Context(), i.Source, name, part)
		if err != nil {
			return broken(err)
		}
		i.Files = append(i.Files, store.File{Name: name, Bytes: n})
	}
	if len(i.Files) == 0 {
		return &store.Refused{Cause: errors.New("there is no file in the request: choose an assembly file")}
	}
	if err := importer.Check(i.Files.Names()); err != nil {
		return &store.Refused{Cause: err}
	}
	return nil
}

func broken(err error) error {
	var large *http.MaxBytesError
	if errors.As(err, &large) || !errors.Is(err, io.ErrUnexpectedEOF) {
		return err
	}
	return &store.Refused{Cause: errors.New("the files did not arrive whole")}
}

// field takes a field of the form over.
func field(part *multipart.Part, i *store.Import, o *formats.Options) error {
	text, err := io.ReadAll(io.LimitReader(part, maxField))
	if err != nil {
		return broken(err)
	}
	switch v := string(text); part.FormName() {
	case "project":
		if !isUUID(v) {
			return store.ErrMissing
		}
		i.ProjectID, i.Reread = &v, true
	case "name":
		o.Name = v
	case "unit":
		o.Unit = v
	case "up":
		o.Up = v
	case "detail":
		o.Detail = v
	}
	return nil
}

// reread has a project's files read once more, in another way.
func (s *Server) reread(c *gin.Context) {
	key, ok := id(c, "id")
	if !ok {
		return
	}
	var o formats.Options
	if !read(c, &o) {
		return
	}
	i, err := s.queue.Reread(c.Request.Context(), key, o)
	answer(c, http.StatusCreated, i, err)
}

func (s *Server) takeBefore(c *gin.Context) {
	key, ok := id(c, "id")
	if !ok {
		return
	}
	i, err := s.queue.GoBack(c.Request.Context(), key)
	answer(c, http.StatusCreated, i, err)
}

func (s *Server) cancelImport(c *gin.Context) {
	if key, ok := id(c, "id"); ok {
		done(c, s.queue.CancelImport(c.Request.Context(), key))
	}
}

func (s *Server) retryImport(c *gin.Context) {
	if key, ok := id(c, "id"); ok {
		done(c, s.queue.RetryImport(c.Request.Context(), key))
	}
}

func (s *Server) deleteImport(c *gin.Context) {
	key, ok := id(c, "id")
	if !ok {
		return
	}
	i, err := s.store.Import(c.Request.Context(), key)
	if err == nil {
		err = s.store.DeleteImport(c.Request.Context(), i)
	}
	done(c, err)
}
