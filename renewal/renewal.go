package renewal

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"slowreveal/authoring"
	"slowreveal/core/match"
	"slowreveal/core/product"
	"slowreveal/core/proof"
	"slowreveal/core/reveal"
	"slowreveal/core/variant"
	"slowreveal/encode"
	"slowreveal/formats"
	"slowreveal/jobs"
	"slowreveal/prove"
	"slowreveal/release"
	"slowreveal/render"
	"slowreveal/store"
)

// Report is what a renewal has come to.
type Report struct {
	ProjectID string `json:"projectId"`
	Project   string `json:"project"`
	File      string `json:"file"`
	// Before and Revision are the numbers of the revisions.
	Before   int `json:"before"`
	Revision int `json:"revision"`
	// Changes are what is otherwise in the new revision.
	Changes match.Comparison `json:"changes"`
	Proofs  []Proven         `json:"proofs"`
	Outputs []Renewed        `json:"outputs"`
}

// Proven is what a proof finds in a reveal, in a variant of the product where there are several.
type Proven struct {
	Reveal   string          `json:"reveal"`
	Title    string          `json:"title"`
	Variant  string          `json:"variant,omitempty"`
	Faults   int             `json:"faults"`
	Counts   string          `json:"counts"` // in words
	Findings []proof.Finding `json:"findings"`
}

// Renewed is an output that was made again.
type Renewed struct {
	Title   string `json:"title"`
	Kind    string `json:"kind"`
	Variant string `json:"variant,omitempty"`
	// Old and New are the ids of both outputs, File where the new one lies.
	Old  string `json:"old"`
	New  string `json:"new"`
	File string `json:"file,omitempty"`
	// Problem says why it could not be made.
	Problem string  `json:"problem,omitempty"`
	Seconds float64 `json:"seconds"`
	// Pictures are those of both, side by side, where they have some.
	Pictures []Compared `json:"pictures,omitempty"`
}

// Changed reports whether some of its pictures are otherwise.
func (r *Renewed) Changed() bool {
	return slices.ContainsFunc(r.Pictures, func(c Compared) bool { return c.Changed > 0 })
}

// Faults counts those that nobody has accepted, over all proofs.
func (r *Report) Faults() (n int) {
	for i := range r.Proofs {
		n += r.Proofs[i].Faults
	}
	return n
}

// Failed counts outputs that could not be made.
func (r *Report) Failed() (n int) {
	for i := range r.Outputs {
		if r.Outputs[i].Problem != "" {
			n++
		}
	}
	return n
}

// Maker is where projects lie, and what makes outputs. Somebody must be at the queue's work: this process or another.
type Maker struct {
	Authoring *authoring.Service
	Queue     *jobs.Queue
	// Tell says how far it is, in words; nil for nobody.
	Tell func(says string)
}

func (m *Maker) tell(format string, args ...any) {
	if m.Tell != nil {
		m.Tell(fmt.Sprintf(format, args...))
	}
}

// Run takes an import in as the next revision of its project, proves the reveals, and makes again what was made of the
// revision before: of all outputs that are alike the newest, without drafts that nobody keeps.
func (m *Maker) Run(ctx context.Context, i store.Import, o formats.Options) (r Report, err error) {
	if i.ProjectID == nil {
		return r, errors.New("a renewal is of a project")
	}
	p, err := m.Authoring.Store.Project(ctx, *i.ProjectID)
	if err != nil {
		return r, err
	}
	before, err := m.Authoring.Store.Revision(ctx, p.ID)
	if err != nil {
		return r, err
	}
	due, err := m.due(ctx, p.ID, func(*store.Output) bool { return true })
	if err != nil {
		return r, err
	}
	m.tell("Reading %s …", i.Files[0].Name)
	if _, err := m.Queue.ImportNow(ctx, i, o); err != nil {
		return r, err
	}
	r = Report{ProjectID: p.ID, Project: p.Name, Before: before.Number, Proofs: []Proven{}, Outputs: []Renewed{}}
	err = m.renew(ctx, due, &r)
	return r, err
}

