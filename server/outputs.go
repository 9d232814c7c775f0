package server

import (
	"errors"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"unicode"

	"github.com/gin-gonic/gin"

	"slowreveal/core/caption"
	"slowreveal/core/reveal"
	"slowreveal/core/timecode"
	"slowreveal/encode"
	"slowreveal/release"
	"slowreveal/store"
)

func (s *Server) outputRoutes() []route {
	return []route{
		get("/projects/{id}/outputs", "listOutputs", s.listOutputs).gives([]store.Output{}).
			says("The outputs of a project, the newest first."),
		get("/release/formats", "releaseFormats", s.releaseFormats).gives([]encode.Format{}).
			says("The video formats that this machine can make."),
		post("/reveals/{id}/outputs", "orderOutputs", s.orderOutputs).takes(Order{}).makes([]store.Output{}).
			says("Queues outputs of the reveal as it is now, all or none."),
		post(
			"/reveals/{id}/outputs/estimate",
			"expectOutput",
			s.expectOutput,
		).takes(release.Settings{}).
			gives(Expected{}).
			says("What an output would be: frames, length, about how large and how long to make; nothing is queued."),
		post("/reveals/{id}/outputs/layout", "layOutSheet", s.layOutSheet).takes(release.Settings{}).
			gives(release.Laid{}).
			says("A drawing sheet as it would be made, and where its item references stand; nothing is queued."),
		post("/outputs/{id}/cancel", "cancelOutput", s.cancelOutput).
			says("Stops an output."),
		post("/outputs/{id}/pause", "pauseOutput", s.pauseOutput).
			says("Lets an output wait."),
		post("/outputs/{id}/retry", "retryOutput", s.retryOutput).
			says("Goes on with an output that is paused, or begins again one that failed or was cancelled."),
		post("/outputs/{id}/kept", "keepOutput", s.keepOutput).takes(KeptOutput{}).
			says("Says whether an output stays when old ones are removed."),
		del("/outputs/{id}", "deleteOutput", s.deleteOutput).
			says("Removes an output and its file."),
		get("/outputs/{id}/picture", "outputPicture", s.outputPicture).sends("image/jpeg").
			says("A small picture of the output; while it is being made, of the frame made last."),
		get("/outputs/{id}/captions", "outputCaptions", s.outputCaptions).sends("text/vtt").
			says("The steps' words of a film as WebVTT."),
		get("/outputs/{id}/file", "outputFile", s.outputFile).sends("application/octet-stream").
			says("The finished file; ranges are served."),
	}
}

// Order asks for outputs that are made of one reveal.
type Order struct {
	Outputs []release.Settings `json:"outputs"`
	// Variants are those of the product in each of which they are made, by id, "-" for the whole one; without them each
	// output is in the variant that it names, or that the reveal is for.
	Variants []string `json:"variants,omitempty"`
	// By is the name of whoever wants them.
	By string `json:"by,omitempty"`
}

// maxOrder bounds how many outputs are ordered at once.
const maxOrder = 50

func (s *Server) orderOutputs(c *gin.Context) {
	key, ok := id(c, "id")
	var order Order
	if !ok || !read(c, &order) {
		return
	}
	if n := len(order.Outputs) * max(1, len(order.Variants)); n == 0 || n > maxOrder || len(order.By) > 80 {
		refuse(c, http.StatusUnprocessableEntity, "order", "between 1 and 50 outputs can be ordered at once")
		return
	}
	outputs := release.InVariants(order.Outputs, order.Variants)
	list, err := s.queue.Order(c.Request.Context(), key, order.By, outputs...)
	answer(c, http.StatusCreated, list, err)
}

