package authoring

import (
	"context"
	"fmt"

	"slowreveal/core/edit"
	"slowreveal/core/reveal"
	"slowreveal/store"
)

// CreateReveal stores a reveal of the project's newest revision, after checking it.
func (s *Service) CreateReveal(ctx context.Context, project string, r *reveal.Reveal) (store.StoredReveal, error) {
	id, err := s.once(ctx, func(u *unit) (string, error) {
		if err := u.HoldArrangement(ctx, project); err != nil {
			return "", err
		}
		revision, err := u.Revision(ctx, project)
		if err != nil {
			return "", err
		}
		m, err := u.model(ctx, revision.ID)
		if err != nil {
			return "", err
		}
		if err := reveal.Validate(r, m.Assembly); err != nil {
			return "", &store.Refused{Cause: err}
		}
		id, err := u.insertReveal(ctx, project, revision.ID, r)
		if err != nil {
			return "", err
		}
		return id, u.Notify(ctx, store.Event{Kind: "reveals", Project: project, ID: id})
	})
	if err != nil {
		return store.StoredReveal{}, err
	}
	return s.Store.Reveal(ctx, id)
}

func (u *unit) insertReveal(ctx context.Context, project, revision string, r *reveal.Reveal) (id string, err error) {
	return u.InsertReveal(ctx, store.StoredReveal{
		ProjectID:  project,
		RevisionID: revision,
		Title:      r.Title,
		Document:   store.RawText(reveal.Write(r)),
	})
}

// RestoreReveal brings a deleted reveal back with all its history. What the assembly, as it is arranged
// now, no longer has is left out by an edit of its own.
func (s *Service) RestoreReveal(ctx context.Context, id string) error {
	return s.within(ctx, func(u *unit) error {
		project, err := u.ProjectOf(ctx, id)
		if err != nil {
			return err
		}
		if err := u.HoldArrangement(ctx, project); err != nil {
			return err
		}
		r, err := u.RestoreReveal(ctx, id)
		if err != nil {
			return err
		}
		d, err := u.begin(ctx, &r)
		if err != nil || reveal.Validate(d.doc, d.assembly) == nil {
			return err
		}
		c, err := u.fitted(ctx, r.RevisionID, r.Document)
		if err != nil {
			return err
		}
		entry := store.Entry{Kind: "do", Label: "leave out what the assembly no longer has"}
		if err := d.apply(ctx, On{}, &entry, c, nil); err != nil {
			return err
		}
		return d.put(ctx)
	})
}

// GoBack makes a reveal what a named version of it was: an edit like any other,
// which can be undone. What the assembly no longer has is left out.
func (s *Service) GoBack(ctx context.Context, version string, on On) (Outcome, error) {
	v, err := s.Store.Version(ctx, version)
	if err != nil {
		return Outcome{}, err
	}
	return s.single(ctx, v.RevealID, on, func(c *change) (store.Entry, edit.Command, error) {
		if c.reveal.Version != on.Base { // what is gone back from is what one has seen
			return store.Entry{}, edit.Command{}, &Stale{}
		}
		command, err := c.fitted(ctx, c.reveal.RevisionID, v.Document)
		return store.Entry{Kind: "do", Label: fmt.Sprintf("go back to “%s”", v.Name)}, command, err
	})
}

// fitted is the command that makes a reveal what a document says, as far as the assembly of a
// revision has what it names.
func (u *unit) fitted(ctx context.Context, revision string, document store.RawText) (edit.Command, error) {
	doc, err := reveal.Parse([]byte(document))
	if err != nil {
		return edit.Command{}, err
	}
	m, err := u.model(ctx, revision)
	if err != nil {
		return edit.Command{}, err
	}
	reveal.Carry(doc, m.Assembly)
	return edit.Command{Op: edit.Replace, Reveal: doc}, nil
}

// Differences says what has changed from a named version to another one, or, for
// "", to the reveal as it is.
func (s *Service) Differences(ctx context.Context, from, to string) ([]string, error) {
	v, err := s.Store.Version(ctx, from)
	if err != nil {
		return nil, err
	}
	var after store.RawText
	if to == "" {
		r, err := s.Store.Reveal(ctx, v.RevealID)
		if err != nil {
			return nil, err
		}
		after = r.Document
	} else {
		o, err := s.Store.Version(ctx, to)
		if err != nil {
			return nil, err
		}
		after = o.Document
	}
	a, err := reveal.Parse([]byte(v.Document))
	if err != nil {
		return nil, err
	}
	b, err := reveal.Parse([]byte(after))
	if err != nil {
		return nil, err
	}
	return reveal.Differences(a, b), nil
}
