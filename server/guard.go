package server

import (
	"io"
	"log/slog"
	"net"
	"net/http"
	"net/url"
	"runtime/debug"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"slowreveal/authoring"
	"slowreveal/store"
)

// requestID is the key of a request's number in its context.
const requestID = "request"

// logged gives every request a number and notes how it ended: what went wrong always, the rest
// when the log is to say everything.
func logged(c *gin.Context) {
	begun := time.Now()
	number := uuid.NewString()[:13]
	c.Set(requestID, number)
	c.Header("X-Request-Id", number)
	c.Next()
	level := slog.LevelDebug
	if status := c.Writer.Status(); status >= 500 {
		level = slog.LevelWarn
	}
	slog.Log(
		c.Request.Context(),
		level,
		"request",
		"request",
		number,
		"method",
		c.Request.Method,
		"path",
		c.Request.URL.Path,
		"status",
		c.Writer.Status(),
		"bytes",
		c.Writer.Size(),
		"ms",
		time.Since(begun).Milliseconds(),
	)
}

func recovered(c *gin.Context) {
	defer func() {
		if p := recover(); p != nil {
			if p == http.ErrAbortHandler {
				panic(p)
			}
			slog.Error(
				"a request failed by a mistake of ours",
				"request",
				c.GetString(requestID),
				"path",
				c.Request.URL.Path,
				"mistake",
				p,
				"stack",
				string(debug.Stack()),
			)
			refuse(
				c,
				http.StatusInternalServerError,
				"mistake",
				"this is a mistake in Slow Reveal; nothing was changed",
			)
		}
	}()
	c.Next()
}

// guard lets in only requests that were meant for this server: it has no
// accounts yet, so it must not be reachable through a foreign page or name.
func guard(c *gin.Context) {
	h := c.Writer.Header()
	h.Set("Content-Security-Policy", contentPolicy)
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "no-referrer")
	h.Set("Cross-Origin-Opener-Policy", "same-origin")
	h.Set("Cross-Origin-Resource-Policy", "same-origin")
	if !local(c.Request.Host) {
		refuse(c, http.StatusForbidden, "foreign-host", "this server answers only to localhost, not to "+c.Request.Host)
		return
	}
	origin := c.GetHeader("Origin")
	if origin != "" && origin != scheme(c)+"://"+c.Request.Host {
		refuse(c, http.StatusForbidden, "foreign-origin", "requests from pages of "+origin+" are refused")
		return
	}
	// W3C Fetch Metadata: a browser says so itself when a page of somebody else asks. Following a
	// link to the page is all that such a page may do.
	site := c.GetHeader("Sec-Fetch-Site")
	following := c.Request.Method == http.MethodGet && c.GetHeader("Sec-Fetch-Mode") == "navigate" &&
		!strings.HasPrefix(c.Request.URL.Path, "/api/")
	if origin == "" && (site == "cross-site" || site == "same-site") && !following {
		refuse(c, http.StatusForbidden, "foreign-origin", "requests from pages of other sites are refused")
	}
}

func scheme(c *gin.Context) string {
	if c.Request.TLS != nil {
		return "https"
	}
	return "http"
}

func local(host string) bool {
	name := host
	if h, _, err := net.SplitHostPort(host); err == nil {
		name = h
	}
	name = strings.Trim(name, "[]")
	if name == "localhost" {
		return true
	}
	ip := net.ParseIP(name)
	return ip != nil && ip.IsLoopback()
}

// open sends requests away once the server is being stopped.
func (s *Server) open(c *gin.Context) {
	if s.stopping.Load() {
		c.Header("Retry-After", "2")
		c.Header("Connection", "close")
		refuse(c, http.StatusServiceUnavailable, "stopping", "the server is being stopped; nothing was changed")
	}
}

// keyed takes the request's key from its header (draft-ietf-httpapi-idempotency-key-header): what it
// asks for is done once, however often it is sent. It also looks at who asks.
func keyed(c *gin.Context) {
	if key := c.GetHeader("Idempotency-Key"); key != "" {
		if !isUUID(key) {
			refuse(c, http.StatusBadRequest, "key", "the header Idempotency-Key is no UUID")
			return
		}
		c.Request = c.Request.WithContext(store.Keyed(c.Request.Context(), key))
	}
	name, err := url.QueryUnescape(c.GetHeader("X-Author"))
	if err != nil || len(name) > maxName || !printable(name) {
		refuse(
			c,
			http.StatusBadRequest,
			"author",
			"the header X-Author is no name: at most 200 bytes, percent-encoded UTF-8 without control characters",
		)
		return
	}
	c.Set("author", name)
	code := c.GetHeader("X-Person")
	if code != "" && !isUUID(code) {
		refuse(c, http.StatusBadRequest, "person", "the header X-Person is no UUID")
		return
	}
	c.Set("person", code)
}

// person is the code that the browser of who asks has made up, "" for none: it tells people apart who
// have no name. It proves nothing.
func person(c *gin.Context) string { return c.GetString("person") }

// on says who changes a reveal, and on which version of it.
func on(c *gin.Context, version int64) authoring.On {
	return authoring.On{Base: version, Author: author(c), Person: person(c)}
}

// author is what who asks calls themselves: a header, percent-encoded, as headers
// hold no other letters.
func author(c *gin.Context) string { return c.GetString("author") }

// maxName bounds names of people and of versions, in bytes.
const maxName = 200

// isUUID reports whether an id has the one form that ids have here.
func isUUID(text string) bool { return len(text) == 36 && uuid.Validate(text) == nil }

// lull is how long a connection may bring or take nothing while a body is on its way.
var lull = 30 * time.Second

// patient waits for a body as long as it comes, and for a reader as long as it reads, but not for
// who has gone silent. (A limit for the whole would end large files on slow lines.)
func patient(c *gin.Context) {
	control := http.NewResponseController(c.Writer)
	if c.Request.Body != nil && c.Request.Body != http.NoBody {
		control.SetReadDeadline(time.Now().Add(lull)) // also for what no handler reads
		c.Request.Body = &slowBody{c.Request.Body, control}
	}
	c.Writer = &slowWriter{c.Writer, control}
}

type slowBody struct {
	io.ReadCloser
	control *http.ResponseController
}

func (b *slowBody) Read(p []byte) (int, error) {
	b.control.SetReadDeadline(time.Now().Add(lull))
	n, err := b.ReadCloser.Read(p)
	switch {
	case err == io.EOF: // it is there: what the handler does with it may take longer
		b.control.SetReadDeadline(time.Time{})
	case err != nil: // nobody waits for the rest
		b.control.SetReadDeadline(time.Now())
	}
	return n, err
}

type slowWriter struct {
	gin.ResponseWriter
	control *http.ResponseController
}

func (w *slowWriter) Write(p []byte) (int, error) {
	w.control.SetWriteDeadline(time.Now().Add(lull))
	return w.ResponseWriter.Write(p)
}

func (w *slowWriter) WriteString(s string) (int, error) {
	w.control.SetWriteDeadline(time.Now().Add(lull))
	return w.ResponseWriter.WriteString(s)
}

// Unwrap gives the writer below, for http.ResponseController.
func (w *slowWriter) Unwrap() http.ResponseWriter { return w.ResponseWriter }

// printable reports whether a name is text that every program can show and store.
func printable(name string) bool {
	return utf8.ValidString(name) && strings.IndexFunc(name, unicode.IsControl) < 0
}
