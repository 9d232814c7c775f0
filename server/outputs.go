package server

import (
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"

	"slowreveal/core/caption"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/encode"
	"slowreveal/release"
	"slowreveal/render"
	"slowreveal/store"
)

// Order asks for outputs that are made of one reveal.
type Order struct {
	Outputs []release.Settings `json:"outputs"`
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
	if len(order.Outputs) == 0 || len(order.Outputs) > maxOrder || len(order.By) > 80 {
		refuse(c, http.StatusUnprocessableEntity, "order", "between 1 and 50 outputs can be ordered at once")
		return
	}
	list, err := s.queue.Order(c, key, order.By, order.Outputs...)
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
	// Hasty are the captions that stand too short to be read.
	Hasty []Unreadable `json:"hasty"`
}

// Unreadable is a step whose words stand too short.
type Unreadable struct {
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
	_, works, err := s.queue.Plan(c, key, settings)
	if err != nil {
		fail(c, err)
		return
	}
	w := works[0]
	out := Expected{Frames: w.Frames(), Length: w.Length(), Timecode: film.SMPTE(w.Frames(), w.Rate()), Hasty: []Unreadable{}}
	pixels := float64(out.Frames) * float64(w.Settings.Width) * float64(w.Settings.Height)
	past, err := s.store.Experience(c, string(w.Settings.Kind), w.Settings.Format, string(w.Settings.Purpose))
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
			out.Hasty = append(out.Hasty, Unreadable{q.Title, h.Needs, q.To - q.From})
		}
	}
	out.Seconds *= float64(w.Exposures())
	if w.Settings.Kind != release.GLB && w.Settings.Kind != release.Captions {
		if out.Lacks, err = w.Lacks(); err != nil {
			fail(c, err)
			return
		}
	}
	c.JSON(http.StatusOK, out)
}

func (s *Server) releaseFormats(c *gin.Context) {
	list, err := encode.Available(c)
	if errors.Is(err, encode.ErrNoFFmpeg) {
		refuse(c, http.StatusServiceUnavailable, "ffmpeg", err.Error())
		return
	}
	answer(c, http.StatusOK, list, err)
}

func (s *Server) listOutputs(c *gin.Context) {
	if key, ok := id(c, "id"); ok {
		list, err := s.store.Outputs(c, key)
		answer(c, http.StatusOK, list, err)
	}
}

func (s *Server) cancelOutput(c *gin.Context) {
	if key, ok := id(c, "id"); ok {
		done(c, s.queue.Cancel(c, key))
	}
}

func (s *Server) pauseOutput(c *gin.Context) {
	if key, ok := id(c, "id"); ok {
		done(c, s.queue.Pause(c, key))
	}
}

func (s *Server) retryOutput(c *gin.Context) {
	if key, ok := id(c, "id"); ok {
		done(c, s.queue.Resume(c, key))
	}
}

// KeptOutput says whether an output stays.
type KeptOutput struct {
	Kept bool `json:"kept"`
}

func (s *Server) keepOutput(c *gin.Context) {
	var keep KeptOutput
	if o, ok := s.output(c); ok && read(c, &keep) {
		done(c, s.store.KeepOutput(c, o, keep.Kept))
	}
}

func (s *Server) deleteOutput(c *gin.Context) {
	if o, ok := s.output(c); ok {
		done(c, s.store.DeleteOutput(c, o))
	}
}

func (s *Server) output(c *gin.Context) (store.Output, bool) {
	key, ok := id(c, "id")
	if !ok {
		return store.Output{}, false
	}
	o, err := s.store.Output(c, key)
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
	if o.State != "done" {
		refuse(c, http.StatusNotFound, "unfinished", "this output is not finished")
		return
	}
	c.Header("Content-Type", o.Media)
	if c.Query("download") != "" {
		c.Header("Content-Disposition", `attachment; filename="`+release.FileName(o.Title)+filepath.Ext(o.File)+`"`)
	}
	c.File(s.store.OutputPath(o))
}

