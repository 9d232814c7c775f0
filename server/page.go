package server

import (
	"compress/gzip"
	"fmt"
	"io"
	"io/fs"
	"mime"
	"net/http"
	"path"
	"strings"

	"github.com/gin-gonic/gin"

	"slowreveal/web"
)

// page is the built web application.
type page struct {
	files fs.FS
	index []byte
}

func loadPage() (*page, error) {
	files, err := fs.Sub(web.Dist, "dist")
	if err != nil {
		return nil, err
	}
	index, err := fs.ReadFile(files, "index.html")
	if err != nil {
		index = []byte("<!doctype html><title>Slow Reveal</title><p>The page has not been built. Run “make build”.")
	}
	return &page{files, index}, nil
}

// servePage serves a file of the page, or the page itself for any address of
// the application. Files under assets/ carry their content's hash in the name.
func (s *Server) servePage(c *gin.Context) {
	if c.Request.Method != http.MethodGet && c.Request.Method != http.MethodHead ||
		strings.HasPrefix(c.Request.URL.Path, "/api/") {
		refuse(c, http.StatusNotFound, "missing", "there is nothing at "+c.Request.URL.Path)
		return
	}
	name := strings.TrimPrefix(path.Clean(c.Request.URL.Path), "/")
	if strings.HasPrefix(name, "assets/") && !s.page.has(name) {
		refuse(c, http.StatusNotFound, "missing", "there is no file "+name+"; load the page anew")
		return
	}
	if name == "" || !s.page.has(name) {
		c.Header("Cache-Control", "no-cache")
		c.Data(http.StatusOK, "text/html; charset=utf-8", s.page.index)
		return
	}
	if strings.HasPrefix(name, "assets/") {
		c.Header("Cache-Control", "public, max-age=31536000, immutable")
	} else {
		c.Header("Cache-Control", "no-cache")
	}
	kind := mime.TypeByExtension(path.Ext(name))
	if path.Ext(name) == ".wasm" {
		kind = "application/wasm"
	}
	c.Header("Content-Type", kind)
	if strings.Contains(c.GetHeader("Accept-Encoding"), "br") && s.page.has(name+".br") {
		c.Header("Content-Encoding", "br")
		c.Header("Vary", "Accept-Encoding")
		name += ".br"
	}
	data, err := fs.ReadFile(s.page.files, name)
	if err != nil {
		fail(c, fmt.Errorf("reading the page: %w", err))
		return
	}
	c.Data(http.StatusOK, kind, data)
}

func (p *page) has(name string) bool {
	info, err := fs.Stat(p.files, name)
	return err == nil && !info.IsDir()
}

// compressed returns a writer for a long body, compressed where the client can
// read it. finish ends the body.
func compressed(c *gin.Context) (body io.Writer, finish func()) {
	if !strings.Contains(c.GetHeader("Accept-Encoding"), "gzip") {
		return c.Writer, func() {}
	}
	c.Header("Content-Encoding", "gzip")
	c.Header("Vary", "Accept-Encoding")
	z, _ := gzip.NewWriterLevel(c.Writer, gzip.BestSpeed)
	return z, func() { z.Close() }
}