// Again makes everything of a project again that is out of date, on the revision that it has, and proves the reveals:
// what Run does when the revision is there already.
func (m *Maker) Again(ctx context.Context, project string) (r Report, err error) {
	p, err := m.Authoring.Store.Project(ctx, project)
	if err != nil {
		return r, err
	}
	due, err := m.due(ctx, p.ID, func(o *store.Output) bool { return o.Due })
	if err != nil {
		return r, err
	}
	r = Report{ProjectID: p.ID, Project: p.Name, Proofs: []Proven{}, Outputs: []Renewed{}}
	err = m.renew(ctx, due, &r)
	return r, err
}

// ErrStopped is the cause of a context's end by which somebody stops a renewal: what it has ordered and is not made yet
// is cancelled. Whatever else ends it leaves that to the queue.
var ErrStopped = errors.New("the renewal was stopped")

// renew proves the reveals on the newest revision, and makes again what is due.
func (m *Maker) renew(ctx context.Context, due []made, r *Report) error {
	if err := m.changes(ctx, r); err != nil {
		return err
	}
	if err := m.prove(ctx, r); err != nil { // first: what is made says what was found
		return err
	}
	ordered, err := m.order(ctx, due, r)
	for k := 0; k < len(ordered) && err == nil; k++ {
		err = m.finish(ctx, &ordered[k], &r.Outputs[k])
	}
	if errors.Is(context.Cause(ctx), ErrStopped) {
		return errors.Join(ErrStopped, m.cancel(context.WithoutCancel(ctx), r))
	}
	return err
}

// cancel stops what was ordered and is not made yet, and takes it out of the report.
func (m *Maker) cancel(ctx context.Context, r *Report) error {
	var made []Renewed
	for _, line := range r.Outputs {
		if line.New == "" {
			made = append(made, line)
			continue
		}
		o, err := m.Authoring.Store.Output(ctx, line.New)
		if err != nil {
			return err
		}
		if o.State == store.Done {
			made = append(made, line)
		} else if err := m.Queue.Cancel(ctx, o.ID); err != nil {
			return err
		}
	}
	r.Outputs = made
	return nil
}

// changes notes what is otherwise in the newest revision.
func (m *Maker) changes(ctx context.Context, r *Report) error {
	now, err := m.Authoring.Store.Revision(ctx, r.ProjectID)
	if err != nil {
		return err
	}
	r.File, r.Revision = now.FileName, now.Number
	if r.Before == 0 {
		r.Before = max(now.Number-1, 0)
	}
	var report product.Report
	if err := json.Unmarshal([]byte(now.Report), &report); err != nil {
		return fmt.Errorf("reading the report of the new revision: %w", err)
	}
	if report.Changes != nil {
		r.Changes = *report.Changes
	}
	return nil
}

// due are the outputs that are to be made again: of those that are alike the newest, as far as they are wanted.
func (m *Maker) due(ctx context.Context, project string, wanted func(*store.Output) bool) (due []made, err error) {
	all, err := m.Authoring.Outputs(ctx, project) // the newest first
	if err != nil {
		return nil, err
	}
	for _, i := range authoring.Newest(all, func(o *store.Output) bool { return o.State == store.Done }) {
		o := all[i]
		var s release.Settings
		if err := json.Unmarshal([]byte(o.Settings), &s); err != nil {
			return nil, fmt.Errorf("reading the settings of an output: %w", err)
		}
		if wanted(&o) && (s.Purpose != encode.Draft || o.Kept) {
			due = append(due, made{o, s})
		}
	}
	return due, nil
}

