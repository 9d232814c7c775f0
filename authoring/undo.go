package authoring

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"slowreveal/core/edit"
	"slowreveal/store"
)

// NothingLeft says that who asks has done nothing that could be undone, or redone.
type NothingLeft struct{ What string }

// Error says what there is nothing of.
func (n *NothingLeft) Error() string { return "there is nothing of yours to " + n.What }

// Depends says that an entry cannot be reversed, as somebody has changed later what it changed.
type Depends struct {
	// Kind is "undo" or "redo", Version that of the entry, Label what it did.
	Kind    string
	Version int64
	Label   string
	// By has made the later change, Later says what it was; Own that it was the same person.
	By, Later string
	Own       bool
}

// Error names both changes.
func (d *Depends) Error() string {
	what := "cannot be taken back"
	if d.Kind == "redo" {
		what = "cannot be done again"
	}
	who := d.By + " has"
	switch {
	case d.Own:
		who = "you have"
	case d.By == "":
		who = "somebody else has"
	}
	return fmt.Sprintf("“%s” %s: %s changed the same since (%s)", d.Label, what, who, d.Later)
}

// Undo reverses the last change of who asks that stands, before a version where that is not 0. What
// others have done stays: *Depends when one of them has changed the same since. It is done on the
// reveal as it is now. The request's key, if it has one, is the entry's.
func (s *Service) Undo(ctx context.Context, id string, on On, before int64) (Outcome, error) {
	if before == 0 {
		before = store.NoVersion
	}
	return s.reverse(ctx, id, on, "undo", before)
}

// Redo reverses the last undo of who asks, if nothing was done since.
func (s *Service) Redo(ctx context.Context, id string, on On) (Outcome, error) {
	return s.reverse(ctx, id, on, "redo", store.NoVersion)
}

func (s *Service) reverse(ctx context.Context, id string, on On, kind string, before int64) (Outcome, error) {
	return s.single(ctx, id, on, func(c *change) (store.Entry, edit.Command, error) {
		m, err := c.Marks(ctx, id, on.Person, before)
		if err != nil {
			return store.Entry{}, edit.Command{}, err
		}
		of := m.UndoTo
		if kind == "redo" {
			of = m.RedoTo
		}
		if of == 0 {
			return store.Entry{}, edit.Command{}, &NothingLeft{kind}
		}
		target, err := c.Entry(ctx, id, of)
		if err != nil {
			return store.Entry{}, edit.Command{}, err
		}
		command, err := c.alone(ctx, kind, &target)
		if err != nil {
			return store.Entry{}, edit.Command{}, err
		}
		return store.Entry{Kind: kind, Label: target.Label, Target: of}, command, c.MarkReversed(ctx, id, of)
	})
}

// alone returns the command that reverses an entry and nothing else: *Depends when what it changed
// has been changed since.
func (c *change) alone(ctx context.Context, kind string, target *store.Entry) (edit.Command, error) {
	mine, inverse, err := touching(target)
	if err != nil {
		return edit.Command{}, err
	}
	since, err := c.standing(ctx, target.Version)
	if err != nil {
		return edit.Command{}, err
	}
	for _, o := range slices.Backward(since) {
		if mine.Clashes(o.Touch) {
			return edit.Command{}, &Depends{
				kind,
				target.Version,
				target.Label,
				o.Author,
				o.Label,
				o.Person == target.Person,
			}
		}
	}
	return inverse, nil
}

// mostSince bounds how far back an undo reaches, in entries.
const mostSince = 20_000

// ErrTooLongAgo says that too much was changed since what is to be reversed.
var ErrTooLongAgo = errors.New("this was too long ago to be taken back by itself; go back to a named version instead")

// standing lists what was changed after a version, without what was taken back since.
func (c *change) standing(ctx context.Context, after int64) ([]other, error) {
	var list []other
	gone := map[int64]bool{}
	read := 0
	err := c.EachEntryAfter(ctx, c.reveal.ID, after, func(e *store.Entry) error {
		if read++; read > mostSince {
			return ErrTooLongAgo
		}
		if e.Target > after && !gone[e.Target] { // the two of them come to nothing
			gone[e.Target], gone[e.Version] = true, true
			return nil
		}
		o, _, err := touching(e)
		if err != nil {
			return err
		}
		e.Command, e.Inverse = "", "" // there may be many
		list = append(list, o)
		return nil
	})
	return slices.DeleteFunc(list, func(o other) bool { return gone[o.Version] }), err
}
