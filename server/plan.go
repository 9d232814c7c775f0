package server

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"maps"
	"math"
	"net/http"
	"sync"
	"time"

	"github.com/gin-gonic/gin"

	"slowreveal/core/clearance"
	"slowreveal/core/film"
	"slowreveal/core/plan"
	"slowreveal/core/product"
	"slowreveal/core/removal"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/firstfilm"
	"slowreveal/store"
)

func (s *Server) planRoutes() []route {
	return []route{
		post("/reveals/{id}/plan", "planReveal", s.planReveal).takes(PlanRequest{}).gives(PlanState{}).asks(inVariant).
			says("Plans the teardown of what stands where a step of the reveal ends, in the background; an older plan ends."),
		get("/reveals/{id}/plan", "revealPlan", s.planned).gives(PlanState{}).
			says("The reveal's plan, as far as it has come: ask again until it is done."),
		del("/reveals/{id}/plan", "stopPlan", s.stopPlan).gives(PlanState{}).
			says("Ends planning: what has been found stays."),
		post("/projects/{id}/firstfilm", "makeFirstFilm", s.makeFirstFilm).gives(PlanState{}).
			says("Plans a teardown of the project's assembly and makes a reveal of it, in the background."),
		get("/projects/{id}/firstfilm", "firstFilm", s.planned).gives(PlanState{}).
			says("How far the first film has come: ask again until it is done."),
	}
}

// PlanRequest asks for a teardown plan that goes on where the step at a time of the reveal ends.
type PlanRequest struct {
	Time    reveal.Micros `json:"time"`
	Choices plan.Choices  `json:"choices"`
}

// PlanState is how far a plan has come: what has been found is there, also where it was stopped.
type PlanState struct {
	// Number names the plan: it rises with each that is asked for.
	Number int64      `json:"number"`
	Done   bool       `json:"done"`
	Plan   *plan.Plan `json:"plan,omitempty"`
	// Problem says why there is none.
	Problem string `json:"problem,omitempty"`
	// Reveal is the first film that was made of it, where one was asked for.
	Reveal string `json:"reveal,omitempty"`
}

// planning is a plan that is or was computed, in the background.
type planning struct {
	stop  context.CancelFunc
	ended chan struct{}

	mu    sync.Mutex
	state PlanState
}

// plans keeps the newest plan of some reveals and projects. One is computed at a time.
type plans struct {
	mu     sync.Mutex
	of     map[string]*planning
	number int64
	one    chan struct{}
}

const (
	// planWait is how long an answer waits for the end at most; who wants to know more asks again.
	planWait = 300 * time.Millisecond
	// mostPlans is how many plans are kept, mostGiven how many moves an author can put first, mostWays how many
	// directions are preferred or ruled out.
	mostPlans, mostGiven, mostWays = 64, 2000, 24
	// proveFor is how long a plan is looked at as a film at most: that of a thousand parts is not proven.
	proveFor = 30 * time.Second
)

func newPlans() plans { return plans{of: map[string]*planning{}, one: make(chan struct{}, 1)} }

// planReveal begins a plan; an older one of the reveal ends.
func (s *Server) planReveal(c *gin.Context) {
	key, ok := id(c, "id")
	var q PlanRequest
	if !ok || !read(c, &q) {
		return
	}
	if err := plannable(&q.Choices); err != nil {
		refuse(c, http.StatusUnprocessableEntity, "too-much", err.Error())
		return
	}
	subject, doc, err := s.planSubject(c.Request.Context(), key, c.Query("variant"), q.Time)
	if err != nil {
		fail(c, err)
		return
	}
	p := s.plans.begin(s.living, key, func(ctx context.Context, p *planning) error {
		found, err := removal.Run(ctx, subject, q.Choices, p.found)
		p.found(found)
		if err != nil {
			return err
		}
		proving, enough := context.WithTimeout(ctx, proveFor)
		defer enough()
		model := &product.Model{Assembly: subject.Assembly, Shapes: subject.Shapes}
		err = s.tryPlan(proving, model, doc, q.Time, found, p.found)
		if errors.Is(err, context.DeadlineExceeded) {
			return nil
		}
		return err
	})
	s.answerPlan(c, p)
}

// tryPlan looks what becomes of a plan that is accepted as it is: what it goes into, then what is seen of it.
func (s *Server) tryPlan(
	ctx context.Context,
	m *product.Model,
	doc *reveal.Reveal,
	at reveal.Micros,
	p plan.Plan,
	found func(plan.Plan),
) error {
	p, err := firstfilm.Prove(ctx, m, doc, at, p)
	if err != nil {
		return err
	}
	found(p)
	looker, err := s.looker(m)
	if err != nil {
		return err
	}
	if p, err = looker.Look(ctx, doc, at, p); err != nil {
		return err
	}
	found(p)
	return nil
}

// planned answers how far the plan of a reveal, or the first film of a project, has come.
func (s *Server) planned(c *gin.Context) {
	if key, ok := id(c, "id"); ok {
		s.answerPlan(c, s.plans.get(key))
	}
}

// stopPlan ends a plan: what has been found is kept.
func (s *Server) stopPlan(c *gin.Context) {
	key, ok := id(c, "id")
	if !ok {
		return
	}
	p := s.plans.get(key)
	if p != nil {
		p.stop()
		<-p.ended
	}
	s.answerPlan(c, p)
}