// Expected is what an output would be.
type Expected struct {
	Frames int           `json:"frames"`
	Length reveal.Micros `json:"length"`
	// Timecode is that of the film's end: hours, minutes, seconds and frames, by drop-frame
	// counting where the rate asks for it (then the last colon is a semicolon).
	Timecode string `json:"timecode"`
	// Bytes and Seconds are guesses; from what such outputs took here when Learned.
	Bytes   float64 `json:"bytes"`
	Seconds float64 `json:"seconds"`
	Learned bool    `json:"learned"`
	// Lacks are signs in the film's words for which there is no font.
	Lacks string `json:"lacks"`
	// TooFast are the captions that stand too short to be read.
	TooFast []Unreadable `json:"tooFast"`
}

// Unreadable is a step whose words stand too short.
type Unreadable struct {
	Step  reveal.StepID `json:"step"`
	Title string        `json:"title"`
	Needs reveal.Micros `json:"needs"`
	Has   reveal.Micros `json:"has"`
}

// usualPace is how long a million pixels of a frame take before anything was learned, s: the
// example on two cores, no source.
const usualPace = 0.025

func (s *Server) expectOutput(c *gin.Context) {
	key, ok := id(c, "id")
	var settings release.Settings
	if !ok || !read(c, &settings) {
		return
	}
	_, works, err := s.queue.Plan(c.Request.Context(), key, settings)
	if err != nil {
		fail(c, err)
		return
	}
	w := works[0]
	out := Expected{
		Frames:   w.Frames(),
		Length:   w.Length(),
		Timecode: timecode.SMPTE(w.Frames(), w.Rate()),
		TooFast:  []Unreadable{},
	}
	pixels := float64(out.Frames) * float64(w.Settings.Width) * float64(w.Settings.Height)
	past, err := s.store.Experience(
		c.Request.Context(),
		string(w.Settings.Kind),
		w.Settings.Format,
		string(w.Settings.Purpose),
	)
	if err != nil {
		fail(c, err)
		return
	}
	if past.Pixels > 0 {
		out.Seconds, out.Bytes, out.Learned = past.Seconds/past.Pixels*pixels, past.Bytes/past.Pixels*pixels, true
	} else {
		out.Seconds = usualPace * pixels / 1e6
		if f, err := encode.Lookup(w.Settings.Format); err == nil {
			out.Bytes = pixels * f.BitsPerPixel / 8
		}
	}
	if w.Settings.Kind == release.Film && settings.Captions || w.Settings.Kind == release.Captions {
		cues := w.Cues()
		for _, h := range caption.Check(cues) {
			q := cues[h.Cue]
			out.TooFast = append(out.TooFast, Unreadable{q.Step, q.Title, h.Needs, q.To - q.From})
		}
	}
	out.Seconds *= float64(w.Exposures())
	if out.Lacks, err = w.Lacks(); err != nil {
		fail(c, err)
		return
	}
	c.JSON(http.StatusOK, out)
}

// layOutSheet draws a sheet to be arranged by hand. One is drawn at a time.
func (s *Server) layOutSheet(c *gin.Context) {
	key, ok := id(c, "id")
	var settings release.Settings
	if !ok || !read(c, &settings) {
		return
	}
	ctx := c.Request.Context()
	_, works, err := s.queue.Plan(ctx, key, settings)
	if err != nil {
		fail(c, err)
		return
	}
	select {
	case s.drawing <- struct{}{}:
	case <-ctx.Done():
		return
	}
	defer func() { <-s.drawing }()
	laid, err := works[0].Lay(ctx)
	if err != nil && ctx.Err() == nil {
		refuse(c, http.StatusUnprocessableEntity, "sheet", err.Error())
		return
	}
	answer(c, http.StatusOK, laid, err)
}

func (s *Server) releaseFormats(c *gin.Context) {
	list, err := encode.Available(c.Request.Context())
	if errors.Is(err, encode.ErrNoFFmpeg) {
		refuse(c, http.StatusServiceUnavailable, "ffmpeg", err.Error())
		return
	}
	answer(c, http.StatusOK, list, err)
}

func (s *Server) listOutputs(c *gin.Context) {
	if key, ok := id(c, "id"); ok {
		list, err := s.authoring.Outputs(c.Request.Context(), key)
		answer(c, http.StatusOK, list, err)
	}
}

