package main

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/http"
	"slices"
	"sync"
	"time"

	"github.com/google/uuid"

	"slowreveal/core/assembly"
	"slowreveal/core/edit"
	"slowreveal/core/reveal"
	"slowreveal/server"
)

// author edits a reveal as a page does: with keys, on the version that it knows, again and again until
// there is an answer.
type author struct {
	number  int
	url     string // of the reveal
	client  *http.Client
	random  *rand.Rand
	version int64
	step    reveal.StepID // its own
	// retry says that an edit without an answer is sent again.
	retry bool

	acknowledged map[string]bool
	took         []time.Duration
	clashes      int
	refusals     int // by 503
	problems     []string
}

func newAuthor(n int, url string) *author {
	return &author{
		number:       n,
		url:          url,
		random:       rand.New(rand.NewPCG(uint64(n), 7)),
		acknowledged: map[string]bool{},
		retry:        true,
		client:       &http.Client{Timeout: 40 * time.Second, Transport: &http.Transport{MaxIdleConnsPerHost: 2}},
	}
}

// next is something that an author does: mostly to what is theirs, now and then to what is everybody's.
func (a *author) next() edit.Command {
	switch {
	case a.step == "":
		a.step = reveal.StepID(fmt.Sprintf("step-of-%d", a.number))
		cue := reveal.Cue{
			ID:       a.cue(),
			Kind:     reveal.KindPull,
			Targets:  []assembly.NodeID{"housing/hood"},
			Duration: reveal.Second,
			Easing:   reveal.Smooth,
			Pull:     &reveal.Pull{Axes: reveal.ParentAxes, Along: [3]float64{0, 1, 0}, Distance: 10},
		}
		return edit.Command{
			Op: edit.InsertStep,
			Step: &reveal.Step{
				ID:       a.step,
				Title:    fmt.Sprint("Step of ", a.number),
				Duration: 4 * reveal.Second,
				Cues:     []reveal.Cue{cue},
			},
		}
	case a.random.IntN(20) == 0:
		title := fmt.Sprint("Named by ", a.number)
		return edit.Command{Op: edit.SetTitle, Title: &title}
	case a.random.IntN(3) == 0:
		return edit.Command{
			Op: edit.SetStep,
			Step: &reveal.Step{
				ID:       a.step,
				Title:    fmt.Sprint("Step of ", a.number, ", ", a.random.IntN(1000)),
				Duration: 4 * reveal.Second,
			},
		}
	}
	return edit.Command{
		Op:     edit.ShiftCues,
		CueIDs: []reveal.CueID{a.cue()},
		By:     reveal.Micros(a.random.IntN(400_001) - 200_000),
	}
}

func (a *author) cue() reveal.CueID { return reveal.CueID(fmt.Sprintf("cue-of-%d", a.number)) }

// work edits until ctx ends, with a pause after each edit.
func (a *author) work(ctx context.Context, pause time.Duration) {
	for ctx.Err() == nil {
		a.edit(ctx, a.next())
		if pause > 0 {
			select {
			case <-ctx.Done():
			case <-time.After(time.Duration(float64(pause) * (0.5 + a.random.Float64()))):
			}
		}
	}
}

// edit sends one edit until it is answered, or until ctx ends.
func (a *author) edit(ctx context.Context, c edit.Command) {
	key := uuid.NewString()
	command, err := json.Marshal(c)
	if err != nil {
		panic(err) // of our own making
	}
	begun := time.Now()
	for ctx.Err() == nil {
		r, err := ask(
			a.client,
			"POST",
			a.url+"/commands",
			server.Change{Version: a.version, Edits: []server.KeyedCommand{{Key: key, Command: command}}},
		)
		switch {
		case err != nil || r.status == http.StatusServiceUnavailable:
			if err == nil {
				a.refusals++
			}
			if !a.retry {
				return
			}
			time.Sleep(30 * time.Millisecond)
			continue
		case r.status == http.StatusConflict:
			var p server.Problem
			if err := json.Unmarshal(r.body, &p); err != nil {
				a.problem("a conflict is not understood: %v", err)
			}
			a.clashes++
			a.version = p.Version
			if c.Op == edit.InsertStep {
				a.step = ""
			}
			return
		case r.status != http.StatusOK:
			a.problem("%d %s", r.status, r.body)
			return
		}
		var done server.Changed
		if err := json.Unmarshal(r.body, &done); err != nil || done.Version <= 0 {
			a.problem("200, but %q", r.body)
			return
		}
		a.version = done.Version
		a.acknowledged[key] = true
		a.took = append(a.took, time.Since(begun))
		return
	}
}

