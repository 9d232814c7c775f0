package store

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"slowreveal/core/arrange"
	"slowreveal/core/assembly"
	"slowreveal/core/match"
	"slowreveal/core/product"
)

// Confirm notes that nodes of the newest revision are those of the one before for which they were taken.
func (s *Store) Confirm(ctx context.Context, project string, nodes []assembly.NodeID) error {
	_, err := s.once(ctx, func(tx *Tx) (string, error) {
		return "", alterChanges(ctx, tx, project, func(c *match.Comparison) error {
			for _, id := range nodes {
				at := slices.IndexFunc(c.Changed, func(a match.Altered) bool { return a.ID == id })
				if at < 0 {
					return &Refused{Cause: fmt.Errorf("%q is not in doubt", id)}
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
func (s *Store) Part(ctx context.Context, project string, version int64, node assembly.NodeID) error {
	revision, err := s.Revision(ctx, project)
	if err != nil {
		return err
	}
	_, err = s.once(ctx, func(tx *Tx) (string, error) {
		a, err := arrangement(ctx, tx, project, true)
		if err != nil {
			return "", err
		}
		if a.Version != version {
			return "", &Stale{Missed: Missed{Current: a.Version}}
		}
		from, err := parseAssembly(string(revision.Assembly))
		if err != nil {
			return "", err
		}
		if _, err := arrange.Apply(from, []arrange.Edit{{Do: arrange.Part, Node: node}}); err != nil {
			return "", &Refused{Cause: err}
		}
		var lost []string
		a.edits, lost = arrange.Carry(from, append(a.edits, arrange.Edit{Do: arrange.Part, Node: node}))
		a.undone = nil
		if err := a.write(ctx, tx, project); err != nil {
			return "", err
		}
		told := product.Model{Assembly: from}
		told.Report.Changes = &match.Comparison{}
		if err := carryReveals(ctx, tx, project, revision.ID, &told, nil); err != nil {
			return "", err
		}
		err = alterChanges(ctx, tx, project, func(c *match.Comparison) error {
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
		return "", notify(ctx, tx, Event{Kind: "import", Project: project, ID: revision.ID})
	})
	return err
}

// alterChanges changes what is told of the newest revision of a project.
func alterChanges(ctx context.Context, tx *Tx, project string, change func(c *match.Comparison) error) error {
	var row struct{ ID, Report string }
	if err := tx.GetContext(ctx, &row, `select id, report from revisions where project_id = $1 order by number desc limit 1 for update`, project); err != nil {
		return missing(err)
	}
	var report product.Report
	if err := json.Unmarshal([]byte(row.Report), &report); err != nil {
		return fmt.Errorf("reading the report of a revision: %w", err)
	}
	if report.Changes == nil {
		return &Refused{Cause: fmt.Errorf("this revision is the first: nothing in it was taken for something else")}
	}
	if err := change(report.Changes); err != nil {
		return err
	}
	text, err := json.Marshal(report)
	if err != nil {
		return fmt.Errorf("writing the report of a revision: %w", err)
	}
	_, err = tx.ExecContext(ctx, `update revisions set report = $2 where id = $1`, row.ID, string(text))
	return err
}