func (s *Server) cancelOutput(c *gin.Context) {
	if key, ok := id(c, "id"); ok {
		done(c, s.queue.Cancel(c.Request.Context(), key))
	}
}

func (s *Server) pauseOutput(c *gin.Context) {
	if key, ok := id(c, "id"); ok {
		done(c, s.queue.Pause(c.Request.Context(), key))
	}
}

func (s *Server) retryOutput(c *gin.Context) {
	if key, ok := id(c, "id"); ok {
		done(c, s.queue.Resume(c.Request.Context(), key))
	}
}

// KeptOutput says whether an output stays.
type KeptOutput struct {
	Kept bool `json:"kept"`
}

func (s *Server) keepOutput(c *gin.Context) {
	var keep KeptOutput
	if o, ok := s.output(c); ok && read(c, &keep) {
		done(c, s.store.KeepOutput(c.Request.Context(), o, keep.Kept))
	}
}

func (s *Server) deleteOutput(c *gin.Context) {
	if o, ok := s.output(c); ok {
		done(c, s.store.DeleteOutput(c.Request.Context(), o))
	}
}

func (s *Server) output(c *gin.Context) (store.Output, bool) {
	key, ok := id(c, "id")
	if !ok {
		return store.Output{}, false
	}
	o, err := s.authoring.Output(c.Request.Context(), key)
	if err != nil {
		fail(c, err)
	}
	return o, err == nil
}

func (s *Server) outputFile(c *gin.Context) {
	o, ok := s.output(c)
	if !ok {
		return
	}
	if o.State != store.Done {
		refuse(c, http.StatusNotFound, "unfinished", "this output is not finished")
		return
	}
	c.Header("Content-Type", o.Media)
	if c.Query("download") != "" {
		c.Header("Content-Disposition", disposition(o.Title, filepath.Ext(o.File)))
	}
	if strings.HasPrefix(o.Media, "text/html") {
		c.Header("Content-Security-Policy", pagePolicy)
	}
	c.File(s.store.OutputPath(o))
}

// pagePolicy lets a client page run as it will for the client, who has it in a file: with its own scripts, but in no
// origin, so that it reaches nothing of this server.
const pagePolicy = "sandbox allow-scripts allow-modals; default-src 'none'; script-src 'unsafe-inline' 'wasm-unsafe-eval' blob:; " +
	"style-src 'unsafe-inline'; img-src data: blob:; font-src data:"

// disposition gives a download its name (RFC 6266): in letters that every program reads and, where
// those are not all of it, in its own (RFC 5987).
func disposition(title, ending string) string {
	plain := release.FileName(title) + ending
	own := url.PathEscape(strings.Map(func(r rune) rune {
		if unicode.IsControl(r) || strings.ContainsRune(`/\:*?"<>|`, r) {
			return '-'
		}
		return r
	}, title) + ending)
	if own == plain {
		return `attachment; filename="` + plain + `"`
	}
	return `attachment; filename="` + plain + `"; filename*=UTF-8''` + own
}

// outputPicture serves the small picture of an output: of one that is being made, the frame
// that was made last.
func (s *Server) outputPicture(c *gin.Context) {
	o, ok := s.output(c)
	if !ok {
		return
	}
	path := s.store.PicturePath(o)
	if o.State != store.Done {
		path = s.store.FramePath(o)
	}
	if _, err := os.Stat(path); err != nil { // there is none yet, which is nothing wrong
		c.Status(http.StatusNoContent)
		return
	}
	c.File(path)
}

// outputCaptions serves the steps' words beside a finished film, for players.
func (s *Server) outputCaptions(c *gin.Context) {
	o, ok := s.output(c)
	if !ok {
		return
	}
	cues, err := s.queue.Captions(c.Request.Context(), o)
	if err != nil {
		fail(c, err)
		return
	}
	c.Data(http.StatusOK, "text/vtt; charset=utf-8", []byte(caption.WebVTT(cues)))
}
