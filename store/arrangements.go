package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"slowreveal/core/arrange"
	"slowreveal/core/assembly"
	"slowreveal/core/reveal"
)

// Arrangement is what a project's author has done to its assembly.
type Arrangement struct {
	Version int64 `json:"version"`
	// Undo and Redo say what they would do, empty for nothing.
	Undo string            `json:"undo"`
	Redo string            `json:"redo"`
	Sets []arrange.PartSet `json:"sets"`

	edits, undone []arrange.Edit
}

// MaxSteps is how many edits an arrangement may have.
const MaxSteps = 10_000

// arrangement returns a project's arrangement without its sets.
func arrangement(ctx context.Context, q reader, project string, lock bool) (Arrangement, error) {
	var row struct {
		Version       int64
		Edits, Undone string
	}
	query := `select version, edits, undone from arrangements where project_id = $1`
	if lock {
		query += ` for update`
	}
	a := Arrangement{}
	if err := q.GetContext(ctx, &row, query, project); err != nil {
		return a, missing(err)
	}
	a.Version = row.Version
	if err := json.Unmarshal([]byte(row.Edits), &a.edits); err != nil {
		return a, fmt.Errorf("reading the stored arrangement: %w", err)
	}
	if err := json.Unmarshal([]byte(row.Undone), &a.undone); err != nil {
		return a, fmt.Errorf("reading the stored arrangement: %w", err)
	}
	if n := len(a.edits); n > 0 {
		a.Undo = a.edits[n-1].Label()
	}
	if n := len(a.undone); n > 0 {
		a.Redo = a.undone[n-1].Label()
	}
	return a, nil
}

// Arrange adds a edit to a project's arrangement. It returns *Stale when version
// is not current, and *Refused when the edit cannot be done or a reveal would
// lose a node that it names.
func (s *Store) Arrange(ctx context.Context, project string, version int64, edit arrange.Edit) error {
	return s.rearrange(ctx, project, version, func(a *Arrangement) error {
		if len(a.edits) >= MaxSteps {
			return fmt.Errorf("the arrangement has %d edits; the limit is %d", len(a.edits), MaxSteps)
		}
		a.edits, a.undone = append(a.edits, edit), nil
		return nil
	})
}

// UndoArrange takes the last edit off.
func (s *Store) UndoArrange(ctx context.Context, project string, version int64) error {
	return s.rearrange(ctx, project, version, func(a *Arrangement) error {
		n := len(a.edits)
		if n == 0 {
			return errors.New("there is nothing to undo")
		}
		a.edits, a.undone = a.edits[:n-1], append(a.undone, a.edits[n-1])
		return nil
	})
}

// RedoArrange brings the edit back that was taken off last.
func (s *Store) RedoArrange(ctx context.Context, project string, version int64) error {
	return s.rearrange(ctx, project, version, func(a *Arrangement) error {
		n := len(a.undone)
		if n == 0 {
			return errors.New("there is nothing to redo")
		}
		a.undone, a.edits = a.undone[:n-1], append(a.edits, a.undone[n-1])
		return nil
	})
}

func (s *Store) rearrange(ctx context.Context, project string, version int64, change func(*Arrangement) error) error {
	_, err := s.once(ctx, func(tx *Tx) (string, error) {
		a, err := arrangement(ctx, tx, project, true)
		if err != nil {
			return "", err
		}
		if a.Version != version {
			return "", &Stale{Missed: Missed{Current: a.Version}}
		}
		if err := change(&a); err != nil {
			return "", &Refused{Cause: err}
		}
		if err := fits(ctx, tx, project, a.edits); err != nil {
			return "", err
		}
		if err := a.write(ctx, tx, project); err != nil {
			return "", err
		}
		return "", notify(ctx, tx, Event{Kind: "arrangement", Project: project, ID: project, Version: version + 1})
	})
	return err
}

// write stores the arrangement as its next version.
func (a *Arrangement) write(ctx context.Context, tx *Tx, project string) error {
	edits, err := json.Marshal(append([]arrange.Edit{}, a.edits...))
	if err != nil {
		return err
	}
	undone, err := json.Marshal(append([]arrange.Edit{}, a.undone...))
	if err != nil {
		return err
	}
	_, err = tx.ExecContext(
		ctx,
		`update arrangements set version = version + 1, edits = $2, undone = $3 where project_id = $1`,
		project,
		string(edits),
		string(undone),
	)
	return err
}

// fits holds the edits against the import, and the project's reveals against what they make of it;
// *Refused when they do not go together. Deleted reveals do not count: they are fitted when they
// are brought back.
func fits(ctx context.Context, tx *Tx, project string, edits []arrange.Edit) error {
	var text string
	if err := tx.GetContext(ctx, &text, `select assembly from revisions where project_id = $1 order by number desc limit 1`, project); err != nil {
		return missing(err)
	}
	from, err := parseAssembly(text)
	if err != nil {
		return err
	}
	out, err := arrange.Apply(from, edits)
	if err != nil {
		return &Refused{Cause: err}
	}
	var reveals []struct{ Title, Document string }
	if err := tx.SelectContext(ctx, &reveals, `select title, document from reveals where project_id = $1 and deleted_at is null order by id`, project); err != nil {
		return err
	}
	for _, r := range reveals {
		doc, err := reveal.Parse([]byte(r.Document))
		if err == nil {
			err = reveal.Validate(doc, out.Assembly)
		}
		if err != nil {
			return &Refused{Cause: fmt.Errorf("the reveal %q would not fit any more: %w", r.Title, err)}
		}
	}
	return nil
}

// PutPieces stores the shapes of the bodies that a part is made of and returns
// the edit that splits it.
func (s *Store) PutPieces(ctx context.Context, project string, id assembly.NodeID) (arrange.Edit, error) {
	r, err := s.Revision(ctx, project)
	if err != nil {
		return arrange.Edit{}, err
	}
	m, err := s.Model(ctx, r.ID, true)
	if err != nil {
		return arrange.Edit{}, err
	}
	at, ok := m.Assembly.Index()[id]
	if !ok || !m.Assembly.Nodes[at].IsPart() {
		return arrange.Edit{}, &Refused{Cause: fmt.Errorf("there is no part %q", id)}
	}
	return s.blobs.pieces(ctx, id, m.Shapes[m.Assembly.Nodes[at].Shape])
}