func (a *author) problem(format string, args ...any) {
	if len(a.problems) < 3 {
		a.problems = append(a.problems, fmt.Sprintf(format, args...))
	}
}

// crowd is authors at work, shared among reveals.
type crowd struct {
	authors []*author
	reveals []string
}

func newCrowd(r *rig, reveals []string, n int) *crowd {
	c := &crowd{reveals: reveals}
	for k := range n {
		c.authors = append(c.authors, newAuthor(k, r.url("/api/reveals/"+reveals[k%len(reveals)])))
	}
	return c
}

// work lets all of them work at once until ctx ends.
func (c *crowd) work(ctx context.Context, pause time.Duration) {
	var all sync.WaitGroup
	for _, a := range c.authors {
		all.Go(func() { a.work(ctx, pause) })
	}
	all.Wait()
}

// judge holds what is stored against what the authors were told, and sums up.
func (c *crowd) judge(ctx context.Context, r *rig, out *result) (took []time.Duration, err error) {
	least := -1
	clashes := 0
	for i, id := range c.reveals {
		known := map[string]bool{}
		for k := i; k < len(c.authors); k += len(c.reveals) {
			for key := range c.authors[k].acknowledged {
				known[key] = true
			}
		}
		if err := r.verify(ctx, id, known, out); err != nil {
			return nil, err
		}
	}
	for _, a := range c.authors {
		took = append(took, a.took...)
		clashes += a.clashes
		if n := len(a.acknowledged); least < 0 || n < least {
			least = n
		}
		for _, p := range a.problems {
			out.fail("author %d: %s", a.number, p)
		}
	}
	slices.Sort(took)
	out.check(least > 0, "an author got nothing done")
	if len(took) > 0 {
		out.figures = fmt.Sprintf(
			"%d edits, p50 %v, p99 %v, most %v; %.2f clashes an edit; the slowest author has %d, the mean is %d",
			len(took),
			ms(quantile(took, 0.5)),
			ms(quantile(took, 0.99)),
			ms(took[len(took)-1]),
			float64(clashes)/float64(len(took)),
			least,
			len(took)/len(c.authors),
		)
	}
	return took, nil
}

func ms(d time.Duration) time.Duration { return d.Round(time.Millisecond) }

func quantile(sorted []time.Duration, q float64) time.Duration {
	return sorted[min(int(q*float64(len(sorted))), len(sorted)-1)]
}

// aPause is how long an author thinks between edits: half a second, as when bars are dragged about.
const aPause = 500 * time.Millisecond

// authorsOnSome puts the authors on some reveals.
func authorsOnSome(reveals int) func(context.Context, scale) (*result, error) {
	return func(ctx context.Context, n scale) (*result, error) {
		return load(ctx, n, reveals, aPause)
	}
}

// pressed lets authors edit ten reveals without a pause: more than the machine takes.
func pressed(ctx context.Context, n scale) (*result, error) { return load(ctx, n, 10, 0) }

func load(ctx context.Context, n scale, reveals int, pause time.Duration) (*result, error) {
	out := &result{
		name: fmt.Sprintf("%d authors on %d reveals for %v, an edit each %v", n.authors, reveals, n.load, pause),
	}
	if pause == 0 {
		out.name = fmt.Sprintf("%d authors on %d reveals for %v without a pause", n.authors, reveals, n.load)
	}
	return onRig(ctx, out, reveals, func(r *rig, ids []string) error {
		c := newCrowd(r, ids, n.authors)
		first, stop := context.WithTimeout(ctx, time.Second) // everybody arrives
		c.work(first, pause)
		stop()
		for _, a := range c.authors {
			a.took = nil
		}
		working, stop := context.WithTimeout(ctx, n.load)
		defer stop()
		c.work(working, pause)
		took, err := c.judge(ctx, r, out)
		if err != nil {
			return err
		}
		if reveals == 10 && pause > 0 && len(took) > 0 && n.load >= full.load {
			out.check(
				quantile(took, 0.99) < 100*time.Millisecond,
				"p99 is %v, not below 100 ms",
				ms(quantile(took, 0.99)),
			)
		}
		return nil
	})
}
