package authoring

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"

	"slowreveal/core/arrange"
	"slowreveal/core/assembly"
	"slowreveal/core/match"
	"slowreveal/core/product"
	"slowreveal/store"
)

// Confirm notes that nodes of the newest revision are those of the one before for which they were taken.
func (s *Service) Confirm(ctx context.Context, project string, nodes []assembly.NodeID) error {
	_, err := s.once(ctx, func(u *unit) (string, error) {
		return "", u.alterChanges(ctx, project, func(c *match.Comparison) error {
			for _, id := range nodes {
				at := slices.IndexFunc(c.Changed, func(a match.Altered) bool { return a.ID == id })
				if at < 0 {
					return &store.Refused{Cause: fmt.Errorf("%q is not in doubt", id)}
				}
				c.Changed[at].Sure, c.Changed[at].Why = true, "confirmed by hand"
			}
			return nil
		})
	})
	return err
}

// Part notes that a node of the newest revision is another one than that for which it was taken. What was made of the
// other one loses it, and is told of.
func (s *Service) Part(ctx context.Context, project string, version int64, node assembly.NodeID) error {
	revision, err := s.Store.Revision(ctx, project)
	if err != nil {
		return err
	}
	_, err = s.once(ctx, func(u *unit) (string, error) {
		a, err := u.lockArrangement(ctx, project)
		if err != nil {
			return "", err
		}
		if a.Version != version {
			return "", &Stale{Missed: Missed{Current: a.Version}}
		}
		from, err := parseAssembly(revision.Assembly)
		if err != nil {
			return "", err
		}
		if _, err := arrange.Apply(from, []arrange.Edit{{Do: arrange.Part, Node: node}}); err != nil {
			return "", &store.Refused{Cause: err}
		}
		var lost []string
		a.edits, lost = arrange.Carry(from, append(a.edits, arrange.Edit{Do: arrange.Part, Node: node}))
		a.undone = nil
		if err := u.putArrangement(ctx, project, &a); err != nil {
			return "", err
		}
		told := product.Model{Assembly: from}
		told.Report.Changes = &match.Comparison{}
		if err := u.carryReveals(ctx, project, revision.ID, &told, nil); err != nil {
			return "", err
		}
		err = u.alterChanges(ctx, project, func(c *match.Comparison) error {
			if at := slices.IndexFunc(c.Changed, func(x match.Altered) bool { return x.ID == node }); at >= 0 {
				was := c.Changed[at]
				c.Changed = slices.Delete(c.Changed, at, at+1)
				c.Gone = append(c.Gone, was.Named)
				c.Added = append(c.Added, was.Named)
			}
			c.Lost = append(append(c.Lost, lost...), told.Report.Changes.Lost...)
			nameLost(c)
			return nil
		})
		if err != nil {
			return "", err
		}
		return "", u.Notify(ctx, store.Event{Kind: "import", Project: project, ID: revision.ID})
	})
	return err
}

// alterChanges changes what is told of the newest revision of a project.
func (u *unit) alterChanges(ctx context.Context, project string, change func(c *match.Comparison) error) error {
	revision, err := u.LockRevision(ctx, project)
	if err != nil {
		return err
	}
	var report product.Report
	if err := json.Unmarshal([]byte(revision.Report), &report); err != nil {
		return fmt.Errorf("reading the report of a revision: %w", err)
	}
	if report.Changes == nil {
		return &store.Refused{
			Cause: errors.New("this revision is the first: nothing in it was taken for something else"),
		}
	}
	if err := change(report.Changes); err != nil {
		return err
	}
	text, err := json.Marshal(report)
	if err != nil {
		return fmt.Errorf("writing the report of a revision: %w", err)
	}
	return u.PutReport(ctx, revision.ID, store.RawText(text))
}