func (s *Server) answerPlan(c *gin.Context, p *planning) {
	if p == nil {
		fail(c, store.ErrMissing)
		return
	}
	select {
	case <-p.ended:
	case <-time.After(planWait):
	case <-c.Request.Context().Done():
		return
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	c.JSON(http.StatusOK, p.state)
}

// planSubject is the assembly as it stands where a plan goes on in a reveal.
func (s *Server) planSubject(
	ctx context.Context,
	key, asked string,
	t reveal.Micros,
) (removal.Subject, *reveal.Reveal, error) {
	on, err := s.stage(ctx, key, asked)
	if err != nil {
		return removal.Subject{}, nil, err
	}
	f := film.Compile(on.model.Assembly, on.doc)
	_, at := plan.Begin(f, t)
	known, err := s.authoring.SurveyOf(ctx, on.stored.RevisionID)
	fr := f.NewFrame()
	f.At(at, fr)
	subject := removal.Subject{
		Assembly: on.model.Assembly,
		Shapes:   on.model.Shapes,
		Survey:   known,
		At:       clearance.Pose{World: fr.World, Opacity: fr.Opacity},
		Eye:      fr.Camera.Orientation,
	}
	return subject, on.doc, err
}

// makeFirstFilm begins a first film of what a project presents: a teardown plan as a reveal of its own, to be changed.
func (s *Server) makeFirstFilm(c *gin.Context) {
	key, ok := id(c, "id")
	if !ok {
		return
	}
	ctx := c.Request.Context()
	r, err := s.store.Revision(ctx, key)
	if err != nil {
		fail(c, err)
		return
	}
	m, err := s.authoring.Model(ctx, r.ID, true)
	if err != nil {
		fail(c, err)
		return
	}
	known, err := s.authoring.SurveyOf(ctx, r.ID)
	if err != nil {
		fail(c, err)
		return
	}
	p := s.plans.begin(s.living, key, func(ctx context.Context, p *planning) error {
		subject := removal.Subject{
			Assembly: m.Assembly,
			Shapes:   m.Shapes,
			Survey:   known,
			At:       firstfilm.AtRest(m.Assembly),
		}
		found, err := removal.Run(ctx, subject, plan.Choices{}, p.found)
		if err != nil {
			return err
		}
		looker, err := s.looker(m)
		if err != nil {
			return err
		}
		doc, outcome, err := looker.Make(ctx, &found, plan.Writing{Fresh: "first"})
		if err != nil {
			return err
		}
		doc.Title = "First film"
		stored, err := s.authoring.CreateReveal(ctx, key, doc)
		if err != nil {
			return err
		}
		if err := s.queue.KeepOutcome(ctx, m.Assembly, doc, &outcome); err != nil {
			slog.Warn("what a proof has found is not kept", "error", err)
		}
		p.mu.Lock()
		p.state.Reveal = stored.ID
		p.mu.Unlock()
		return nil
	})
	s.answerPlan(c, p)
}

// looker looks at films of a model with what the server knows of it.
func (s *Server) looker(m *product.Model) (*firstfilm.Looker, error) {
	scene, err := s.scenes.ready(m)
	return &firstfilm.Looker{Model: m, Scene: scene, Memory: s.memories.of(m.Assembly)}, err
}

// plannable says what of some choices is more than it may be.
func plannable(c *plan.Choices) error {
	if len(c.Given) > mostGiven || len(c.Prefer)+len(c.Avoid) > mostWays {
		return fmt.Errorf("a plan takes at most %d moves that come first, and %d directions", mostGiven, mostWays)
	}
	nodes := len(c.Stays) + len(c.Whole) + len(c.Without)
	list := append(append([]space.Vec3{}, c.Prefer...), c.Avoid...)
	for i := range c.Given {
		nodes += len(c.Given[i].Nodes)
		if c.Given[i].Along != nil {
			list = append(list, *c.Given[i].Along)
		}
	}
	if nodes > 4*reveal.MaxTargets {
		return fmt.Errorf("a plan takes at most %d parts that something is said of", 4*reveal.MaxTargets)
	}
	if !(c.Spacing >= 0 && c.Spacing <= reveal.MaxDistance) {
		return errors.New("the spacing is no length")
	}
	for _, d := range list {
		if v := d.Vec(); !space.Finite(v) || math.Abs(v.X)+math.Abs(v.Y)+math.Abs(v.Z) > 1e6 {
			return errors.New("a direction is no direction")
		}
	}
	return nil
}

func (p *plans) get(key string) *planning {
	p.mu.Lock()
	defer p.mu.Unlock()
	return p.of[key]
}

// begin computes a plan in the background; the older one of the same key ends.
func (p *plans) begin(
	living context.Context,
	key string,
	compute func(ctx context.Context, one *planning) error,
) *planning {
	p.mu.Lock()
	defer p.mu.Unlock()
	if before := p.of[key]; before != nil {
		before.stop()
	}
	if len(p.of) >= mostPlans {
		maps.DeleteFunc(p.of, func(_ string, o *planning) bool { return o.hasEnded() })
	}
	p.number++
	ctx, stop := context.WithCancel(living)
	one := &planning{stop: stop, ended: make(chan struct{}), state: PlanState{Number: p.number}}
	p.of[key] = one
	go func() {
		defer stop()
		defer close(one.ended)
		defer func() { // a damaged model must not take the server with it
			if lost := recover(); lost != nil {
				slog.Error("planning failed", "error", lost)
				one.end(fmt.Errorf("planning failed: %v", lost))
			}
		}()
		select {
		case p.one <- struct{}{}:
			defer func() { <-p.one }()
			one.end(compute(ctx, one))
		case <-ctx.Done():
			one.end(ctx.Err())
		}
	}()
	return one
}

func (p *planning) hasEnded() bool {
	select {
	case <-p.ended:
		return true
	default:
		return false
	}
}

func (p *planning) found(f plan.Plan) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.state.Plan = &f
}

func (p *planning) end(err error) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.state.Done = true; err != nil && !errors.Is(err, context.Canceled) {
		p.state.Problem = err.Error()
	}
}
