package server

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"maps"
	"slices"
	"sync"
	"time"

	"slowreveal/core/assembly"
	"slowreveal/core/product"
	"slowreveal/core/proof"
	"slowreveal/core/reveal"
	"slowreveal/core/variant"
	"slowreveal/prove"
	"slowreveal/render"
)

// proving is one version of a reveal that is or was looked at, in the background.
type proving struct {
	assembly *assembly.Assembly // as the variant has it
	whole    *assembly.Assembly
	version  int64
	all      bool // with what has to be seen, and with mends
	model    *product.Model
	memory   *proof.Memory
	written  *reveal.Reveal // as it is stored
	doc      *reveal.Reveal // as the variant has it
	stop     context.CancelFunc
	ended    chan struct{}
	through  func() // closes ended; once is enough

	mu     sync.Mutex
	done   float64
	looked bool
	report *proof.Outcome
	err    error
}

// proofs keeps the newest proof of some reveals. One is made at a time: films come first.
type proofs struct {
	mu  sync.Mutex
	of  map[string]*proving
	one chan struct{}
}

const (
	// proofWait is how long an answer waits for the end at most; who wants to know more asks again.
	proofWait = 400 * time.Millisecond
	// proofHeight is that of the pictures of findings, pixels.
	proofHeight = 360
)

// mostProofs is how many reveals' proofs are kept that have been made.
var mostProofs = 64

func newProofs() proofs { return proofs{of: map[string]*proving{}, one: make(chan struct{}, 1)} }

// proving is the look at the stored version of a reveal, in a variant of the product; it begins where there is none.
func (s *Server) proving(ctx context.Context, reveal, asked string, all bool) (*proving, error) {
	on, err := s.stage(ctx, reveal, asked)
	if err != nil {
		return nil, err
	}
	key := provingKey(reveal, on.variant)
	s.proofs.mu.Lock()
	defer s.proofs.mu.Unlock()
	before := s.proofs.of[key]
	if before != nil && before.assembly == on.model.Assembly && before.version == on.stored.Version &&
		(before.all || !all) && !before.stopped() {
		return before, nil
	}
	if before != nil {
		before.stop()
	}
	if len(s.proofs.of) >= mostProofs { // those that are still looked at stay: somebody waits for each
		maps.DeleteFunc(s.proofs.of, func(_ string, p *proving) bool { return p.hasEnded() })
	}
	running, stop := context.WithCancel(s.living)
	p := &proving{
		assembly: on.model.Assembly,
		whole:    on.whole,
		version:  on.stored.Version,
		all:      all,
		model:    on.model,
		written:  on.written,
		doc:      on.doc,
		stop:     stop,
		ended:    make(chan struct{}),
	}
	p.through = sync.OnceFunc(func() { close(p.ended) })
	if before != nil && before.assembly == on.model.Assembly {
		p.memory = before.memory
	} else {
		p.memory = s.memories.of(on.model.Assembly)
	}
	if before != nil && p.takeOver(before) {
		stop()
		p.through()
		s.proofs.of[key] = p
		return p, nil
	}
	s.proofs.of[key] = p
	go s.prove(running, p)
	return p, nil
}

// provingKey names the look at a reveal in a variant of the product.
func provingKey(reveal string, v assembly.VariantID) string { return reveal + " " + string(v) }

// takeOver takes what was found in an older version from which this one differs only in what is accepted; false where
// that is not so.
func (p *proving) takeOver(old *proving) bool {
	old.mu.Lock()
	defer old.mu.Unlock()
	if old.done < 1 || p.all && !old.all || old.assembly != p.assembly || !proof.SameButAccepted(old.doc, p.doc) {
		return false
	}
	judged := old.report.Judged(p.doc)
	p.report, p.done, p.looked, p.all = &judged, 1, true, old.all
	return true
}

// prove looks at a version to the end, or until it is stopped.
func (s *Server) prove(ctx context.Context, p *proving) {
	defer p.stop()
	defer p.through()
	defer func() { // a damaged model must not take the server with it
		if lost := recover(); lost != nil {
			slog.Error("looking at a film failed", "error", lost)
			p.end(fmt.Errorf("looking at the film failed: %v", lost))
		}
	}()
	select {
	case s.proofs.one <- struct{}{}:
		defer func() { <-s.proofs.one }()
	case <-ctx.Done():
		p.end(ctx.Err())
		return
	}
	if s.recall(ctx, p) {
		return
	}
	scene, err := s.sceneFor(p)
	if err != nil {
		p.end(err)
		return
	}
	report, err := prove.Film(ctx, p.model, scene, p.doc, p.settings(), p.progress)
	if err != nil {
		p.end(err)
		return
	}
	p.found(&report)
	if !p.all {
		p.end(nil)
		return
	}
	s.keepOutcome(ctx, p, &report)
	p.end(s.mend(ctx, p, scene, &report))
}