// order orders them again; what cannot be ordered any more is told of.
func (m *Maker) order(ctx context.Context, due []made, r *Report) (ordered []pair, err error) {
	for _, o := range due {
		out := Renewed{Title: o.Title, Kind: string(o.settings.Kind), Old: o.ID}
		if v := o.settings.Variant; v != "-" {
			out.Variant = v
		}
		fresh, err := m.Queue.Order(ctx, o.RevealID, o.MadeBy, o.settings)
		var refused *store.Refused
		switch {
		case errors.As(err, &refused), errors.Is(err, store.ErrMissing):
			out.Problem = err.Error()
			ordered = append(ordered, pair{old: o.Output})
		case err != nil:
			return ordered, err
		default:
			out.New = fresh[0].ID
			ordered = append(ordered, pair{old: o.Output, fresh: fresh[0]})
		}
		r.Outputs = append(r.Outputs, out)
	}
	m.tell("%d outputs are made again.", len(due))
	return ordered, nil
}

// made is an output with its settings.
type made struct {
	store.Output
	settings release.Settings
}

// pair is an output and the one that takes its place.
type pair struct{ old, fresh store.Output }

// prove looks at each reveal, in each variant.
func (m *Maker) prove(ctx context.Context, r *Report) error {
	reveals, err := m.Authoring.Store.Reveals(ctx, r.ProjectID)
	if err != nil {
		return err
	}
	for _, line := range reveals {
		of, err := m.Authoring.Store.Reveal(ctx, line.ID)
		if err != nil {
			return err
		}
		model, err := m.Authoring.Model(ctx, of.RevisionID, true)
		if err != nil {
			return err
		}
		doc, err := reveal.Parse([]byte(of.Document))
		if err != nil {
			return err
		}
		if len(doc.Steps) == 0 {
			continue
		}
		for _, v := range variant.All(model.Assembly) {
			m.tell("Looking at “%s” …", of.Title)
			p, err := m.proven(ctx, model, doc, v)
			if err != nil {
				return fmt.Errorf("looking at %q: %w", of.Title, err)
			}
			p.Reveal, p.Title = of.ID, of.Title
			r.Proofs = append(r.Proofs, p)
		}
	}
	return nil
}

func (m *Maker) proven(
	ctx context.Context,
	model *product.Model,
	doc *reveal.Reveal,
	asked string,
) (p Proven, err error) {
	model, doc, shown, err := model.In(doc, asked)
	if err != nil {
		return p, err
	}
	found, err := m.Queue.Found(ctx, model.Assembly, doc, func() (o proof.Outcome, err error) {
		scene, err := render.NewScene(model.Assembly, model.Shapes)
		if err != nil {
			return o, err
		}
		return prove.Film(ctx, model, scene, doc, proof.Settings{}, nil)
	})
	if err != nil {
		return p, err
	}
	found = found.Unmended()
	if shown != nil {
		p.Variant = shown.Name
	}
	p.Faults, p.Counts, p.Findings = found.Open(proof.Fault), prove.Counts(&found), found.Findings
	return p, nil
}

// between is how often it is looked whether an output is finished.
const between = 200 * time.Millisecond

// finish waits for an output and compares it with the one before.
func (m *Maker) finish(ctx context.Context, p *pair, r *Renewed) error {
	if r.New == "" {
		return nil
	}
	m.tell("Making “%s” …", r.Title)
	for {
		o, err := m.Authoring.Output(ctx, r.New)
		if err != nil {
			return err
		}
		switch o.State {
		case store.Done:
			r.File = m.Authoring.Store.OutputPath(o)
			if o.StartedAt != nil && o.FinishedAt != nil {
				r.Seconds = o.FinishedAt.Sub(*o.StartedAt).Seconds()
			}
			p.fresh = o
			r.Pictures, err = m.compare(p)
			return err
		case store.Failed, store.Cancelled:
			r.Problem = string(o.State)
			if o.Message != "" {
				r.Problem = o.Message
			}
			return nil
		}
		select {
		case <-time.After(between):
		case <-ctx.Done():
			return ctx.Err()
		}
	}
}