// outputPicture serves the small picture of an output: of one that is being made, the frame
// that was made last.
func (s *Server) outputPicture(c *gin.Context) {
	o, ok := s.output(c)
	if !ok {
		return
	}
	path := s.store.PicturePath(o)
	if o.State != "done" {
		path = s.store.FramePath(o)
	}
	if _, err := os.Stat(path); err != nil {
		refuse(c, http.StatusNotFound, "picture", "there is no picture of this output yet")
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
	cues, err := s.queue.Captions(c, o)
	if err != nil {
		fail(c, err)
		return
	}
	c.Data(http.StatusOK, "text/vtt; charset=utf-8", []byte(caption.WebVTT(cues)))
}

func (s *Server) listAttachments(c *gin.Context) {
	if key, ok := id(c, "id"); ok {
		list, err := s.store.Attachments(c, key)
		answer(c, http.StatusOK, list, err)
	}
}

func (s *Server) attach(c *gin.Context) {
	key, ok := id(c, "id")
	if !ok {
		return
	}
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, store.MaxAttachment+1<<20)
	head, err := c.FormFile("file")
	if err != nil {
		refuse(c, http.StatusUnprocessableEntity, "file", "a file of at most 200 MB is needed")
		return
	}
	kind := c.PostForm("kind")
	if !slices.Contains([]string{"sound", "logo", "picture", "font"}, kind) {
		refuse(c, http.StatusUnprocessableEntity, "kind", "an attachment is a sound, a logo, a picture or a font")
		return
	}
	if _, err := s.store.Project(c, key); err != nil {
		fail(c, err)
		return
	}
	file, err := head.Open()
	if err != nil {
		fail(c, err)
		return
	}
	defer file.Close()
	name := strings.Map(func(r rune) rune {
		if r < ' ' {
			return -1
		}
		return r
	}, filepath.Base(head.Filename))
	a, err := s.store.Attach(c, store.Attachment{ProjectID: key, Name: string([]rune(name)[:min(len([]rune(name)), 120)]), Kind: kind}, file, func(path string, a *store.Attachment) error {
		if err := examine(c, path, a); err != nil {
			return &store.Refused{Cause: err}
		}
		return nil
	})
	answer(c, http.StatusCreated, a, err)
}

// examine looks into an attachment before it is taken.
func examine(c *gin.Context, path string, a *store.Attachment) error {
	if a.Kind == "sound" {
		heard, err := encode.Listen(c, path)
		a.Length = int64(heard.Length)
		return err
	}
	if a.Kind == "font" {
		if a.Bytes > release.MaxFont {
			return fmt.Errorf("a font may have %d MB", release.MaxFont>>20)
		}
		data, err := os.ReadFile(path)
		if err == nil {
			_, err = render.ReadFont(data)
		}
		return err
	}
	f, err := os.Open(path)
	if err != nil {
		return err
	}
	defer f.Close()
	if a.Kind == "logo" {
		_, err = render.ReadLogo(f, render.LowerRight)
	} else {
		_, err = render.ReadImage(f, "background")
	}
	return err
}

// NewPreset asks for a set of outputs to be kept.
type NewPreset struct {
	Name    string             `json:"name"`
	Outputs []release.Settings `json:"outputs"`
}

func (s *Server) listPresets(c *gin.Context) {
	if key, ok := id(c, "id"); ok {
		list, err := s.store.Presets(c, key)
		answer(c, http.StatusOK, list, err)
	}
}

func (s *Server) savePreset(c *gin.Context) {
	key, ok := id(c, "id")
	var p NewPreset
	if !ok || !read(c, &p) {
		return
	}
	p.Name = strings.TrimSpace(p.Name)
	if p.Name == "" || len(p.Name) > release.MaxName || len(p.Outputs) == 0 || len(p.Outputs) > maxOrder {
		refuse(c, http.StatusUnprocessableEntity, "preset", "a set of outputs needs a name and between 1 and 50 outputs")
		return
	}
	text, err := json.Marshal(p.Outputs)
	if err != nil {
		fail(c, err)
		return
	}
	saved, err := s.store.SavePreset(c, store.Preset{ProjectID: key, Name: p.Name, Settings: store.RawText(text)})
	answer(c, http.StatusCreated, saved, err)
}

func (s *Server) deletePreset(c *gin.Context) {
	if key, ok := id(c, "id"); ok {
		done(c, s.store.DeletePreset(c, key))
	}
}