// settings are those of a look.
func (p *proving) settings() proof.Settings {
	settings := proof.Settings{Threads: 1, Memory: p.memory}
	if !p.all { // some tenths of a second, for which somebody waits who is at work
		settings.Threads = 0
	}
	return settings
}

// sceneFor is what is drawn for a look, nil for one that sees nothing.
func (s *Server) sceneFor(p *proving) (*render.Scene, error) {
	if !p.all {
		return nil, nil
	}
	return s.scenes.ready(p.model)
}

// recall answers with what was found in just this before, in whichever project and before whichever start of the
// server; false where nothing is known. Then it looks once more for itself, so that after the next edit only what that
// has changed is to be looked at.
func (s *Server) recall(ctx context.Context, p *proving) bool {
	report, known, err := s.queue.Outcome(ctx, p.model.Assembly, p.doc)
	if err != nil {
		slog.Warn("what a proof has found is not known", "error", err)
	}
	if !known || err != nil {
		return false
	}
	p.found(p.asWritten(&report))
	if p.all && !report.Mended {
		var scene *render.Scene
		if scene, err = s.sceneFor(p); err == nil {
			err = s.mend(ctx, p, scene, &report)
		}
	}
	p.end(err)
	p.through()
	if err != nil {
		return true
	}
	settings := p.settings()
	settings.Threads = 1
	if _, err := prove.Film(ctx, p.model, nil, p.doc, settings, nil); err != nil && ctx.Err() == nil {
		slog.Warn("what a proof has found could not be learnt anew", "error", err)
	}
	return true
}

// mend looks for mends of what was found, shows each as it comes, and keeps them with it.
func (s *Server) mend(ctx context.Context, p *proving, scene *render.Scene, report *proof.Outcome) error {
	mended := report.Unmended()
	together, err := prove.Mend(ctx, p.model, scene, p.doc, p.settings(), report, func(i int, mends []proof.Mend) {
		mended.Findings[i].Mends = slices.Clone(mends)
		p.mended(&mended)
	})
	if err != nil {
		return err
	}
	mended.Together, mended.Mended = together, true
	p.mended(&mended)
	s.keepOutcome(ctx, p, &mended)
	return nil
}

func (s *Server) keepOutcome(ctx context.Context, p *proving, o *proof.Outcome) {
	if err := s.queue.KeepOutcome(ctx, p.model.Assembly, p.doc, o); err != nil {
		slog.Warn("what a proof has found is not kept", "error", err)
	}
}

func (p *proving) progress(done float64, found *proof.Outcome) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.done = max(p.done, min(done, 0.99))
	if found != nil {
		p.report = found
	}
}

// stopped reports whether a look was ended before it was through. One that has failed would fail again: that stays its
// answer.
func (p *proving) stopped() bool {
	p.mu.Lock()
	defer p.mu.Unlock()
	return errors.Is(p.err, context.Canceled)
}

func (p *proving) hasEnded() bool {
	select {
	case <-p.ended:
		return true
	default:
		return false
	}
}

// found says what was found; mends come after it.
func (p *proving) found(r *proof.Outcome) {
	p.alter(func(o *proof.Outcome) { *o = *r })
	p.mu.Lock()
	defer p.mu.Unlock()
	p.looked = true
}

// mended shows what was found with the mends that are known by now.
func (p *proving) mended(o *proof.Outcome) {
	shown := p.asWritten(o)
	p.alter(func(o *proof.Outcome) {
		o.Findings, o.Together, o.Mended = shown.Findings, shown.Together, shown.Mended
	})
}

// asWritten is an outcome whose mends, which were tried in the variant, are changes of what is written.
func (p *proving) asWritten(o *proof.Outcome) *proof.Outcome {
	out := *o
	out.Findings = slices.Clone(o.Findings)
	for i := range out.Findings {
		f := &out.Findings[i]
		f.Mends = slices.Clone(f.Mends)
		for k := range f.Mends {
			f.Mends[k].Command = variant.Back(p.written, p.doc, f.Mends[k].Command)
		}
	}
	if o.Together != nil {
		together := *o.Together
		together.Command = variant.Back(p.written, p.doc, together.Command)
		out.Together = &together
	}
	return &out
}

// alter changes the report: a copy, for who has asked before still reads the old one.
func (p *proving) alter(change func(o *proof.Outcome)) {
	p.mu.Lock()
	defer p.mu.Unlock()
	var shown proof.Outcome
	if p.report != nil {
		shown = *p.report
	}
	change(&shown)
	p.report = &shown
}

func (p *proving) end(err error) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.err = err; err == nil {
		p.done = 1
	}
}
