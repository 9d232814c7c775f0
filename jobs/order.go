package jobs

import (
	"context"
	"encoding/json"
	"fmt"
	"os"

	"github.com/google/uuid"

	"slowreveal/authoring"
	"slowreveal/core/product"
	"slowreveal/core/reveal"
	"slowreveal/release"
	"slowreveal/store"
)

// Planned is an output that was worked out, and what it is made of.
type Planned struct {
	*release.Work
	Source authoring.Source
}

// Order queues outputs of a reveal as it is now, all or none. Everything is checked before
// anything is stored. by names who wants them.
func (q *Queue) Order(ctx context.Context, revealID, by string, list ...release.Settings) ([]store.Output, error) {
	r, works, err := q.Plan(ctx, revealID, list...)
	if err != nil {
		return nil, err
	}
	var outputs []store.NewOutput
	for _, w := range works {
		if err := w.Readable(); err != nil {
			return nil, &store.Refused{Cause: err}
		}
		settings, err := json.Marshal(w.Settings)
		if err != nil {
			return nil, err
		}
		title := w.Settings.Name
		if title == "" {
			title = r.Title
			if v := w.Variant(); v != nil {
				title += ", " + v.Name
			}
		}
		outputs = append(
			outputs,
			store.NewOutput{
				Output: store.Output{RevealID: r.ID, ProjectID: r.ProjectID, Version: r.Version, Title: title,
					Document: r.Document, Settings: store.RawText(settings), Frames: w.Frames(), Media: w.Media(), MadeBy: by},
				Source:    w.Source.Source,
				Extension: w.Extension(),
				Segments:  w.Segments(),
			},
		)
	}
	return q.store.InsertOutputs(ctx, outputs, q.notifyWorkers)
}

// Plan works outputs of a reveal out without ordering them; what cannot be is refused.
func (q *Queue) Plan(
	ctx context.Context,
	revealID string,
	list ...release.Settings,
) (store.StoredReveal, []Planned, error) {
	r, err := q.store.Reveal(ctx, revealID)
	if err != nil {
		return r, nil, err
	}
	pin, err := q.authoring.Pin(ctx, r.RevisionID)
	if err != nil {
		return r, nil, err
	}
	names := map[string]bool{}
	var works []Planned
	for _, s := range list {
		w, err := q.plan(ctx, r, pin, s)
		if err != nil {
			return r, nil, err
		}
		if s.Name != "" {
			key := s.Name + "." + w.Extension()
			if names[key] {
				return r, nil, &store.Refused{
					Cause: fmt.Errorf("two outputs are called %q: give one another name", s.Name),
				}
			}
			names[key] = true
		}
		works = append(works, w)
	}
	return r, works, nil
}

// plan works an output out.
func (q *Queue) plan(
	ctx context.Context,
	r store.StoredReveal,
	pin authoring.Source,
	s release.Settings,
) (Planned, error) {
	out := Planned{Source: pin}
	m, err := q.authoring.ModelOf(ctx, pin.Source, pin.RevisionID, false)
	if err != nil {
		return out, err
	}
	doc, err := reveal.Parse([]byte(r.Document))
	if err != nil {
		return out, err
	}
	out.Work, err = release.Plan(s, m, doc, func(id string) (*product.Model, *reveal.Reveal, error) {
		if _, err := uuid.Parse(id); err != nil {
			return nil, nil, store.ErrMissing
		}
		other, err := q.store.Reveal(ctx, id)
		if err == nil && other.ProjectID != r.ProjectID {
			err = store.ErrMissing
		}
		if err != nil {
			return nil, nil, err
		}
		m, err := q.authoring.ModelOf(ctx, pin.Source, other.RevisionID, false)
		if err != nil {
			return nil, nil, err
		}
		doc, err := reveal.Parse([]byte(other.Document))
		out.Source.Joined = append(
			out.Source.Joined,
			store.Joined{ID: id, Version: other.Version, RevisionID: other.RevisionID, Document: other.Document},
		)
		return m, doc, err
	})
	if err == nil {
		err = out.Attach(q.attachments(ctx, r.ProjectID))
	}
	if err == nil {
		out.Source = out.Source.In(out.Variant())
	}
	if err == nil && !out.Settings.Kind.SaysNames() {
		out.Source = out.Source.WithoutNames()
	}
	if err != nil {
		return out, &store.Refused{Cause: err}
	}
	return out, nil
}

// Cancel stops an output, whoever is at it.
func (q *Queue) Cancel(ctx context.Context, id string) error {
	o, err := q.store.Output(ctx, id)
	if err != nil {
		return err
	}
	if err := q.store.EndOutput(ctx, o, store.Cancelled, "", 0); err != nil {
		return err
	}
	return os.RemoveAll(q.store.WorkFolder(o))
}

// Pause lets an output wait; Resume goes on with it.
func (q *Queue) Pause(ctx context.Context, id string) error {
	o, err := q.store.Output(ctx, id)
	if err != nil {
		return err
	}
	return q.store.PauseOutput(ctx, o)
}

// Resume queues what is missing of a paused, failed or cancelled output.
func (q *Queue) Resume(ctx context.Context, id string) error {
	o, err := q.store.Output(ctx, id)
	if err != nil {
		return err
	}
	w, err := q.planned(ctx, o, false)
	if err != nil {
		return err
	}
	return q.store.ResumeOutput(ctx, o, w.Segments(), q.notifyWorkers)
}
