package server

import (
	"context"
	"net/http"
	"sync"

	"github.com/gin-gonic/gin"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/proof"
	"slowreveal/core/reveal"
	"slowreveal/store"
)

// Proof is what is wrong with a reveal as it is stored, and what was looked at.
type Proof struct {
	Version  int64          `json:"version"`
	Findings []Fault        `json:"findings"`
	Passed   []proof.Passed `json:"passed"` // pairs of parts that were not looked at
	Beyond   int            `json:"beyond"` // how many more were not
	Pairs    int            `json:"pairs"`
	All      int            `json:"all"`
	Duration reveal.Micros  `json:"duration"`
	// Tolerance is how much deeper, mm, than at rest parts may lie in one another.
	Tolerance float64 `json:"tolerance"`
}

// Fault is a finding, and what it is in one sentence.
type Fault struct {
	Finding proof.Finding `json:"finding"`
	Words   string        `json:"words"`
}

// proofs keeps the newest proof of some reveals. One is made at a time: films come first.
type proofs struct {
	mu   sync.Mutex
	made map[string]provenAs
	one  chan struct{}
}

// provenAs is a proof and what it depends on.
type provenAs struct {
	assembly *assembly.Assembly // as it is arranged
	version  int64
	proof    *Proof
}

// mostProofs is how many reveals' proofs are kept.
const mostProofs = 64

func newProofs() proofs { return proofs{made: map[string]provenAs{}, one: make(chan struct{}, 1)} }

func (p *proofs) kept(r *store.StoredReveal, a *assembly.Assembly) *Proof {
	p.mu.Lock()
	defer p.mu.Unlock()
	if k := p.made[r.ID]; k.assembly == a && k.version == r.Version {
		return k.proof
	}
	return nil
}

func (p *proofs) keep(r *store.StoredReveal, a *assembly.Assembly, made *Proof) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if len(p.made) >= mostProofs {
		clear(p.made)
	}
	p.made[r.ID] = provenAs{a, r.Version, made}
}

// proof answers for a reveal as it is stored. Who asks and goes away ends the work: a page does when there is a newer version.
func (s *Server) proof(c *gin.Context) {
	key, ok := id(c, "id")
	if !ok {
		return
	}
	found, err := s.prove(c.Request.Context(), key)
	if err != nil {
		fail(c, err)
		return
	}
	c.JSON(http.StatusOK, found)
}

func (s *Server) prove(ctx context.Context, key string) (*Proof, error) {
	r, err := s.store.Reveal(ctx, key)
	if err != nil {
		return nil, err
	}
	m, err := s.store.Model(ctx, r.RevisionID, true)
	if err != nil {
		return nil, err
	}
	if kept := s.proofs.kept(&r, m.Assembly); kept != nil {
		return kept, nil
	}
	doc, err := reveal.Parse([]byte(r.Document))
	if err != nil {
		return nil, err
	}
	if err := reveal.Validate(doc, m.Assembly); err != nil {
		return nil, &store.Refused{Cause: err}
	}
	select {
	case s.proofs.one <- struct{}{}:
		defer func() { <-s.proofs.one }()
	case <-ctx.Done():
		return nil, ctx.Err()
	}
	report, err := proof.Interference(ctx, film.Compile(m.Assembly, doc), m.Shapes, proof.Settings{Threads: 1})
	if err != nil {
		return nil, err
	}
	made := &Proof{Version: r.Version, Findings: []Fault{}, Passed: append([]proof.Passed{}, report.Passed...), Beyond: report.Beyond, Pairs: report.Pairs, All: report.All,
		Duration: report.Duration, Tolerance: report.Tolerance}
	for i := range report.Findings {
		made.Findings = append(made.Findings, Fault{report.Findings[i], report.Findings[i].Words(m.Assembly, doc)})
	}
	s.proofs.keep(&r, m.Assembly, made)
	return made, nil
}
