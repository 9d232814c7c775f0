package server

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"path/filepath"
	"slices"
	"strings"
	"unicode"

	"github.com/gin-gonic/gin"

	"slowreveal/encode"
	"slowreveal/examine"
	"slowreveal/release"
	"slowreveal/store"
)

func (s *Server) attachmentRoutes() []route {
	return []route{
		get("/projects/{id}/attachments", "listAttachments", s.listAttachments).gives([]store.Attachment{}).
			says("Sounds, logos, pictures and fonts, the newest first."),
		post("/projects/{id}/attachments", "attach", s.attach).takesForm().makes(store.Attachment{}).
			says("Takes a sound, logo, picture or font; form fields kind and, behind it, file."),
		del("/attachments/{id}", "deleteAttachment", s.deleteAttachment).
			says("Removes a sound, logo, picture or font, unless an output that is being made uses it."),
	}
}

func (s *Server) listAttachments(c *gin.Context) {
	if key, ok := id(c, "id"); ok {
		list, err := s.store.Attachments(c.Request.Context(), key)
		answer(c, http.StatusOK, list, err)
	}
}

// attach takes a form with the fields kind and file, in this order, and stores the file as it comes.
func (s *Server) attach(c *gin.Context) {
	key, ok := id(c, "id")
	if !ok {
		return
	}
	if _, err := s.store.Project(c.Request.Context(), key); err != nil {
		fail(c, err)
		return
	}
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, store.MaxAttachment+1<<20)
	form, err := c.Request.MultipartReader()
	if err != nil {
		refuse(c, http.StatusUnprocessableEntity, "file", "a file of at most 200 MB is needed")
		return
	}
	a := store.Attachment{ProjectID: key}
	for {
		part, err := form.NextPart()
		if err != nil {
			refuse(c, http.StatusUnprocessableEntity, "file", "a file of at most 200 MB is needed, behind its kind")
			return
		}
		if part.FormName() == "kind" {
			kind, _ := io.ReadAll(io.LimitReader(part, maxField)) // cut off, it is no kind
			a.Kind = string(kind)
			continue
		}
		if part.FormName() != "file" {
			continue
		}
		if !slices.Contains(release.AttachmentKinds, release.AttachmentKind(a.Kind)) {
			refuse(c, http.StatusUnprocessableEntity, "kind", "an attachment is a sound, a logo, a picture or a font")
			return
		}
		a.Name = attachmentName(part.FileName())
		a, err = s.store.Attach(c.Request.Context(), a, part, func(path string, a *store.Attachment) error {
			if err := lookInto(c.Request.Context(), path, a); err != nil {
				return &store.Refused{Cause: err}
			}
			return nil
		})
		answer(c, http.StatusCreated, a, err)
		return
	}
}

// attachmentName is a file's name without folders and signs that cannot be shown, and not too long.
func attachmentName(name string) string {
	name = strings.Map(func(r rune) rune {
		if unicode.IsControl(r) {
			return -1
		}
		return r
	}, strings.ToValidUTF8(filepath.Base(name), ""))
	return cut(name, 120)
}

func (s *Server) deleteAttachment(c *gin.Context) {
	if key, ok := id(c, "id"); ok {
		done(c, s.store.DeleteAttachment(c.Request.Context(), key))
	}
}

// lookInto looks into an attachment before it is taken.
func lookInto(ctx context.Context, path string, a *store.Attachment) error {
	switch a.Kind {
	case "sound":
		heard, err := encode.Listen(ctx, path)
		a.Length = int64(heard.Length)
		return err
	case "font":
		if a.Bytes > release.MaxFont {
			return fmt.Errorf("a font may have %d MB", release.MaxFont>>20)
		}
		return examine.File(ctx, examine.Font, path)
	}
	return examine.File(ctx, examine.Picture, path)
}
