package server

import (
	"context"
	"encoding/json"
	"net/http"
	"regexp"
	"time"

	"github.com/gin-gonic/gin"

	"slowreveal/core/arrange"
	"slowreveal/core/assembly"
	"slowreveal/core/clearance"
	"slowreveal/core/proof"
	"slowreveal/core/solid"
	"slowreveal/core/survey"
	"slowreveal/encode"
	"slowreveal/formats"
	"slowreveal/release"
	"slowreveal/store"
)

// route is one operation of the API. body and reply are values of the types
// that travel; nil means none, and the content types say what else does.
type route struct {
	method, path, name, summary string
	body, reply                 any
	bodyType, replyType         string
	status                      int
	handle                      gin.HandlerFunc
}

// ProjectPage is everything that a page needs to open a project.
type ProjectPage struct {
	Project  store.Project        `json:"project"`
	Revision store.Revision       `json:"revision"`
	Arranged Arranged             `json:"arranged"`
	Reveals  []store.StoredReveal `json:"reveals"`
}

// Arranged is a project's assembly as it has been arranged.
type Arranged struct {
	Assembly    *assembly.Assembly `json:"assembly"`
	Arrangement store.Arrangement  `json:"arrangement"`
	// Geometry is the address of its shapes; it changes with them.
	Geometry string `json:"geometry"`
}

// Rearrange asks for an edit on a version of an arrangement; undo and redo need
// the version alone.
type Rearrange struct {
	Version int64         `json:"version"`
	Edit    *arrange.Edit `json:"edit,omitempty"`
}

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

