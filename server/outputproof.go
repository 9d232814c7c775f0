package server

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"net/http"

	"github.com/gin-gonic/gin"

	"slowreveal/core/product"
	"slowreveal/core/proof"
	"slowreveal/core/reveal"
	"slowreveal/prove"
	"slowreveal/release"
	"slowreveal/render"
	"slowreveal/store"
)

func (s *Server) outputProofRoutes() []route {
	return []route{
		get("/outputs/{id}/proof", "outputProof", s.outputProof).gives(OutputProof{}).
			says("What was wrong with what the output was made of, what was accepted, and what was looked for."),
		get("/outputs/{id}/proof/page", "outputProofPage", s.outputProofPage).sends("text/html").
			says("The same as a page to hand on (HTML)."),
	}
}

// OutputProof is the proof of what an output was made of: version, checks, and what was found and accepted.
type OutputProof struct {
	Title   string        `json:"title"`
	Version int64         `json:"version"`
	Checks  []proof.Check `json:"checks"`
	Outcome proof.Outcome `json:"outcome"`
}

// outputProof answers with the proof of an output. An output keeps what it is made of, so that this is the same
// whenever it is asked for.
func (s *Server) outputProof(c *gin.Context) {
	o, ok := s.output(c)
	if !ok {
		return
	}
	text, err := s.proveOutput(c.Request.Context(), o)
	if err != nil {
		fail(c, err)
		return
	}
	c.Data(http.StatusOK, jsonType, text)
}

// outputProofPage is outputProof as a page to hand on.
func (s *Server) outputProofPage(c *gin.Context) {
	o, ok := s.output(c)
	if !ok {
		return
	}
	ctx := c.Request.Context()
	page, err := s.store.Kept(ctx, "proof page of "+o.ID, func() ([]byte, error) {
		text, err := s.proveOutput(ctx, o)
		if err != nil {
			return nil, err
		}
		var p OutputProof
		if err := json.Unmarshal(text, &p); err != nil {
			return nil, fmt.Errorf("reading the proof: %w", err)
		}
		m, scene, doc, err := s.madeOf(ctx, o)
		if err != nil {
			return nil, err
		}
		s.drawing <- struct{}{}
		defer func() { <-s.drawing }()
		var b bytes.Buffer
		err = prove.Page(&b, m, scene, doc, &p.Outcome, fmt.Sprint(o.Version))
		return b.Bytes(), err
	})
	if err != nil {
		fail(c, err)
		return
	}
	c.Data(http.StatusOK, "text/html; charset=utf-8", page)
}

func (s *Server) proveOutput(ctx context.Context, o store.Output) ([]byte, error) {
	return s.store.Kept(ctx, "proof of "+o.ID, func() ([]byte, error) {
		m, scene, doc, err := s.madeOf(ctx, o)
		if err != nil {
			return nil, err
		}
		outcome, err := s.queue.Found(ctx, m.Assembly, doc, func() (found proof.Outcome, err error) {
			select {
			case s.proofs.one <- struct{}{}:
				defer func() { <-s.proofs.one }()
			case <-ctx.Done():
				return found, ctx.Err()
			}
			return prove.Film(ctx, m, scene, doc, proof.Settings{Threads: 1}, nil)
		})
		if err != nil {
			return nil, err
		}
		return json.Marshal(
			OutputProof{Title: o.Title, Version: o.Version, Checks: proof.Checks, Outcome: outcome.Unmended()},
		)
	})
}

// madeOf is what an output was made of, ready to be drawn.
func (s *Server) madeOf(ctx context.Context, o store.Output) (*product.Model, *render.Scene, *reveal.Reveal, error) {
	source, err := s.authoring.OutputSource(ctx, o)
	if err != nil {
		return nil, nil, nil, err
	}
	m, err := s.authoring.ModelOf(ctx, source, source.RevisionID, true)
	if err != nil {
		return nil, nil, nil, err
	}
	doc, err := reveal.Parse([]byte(o.Document))
	if err != nil {
		return nil, nil, nil, err
	}
	var settings release.Settings
	if err := json.Unmarshal([]byte(o.Settings), &settings); err != nil {
		return nil, nil, nil, fmt.Errorf("reading the output's settings: %w", err)
	}
	if m, doc, _, err = m.In(doc, settings.Variant); err != nil {
		return nil, nil, nil, err
	}
	scene, err := s.scenes.ready(m)
	return m, scene, doc, err
}
