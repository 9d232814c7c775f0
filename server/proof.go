package server

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image/png"
	"net/http"
	"slices"
	"strconv"
	"time"

	"github.com/gin-gonic/gin"

	"slowreveal/core/edit"
	"slowreveal/core/proof"
	"slowreveal/core/reveal"
	"slowreveal/core/variant"
	"slowreveal/prove"
	"slowreveal/store"
)

func (s *Server) proofRoutes() []route {
	return []route{
		get("/reveals/{id}/proof", "proveReveal", s.proof).gives(ProofState{}).asks(asked{"all", aSwitch}, inVariant).
			says("What is wrong with the reveal as it is stored, or how far looking at it has come: ask again."),
		get(
			"/reveals/{id}/proof/{version}/{finding}/picture",
			"findingPicture",
			s.findingPicture,
		).sends("image/png").
			asks(asked{"mend", aNumber}, inVariant).
			says("A finding of a version, by its key, small (PNG); with mend, a number from 0, as it would be after that."),
		get("/reveals/{id}/proof/page", "proofPage", s.proofPage).sends("text/html").asks(inVariant).
			says("What is wrong with the reveal as it is stored, as a page to hand on (HTML)."),
		get("/proof/checks", "listChecks", s.checks).gives([]proof.Check{}).
			says("What is looked for in films."),
	}
}

// ProofState is how far looking at a version of a reveal has come, and in the end what was found.
type ProofState struct {
	Version int64 `json:"version"`
	// Done is how much has been done, 0…1. Report is what has been found so far. Looked says that nothing more comes
	// but mends, one after the other until Done is 1.
	Done   float64        `json:"done"`
	Looked bool           `json:"looked"`
	Report *proof.Outcome `json:"report,omitempty"`
}

// proof answers with what was found in a reveal as it is stored, or how far looking at it has come: with what has to be
// seen and with mends where all is asked for, otherwise with what can be told from the movements. A newer version ends
// the look at the older one.
func (s *Server) proof(c *gin.Context) {
	key, ok := id(c, "id")
	if !ok {
		return
	}
	p, err := s.proving(c.Request.Context(), key, c.Query("variant"), c.Query("all") == "true")
	if err != nil {
		fail(c, err)
		return
	}
	select {
	case <-p.ended:
	case <-time.After(proofWait):
	case <-c.Request.Context().Done():
		return
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	// a newer version has ended it: who asks again is told of that
	if p.err != nil && !errors.Is(p.err, context.Canceled) {
		fail(c, p.err)
		return
	}
	c.JSON(http.StatusOK, ProofState{Version: p.version, Done: p.done, Looked: p.looked, Report: p.report})
}

// checks are what is looked for.
func (s *Server) checks(c *gin.Context) { c.JSON(http.StatusOK, proof.Checks) }

// findingPicture draws a finding of the version that the address names. It is kept by the page: a version's findings
// stay.
func (s *Server) findingPicture(c *gin.Context) {
	key, ok := id(c, "id")
	if !ok {
		return
	}
	version, err := strconv.ParseInt(c.Param("version"), 10, 64)
	if err != nil {
		fail(c, store.ErrMissing)
		return
	}
	on, err := s.stage(c.Request.Context(), key, c.Query("variant"))
	if err != nil {
		fail(c, err)
		return
	}
	s.proofs.mu.Lock()
	p := s.proofs.of[provingKey(key, on.variant)]
	s.proofs.mu.Unlock()
	if p == nil || p.version != version {
		fail(c, store.ErrMissing)
		return
	}
	p.mu.Lock()
	report := p.report
	p.mu.Unlock()
	n := -1
	if report != nil {
		n = slices.IndexFunc(report.Findings, func(f proof.Finding) bool { return f.Key == c.Param("finding") })
	}
	if n < 0 {
		fail(c, store.ErrMissing)
		return
	}
	finding, doc := &report.Findings[n], p.doc
	if text := c.Query("mend"); text != "" { // as it would be after a mend
		k, err := strconv.Atoi(text)
		if err != nil || k < 0 || k >= len(finding.Mends) {
			fail(c, store.ErrMissing)
			return
		}
		doc = reveal.Clone(p.written)
		if _, err := edit.Do(doc, p.whole, finding.Mends[k].Command); err != nil {
			fail(c, &store.Refused{Cause: err})
			return
		}
		doc = variant.Of(p.whole, doc, on.variant).Reveal
	}
	picture, err := s.drawFinding(p, doc, finding)
	if err != nil {
		fail(c, err)
		return
	}
	c.Header("Cache-Control", "private, max-age=86400")
	c.Data(http.StatusOK, "image/png", picture)
}

// proofPage writes what has been found in the stored version as a page to hand on; it waits until all has been looked
// at.
func (s *Server) proofPage(c *gin.Context) {
	key, ok := id(c, "id")
	if !ok {
		return
	}
	p, err := s.proving(c.Request.Context(), key, c.Query("variant"), true)
	if err != nil {
		fail(c, err)
		return
	}
	select {
	case <-p.ended:
	case <-c.Request.Context().Done():
		return
	}
	p.mu.Lock()
	report, err := p.report, p.err
	p.mu.Unlock()
	if err != nil {
		fail(c, err)
		return
	}
	scene, err := s.scenes.ready(p.model)
	if err != nil {
		fail(c, err)
		return
	}
	s.drawing <- struct{}{}
	defer func() { <-s.drawing }()
	var b bytes.Buffer
	if err := prove.Page(&b, p.model, scene, p.doc, report, fmt.Sprint(p.version)); err != nil {
		fail(c, err)
		return
	}
	c.Header("Content-Disposition", `inline; filename="proof.html"`)
	c.Data(http.StatusOK, "text/html; charset=utf-8", b.Bytes())
}

func (s *Server) drawFinding(p *proving, doc *reveal.Reveal, f *proof.Finding) ([]byte, error) {
	scene, err := s.scenes.ready(p.model)
	if err != nil {
		return nil, err
	}
	s.drawing <- struct{}{}
	defer func() { <-s.drawing }()
	picture, err := prove.Picture(p.model, scene, doc, f, proofHeight)
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	err = png.Encode(&b, picture.Image())
	return b.Bytes(), err
}