// OnVersion asks for something that is done to a version of a reveal.
type OnVersion struct {
	Version int64 `json:"version"`
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

// ShapeFeatures are the features of one shape.
type ShapeFeatures struct {
	Features []solid.Feature `json:"features"`
	// Of gives each triangle the index of its feature, −1 for none.
	Of []int32 `json:"of"`
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

const jsonType = "application/json"

func (s *Server) routes() []route {
	return []route{
		{
			"GET",
			"/health",
			"health",
			"Whether the server and its database answer.",
			nil,
			Health{},
			"",
			jsonType,
			200,
			s.health,
		},
		{
			"GET",
			"/projects",
			"listProjects",
			"All projects, the newest first.",
			nil,
			[]store.Project{},
			"",
			jsonType,
			200,
			s.listProjects,
		},
		{
			"GET",
			"/imports",
			"listImports",
			"The imports on their way, those that failed, and those just done, the newest first.",
			nil,
			[]store.Import{},
			"",
			jsonType,
			200,
			s.listImports,
		},
		{
			"POST",
			"/imports",
			"takeImport",
			"Queues files that are one assembly together; form fields files, name, unit, up, detail.",
			nil,
			store.Import{},
			"multipart/form-data",
			jsonType,
			201,
			s.takeImport,
		},
		{"POST", "/imports/{id}/cancel", "cancelImport", "Stops an import.", nil, nil, "", "", 204, s.cancelImport},
		{
			"POST",
			"/imports/{id}/retry",
			"retryImport",
			"Queues a failed or cancelled import again.",
			nil,
			nil,
			"",
			"",
			204,
			s.retryImport,
		},
		{
			"DELETE",
			"/imports/{id}",
			"deleteImport",
			"Forgets an import that failed or was cancelled.",
			nil,
			nil,
			"",
			"",
			204,
			s.deleteImport,
		},
		{
			"POST",
			"/projects/{id}/imports",
			"reread",
			"Reads a project's files once more, with another unit, axis or detail.",
			formats.Options{},
			store.Import{},
			jsonType,
			jsonType,
			201,
			s.reread,
		},
		{
			"GET",
			"/projects/{id}",
			"openProject",
			"A project with its newest assembly and its reveals.",
			nil,
			ProjectPage{},
			"",
			jsonType,
			200,
			s.openProject,
		},
		{
			"GET",
			"/projects/{id}/picture",
			"projectPicture",
			"The product at rest, small (PNG).",
			nil,
			nil,
			"",
			"image/png",
			200,
			s.projectPicture,
		},
		{
			"DELETE",
			"/projects/{id}",
			"deleteProject",
			"Deletes a project with all that is in it.",
			nil,
			nil,
			"",
			"",
			204,
			s.deleteProject,
		},
		{
			"GET",
			"/projects/{id}/reveals",
			"listReveals",
			"The reveals of a project, without their documents.",
			nil,
			[]store.StoredReveal{},
			"",
			jsonType,
			200,
			s.listReveals,
		},
		{
			"POST",
			"/projects/{id}/reveals",
			"createReveal",
			"Adds an empty reveal.",
			NewReveal{},
			store.StoredReveal{},
			jsonType,
			jsonType,
			201,
			s.createReveal,
		},
		{
			"POST",
			"/projects/{id}/reveals/import",
			"bringReveal",
			"Adds a reveal from a document; what does not match the assembly is left out and named.",
			BringReveal{},
			BroughtReveal{},
			jsonType,
			jsonType,
			201,
			s.bringReveal,
		},
		{
			"GET",
			"/projects/{id}/outputs",
			"listOutputs",
			"The outputs of a project, the newest first.",
			nil,
			[]store.Output{},
			"",
			jsonType,
			200,
			s.listOutputs,
		},
		{
			"GET",
			"/revisions/{revision}/geometry",
			"geometry",
			"All shapes of a revision, one after the other (docs/formats.md).",
			nil,
			nil,
			"",
			"application/octet-stream",
			200,
			s.geometry,
		},
		{
			"POST",
			"/projects/{id}/arrange",
			"arrange",
			"Adds an edit to the project's arrangement. What a split or “tell apart” needs is computed.",
			Rearrange{},
			Arranged{},
			jsonType,
			jsonType,
			200,
			s.arrange,
		},
		{
			"POST",
			"/projects/{id}/arrange/undo",
			"undoArrange",
			"Takes the arrangement's last edit off.",
			Rearrange{},
			Arranged{},
			jsonType,
			jsonType,
			200,
			s.undoArrange,
		},
		{
			"POST",
			"/projects/{id}/arrange/redo",
			"redoArrange",
			"Brings the edit back that was taken off last.",
			Rearrange{},
			Arranged{},
			jsonType,
			jsonType,
			200,
			s.redoArrange,
		},
		{
			"GET",
			"/projects/{id}/survey",
			"survey",
			"What is known of the parts: measures, families, fasteners, contacts.",
			nil,
			survey.Survey{},
			"",
			jsonType,
			200,
			s.survey,
		},
		{
			"GET",
			"/shapes/{hash}/features",
			"features",
			"The planes, cylinders and edges of a shape, and which triangle belongs to which.",
			nil,
			ShapeFeatures{},
			"",
			jsonType,
			200,
			s.features,
		},
		{
			"GET",
			"/projects/{id}/events",
			"events",
			"Changes as they happen (server-sent events).",
			nil,
			store.Event{},
			"",
			"text/event-stream",
			200,
			s.stream,
		},
		{
			"GET",
			"/reveals/{id}",
			"openReveal",
			"A reveal with its document.",
			nil,
			OpenedReveal{},
			"",
			jsonType,
			200,
			s.openReveal,
		},
		{
			"GET",
			"/reveals/{id}/steps/{step}/picture",
			"stepPicture",
			"How a step ends, small (PNG).",
			nil,
			nil,
			"",
			"image/png",
			200,
			s.stepPicture,
		},
		{
			"GET",
			"/reveals/{id}/entries",
			"entries",
			"What has happened to a reveal after version ?after=.",
			nil,
			Changed{},
			"",
			jsonType,
			200,
			s.entries,
		},
		{
			"POST",
			"/reveals/{id}/commands",
			"changeReveal",
			"Applies edits on top of what others have done since the version; 409 when the first of them touches the same.",
			Change{},
			Changed{},
			jsonType,
			jsonType,
			200,
			s.changeReveal,
		},
		{
			"POST",
			"/reveals/{id}/undo",
			"undo",
			"Reverses the last change of who asks; 409 when others have changed the same since.",
			Reverse{},
			Changed{},
			jsonType,
			jsonType,
			200,
			s.undo,
		},
		{
			"POST",
			"/reveals/{id}/redo",
			"redo",
			"Reverses the last undo of who asks.",
			Reverse{},
			Changed{},
			jsonType,
			jsonType,
			200,
			s.redo,
		},
		{
			"DELETE",
			"/reveals/{id}",
			"deleteReveal",
			"Takes a reveal away; it can be brought back.",
			nil,
			nil,
			"",
			"",
			204,
			s.deleteReveal,
		},
		{
			"POST",
			"/reveals/{id}/restore",
			"bringBack",
			"Brings a deleted reveal back.",
			nil,
			nil,
			"",
			"",
			204,
			s.bringBack,
		},
		{
			"POST",
			"/reveals/{id}/reverse",
			"reversed",
			"Adds a reveal that shows this one backwards.",
			nil,
			store.StoredReveal{},
			"",
			jsonType,
			201,
			s.reversed,
		},
		{
			"POST",
			"/reveals/{id}/versions",
			"nameVersion",
			"Gives the present state a name.",
			NewVersion{},
			store.Version{},
			jsonType,
			jsonType,
			201,
			s.nameVersion,
		},
		{
			"GET",
			"/reveals/{id}/versions",
			"versions",
			"The named versions, the newest first.",
			nil,
			[]store.Version{},
			"",
			jsonType,
			200,
			s.versions,
		},
		{
			"GET",
			"/versions/{id}/differences",
			"differences",
			"What has changed since a named version, to another one (?to=) or to the present.",
			nil,
			Differences{},
			"",
			jsonType,
			200,
			s.differences,
		},
		{
			"POST",
			"/versions/{id}/restore",
			"goBack",
			"Makes the reveal what this version of it was, as an edit that can be undone.",
			OnVersion{},
			Changed{},
			jsonType,
			jsonType,
			200,
			s.goBack,
		},
		{
			"POST",
			"/reveals/{id}/presence",
			"announce",
			"Tells the other pages where somebody is.",
			store.Presence{},
			nil,
			jsonType,
			"",
			204,
			s.announce,
		},
		{
			"POST",
			"/reveals/{id}/clearance",
			"clearance",
			"How far parts go in some directions, at a time of the reveal, before they touch what stays; as application/x-ndjson each as soon as it is found.",
			Reach{},
			[]clearance.Way{},
			jsonType,
			jsonType,
			200,
			s.clearance,
		},
		{
			"GET",
			"/reveals/{id}/proof",
			"proveReveal",
			"What is wrong with the reveal as it is stored, or how far looking at it has come: ask again.",
			nil,
			ProofState{},
			"",
			jsonType,
			200,
			s.proof,
		},
		{
			"GET",
			"/reveals/{id}/proof/{version}/{finding}/picture",
			"findingPicture",
			"A finding of a version, by its key, small (PNG); with mend, a number from 0, as it would be after that.",
			nil,
			nil,
			"",
			"image/png",
			200,
			s.findingPicture,
		},
		{
			"GET",
			"/reveals/{id}/proof/page",
			"proofPage",
			"What is wrong with the reveal as it is stored, as a page to hand on (HTML).",
			nil,
			nil,
			"",
			"text/html",
			200,
			s.proofPage,
		},
		{
			"POST",
			"/reveals/{id}/plan",
			"planReveal",
			"Plans the teardown of what stands where a step of the reveal ends, in the background; an older plan ends.",
			PlanRequest{},
			PlanState{},
			jsonType,
			jsonType,
			200,
			s.planReveal,
		},
		{
			"GET",
			"/reveals/{id}/plan",
			"revealPlan",
			"The reveal's plan, as far as it has come: ask again until it is done.",
			nil,
			PlanState{},
			"",
			jsonType,
			200,
			s.planned,
		},
		{
			"DELETE",
			"/reveals/{id}/plan",
			"stopPlan",
			"Ends planning: what has been found stays.",
			nil,
			PlanState{},
			"",
			jsonType,
			200,
			s.stopPlan,
		},
		{
			"POST",
			"/projects/{id}/firstfilm",
			"makeFirstFilm",
			"Plans a teardown of the project's assembly and makes a reveal of it, in the background.",
			nil,
			PlanState{},
			"",
			jsonType,
			200,
			s.makeFirstFilm,
		},
		{
			"GET",
			"/projects/{id}/firstfilm",
			"firstFilm",
			"How far the first film has come: ask again until it is done.",
			nil,
			PlanState{},
			"",
			jsonType,
			200,
			s.planned,
		},
		{
			"GET",
			"/proof/checks",
			"listChecks",
			"What is looked for in films.",
			nil,
			[]proof.Check{},
			"",
			jsonType,
			200,
			s.checks,
		},
		{
			"GET",
			"/release/formats",
			"releaseFormats",
			"The video formats that this machine can make.",
			nil,
			[]encode.Format{},
			"",
			jsonType,
			200,
			s.releaseFormats,
		},
		{
			"POST",
			"/reveals/{id}/outputs",
			"orderOutputs",
			"Queues outputs of the reveal as it is now, all or none.",
			Order{},
			[]store.Output{},
			jsonType,
			jsonType,
			201,
			s.orderOutputs,
		},
		{
			"POST",
			"/reveals/{id}/outputs/estimate",
			"expectOutput",
			"What an output would be: frames, length, about how large and how long to make; nothing is queued.",
			release.Settings{},
			Expected{},
			jsonType,
			jsonType,
			200,
			s.expectOutput,
		},
		{"POST", "/outputs/{id}/cancel", "cancelOutput", "Stops an output.", nil, nil, "", "", 204, s.cancelOutput},
		{"POST", "/outputs/{id}/pause", "pauseOutput", "Lets an output wait.", nil, nil, "", "", 204, s.pauseOutput},
		{
			"POST",
			"/outputs/{id}/retry",
			"retryOutput",
			"Goes on with an output that is paused, or begins again one that failed or was cancelled.",
			nil,
			nil,
			"",
			"",
			204,
			s.retryOutput,
		},
		{
			"POST",
			"/outputs/{id}/kept",
			"keepOutput",
			"Says whether an output stays when old ones are removed.",
			KeptOutput{},
			nil,
			jsonType,
			"",
			204,
			s.keepOutput,
		},
		{
			"DELETE",
			"/outputs/{id}",
			"deleteOutput",
			"Removes an output and its file.",
			nil,
			nil,
			"",
			"",
			204,
			s.deleteOutput,
		},
		{
			"GET",
			"/outputs/{id}/proof",
			"outputProof",
			"What was wrong with what the output was made of, what was accepted, and what was looked for.",
			nil,
			OutputProof{},
			"",
			jsonType,
			200,
			s.outputProof,
		},
		{
			"GET",
			"/outputs/{id}/proof/page",
			"outputProofPage",
			"The same as a page to hand on (HTML).",
			nil,
			nil,
			"",
			"text/html",
			200,
			s.outputProofPage,
		},
		{
			"GET",
			"/outputs/{id}/picture",
			"outputPicture",
			"A small picture of the output; while it is being made, of the frame made last.",
			nil,
			nil,
			"",
			"image/jpeg",
			200,
			s.outputPicture,
		},
		{
			"GET",
			"/outputs/{id}/captions",
			"outputCaptions",
			"The steps' words of a film as WebVTT.",
			nil,
			nil,
			"",
			"text/vtt",
			200,
			s.outputCaptions,
		},
		{
			"GET",
			"/outputs/{id}/file",
			"outputFile",
			"The finished file; ranges are served.",
			nil,
			nil,
			"",
			"application/octet-stream",
			200,
			s.outputFile,
		},
		{
			"GET",
			"/projects/{id}/attachments",
			"listAttachments",
			"Sounds, logos, pictures and fonts, the newest first.",
			nil,
			[]store.Attachment{},
			"",
			jsonType,
			200,
			s.listAttachments,
		},
		{
			"POST",
			"/projects/{id}/attachments",
			"attach",
			"Takes a sound, logo, picture or font; form fields kind and, behind it, file.",
			nil,
			store.Attachment{},
			"multipart/form-data",
			jsonType,
			201,
			s.attach,
		},
		{
			"DELETE",
			"/attachments/{id}",
			"deleteAttachment",
			"Removes a sound, logo, picture or font, unless an output that is being made uses it.",
			nil,
			nil,
			"",
			"",
			204,
			s.deleteAttachment,
		},
		{
			"GET",
			"/projects/{id}/presets",
			"listPresets",
			"Sets of outputs that are ordered together.",
			nil,
			[]store.Preset{},
			"",
			jsonType,
			200,
			s.listPresets,
		},
		{
			"POST",
			"/projects/{id}/presets",
			"savePreset",
			"Keeps a set of outputs under a name; one of the same name is replaced.",
			NewPreset{},
			store.Preset{},
			jsonType,
			jsonType,
			201,
			s.savePreset,
		},
		{"DELETE", "/presets/{id}", "deletePreset", "Forgets a set of outputs.", nil, nil, "", "", 204, s.deletePreset},
	}
}

var braces = regexp.MustCompile(`\{(\w+)\}`)

func ginPath(path string) string { return braces.ReplaceAllString(path, ":$1") }

// Health says how the server is.
type Health struct {
	Status string `json:"status"`
}

// pulseFor is how long the database has to answer before it counts as away.
const pulseFor = 800 * time.Millisecond

// health asks over a connection of its own: it answers however busy everything else is.
func (s *Server) health(c *gin.Context) {
	ctx, cancel := context.WithTimeout(c.Request.Context(), pulseFor)
	defer cancel()
	if err := s.store.Pulse(ctx); err != nil {
		c.Header("Retry-After", "2")
		refuse(c, http.StatusServiceUnavailable, "away", "the database does not answer")
		return
	}
	c.JSON(http.StatusOK, Health{"ok"})
}
