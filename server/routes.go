package server

import (
	"net/http"
	"regexp"
	"slices"

	"github.com/gin-gonic/gin"
)

// route is one operation of the API. body and reply are values of the types that travel; nil means none, and
// the content types say what else does.
type route struct {
	method, path, name, summary string
	body, reply                 any
	bodyType, replyType         string
	status                      int
	queries                     []asked
	handle                      gin.HandlerFunc
}

const jsonType = "application/json"

func get(path, name string, handle gin.HandlerFunc) route { return routeOf("GET", path, name, handle) }
func post(path, name string, handle gin.HandlerFunc) route {
	return routeOf("POST", path, name, handle)
}
func del(path, name string, handle gin.HandlerFunc) route {
	return routeOf("DELETE", path, name, handle)
}

// routeOf is an operation that takes and gives nothing; what it does is added to it.
func routeOf(method, path, name string, handle gin.HandlerFunc) route {
	return route{method: method, path: path, name: name, status: http.StatusNoContent, handle: handle}
}

// says describes the operation in a sentence.
func (r route) says(summary string) route {
	r.summary = summary
	return r
}

// takes has it take a value as JSON.
func (r route) takes(body any) route {
	r.body, r.bodyType = body, jsonType
	return r
}

// takesForm has it take files and fields.
func (r route) takesForm() route {
	r.bodyType = "multipart/form-data"
	return r
}

// gives has it answer with a value as JSON.
func (r route) gives(reply any) route {
	r.reply, r.replyType, r.status = reply, jsonType, http.StatusOK
	return r
}

// makes has it answer with what it made, as JSON.
func (r route) makes(reply any) route {
	r = r.gives(reply)
	r.status = http.StatusCreated
	return r
}

// streams has it answer with events, each a value as JSON.
func (r route) streams(event any) route {
	r = r.gives(event)
	r.replyType = "text/event-stream"
	return r
}

// sends has it answer with a file of a content type.
func (r route) sends(contentType string) route {
	r.replyType, r.status = contentType, http.StatusOK
	return r
}

// asked is what an address may ask for behind its path.
type asked struct {
	name   string
	schema map[string]any
}

var (
	aNumber = map[string]any{"type": "integer"}
	aSwitch = map[string]any{"type": "boolean"}
	aText   = map[string]any{"type": "string"}
	anID    = map[string]any{"type": "string", "format": "uuid"}
)

// inVariant is one of the product's variants, by its id, in which a reveal is shown; "-" is the whole product, and
// nothing the variant that the reveal is for.
var inVariant = asked{"variant", aText}

func (r route) asks(queries ...asked) route {
	r.queries = queries
	return r
}

// routes is the whole API; each file has the operations that it handles.
func (s *Server) routes() []route {
	return slices.Concat(
		s.healthRoutes(),
		s.projectRoutes(),
		s.importRoutes(),
		s.pictureRoutes(),
		s.revealRoutes(),
		s.outputRoutes(),
		s.attachmentRoutes(),
		s.presetRoutes(),
		s.identityRoutes(),
		s.arrangeRoutes(),
		s.eventRoutes(),
		s.versionRoutes(),
		s.clearanceRoutes(),
		s.camRoutes(),
		s.revisedRoutes(),
		s.proofRoutes(),
		s.planRoutes(),
		s.outputProofRoutes(),
		s.renewalRoutes(),
	)
}

var braces = regexp.MustCompile(`\{(\w+)\}`)

func ginPath(path string) string { return braces.ReplaceAllString(path, ":$1") }
