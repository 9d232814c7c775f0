package authoring

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"slowreveal/core/arrange"
	"slowreveal/core/assembly"
	"slowreveal/core/product"
	"slowreveal/core/reveal"
	"slowreveal/core/solid"
	"slowreveal/store"
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

// arrangementOf reads a stored arrangement; its sets are found by applying it.
func arrangementOf(stored store.Arrangement) (Arrangement, error) {
	a := Arrangement{Version: stored.Version}
	if err := json.Unmarshal([]byte(stored.Edits), &a.edits); err != nil {
		return a, fmt.Errorf("reading the stored arrangement: %w", err)
	}
	if err := json.Unmarshal([]byte(stored.Undone), &a.undone); err != nil {
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

// textOf is a list of edits as it is stored.
func textOf(edits []arrange.Edit) (store.RawText, error) {
	text, err := json.Marshal(append([]arrange.Edit{}, edits...)) // [] for nothing
	if err != nil {
		return "", fmt.Errorf("writing the arrangement: %w", err)
	}
	return store.RawText(text), nil
}

// Arrange adds an edit to a project's arrangement. It returns *Stale when version is not current, and *store.Refused
// when the edit cannot be done or a reveal would lose a node that it names.
func (s *Service) Arrange(ctx context.Context, project string, version int64, edit arrange.Edit) error {
	return s.rearrange(ctx, project, version, func(a *Arrangement) error {
		if len(a.edits) >= MaxSteps {
			return fmt.Errorf("the arrangement has %d edits; the limit is %d", len(a.edits), MaxSteps)
		}
		a.edits, a.undone = append(a.edits, edit), nil
		return nil
	})
}

// UndoArrange takes the last edit off.
func (s *Service) UndoArrange(ctx context.Context, project string, version int64) error {
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
func (s *Service) RedoArrange(ctx context.Context, project string, version int64) error {
	return s.rearrange(ctx, project, version, func(a *Arrangement) error {
		n := len(a.undone)
		if n == 0 {
			return errors.New("there is nothing to redo")
		}
		a.undone, a.edits = a.undone[:n-1], append(a.edits, a.undone[n-1])
		return nil
	})
}

func (s *Service) rearrange(ctx context.Context, project string, version int64, alter func(*Arrangement) error) error {
	_, err := s.once(ctx, func(u *unit) (string, error) {
		a, err := u.lockArrangement(ctx, project)
		if err != nil {
			return "", err
		}
		if a.Version != version {
			return "", &Stale{Missed: Missed{Current: a.Version}}
		}
		if err := alter(&a); err != nil {
			return "", &store.Refused{Cause: err}
		}
		if err := u.fits(ctx, project, a.edits); err != nil {
			return "", err
		}
		if err := u.putArrangement(ctx, project, &a); err != nil {
			return "", err
		}
		return "", u.Notify(
			ctx,
			store.Event{Kind: "arrangement", Project: project, ID: project, Version: version + 1},
		)
	})
	return err
}

// lockArrangement reads a project's arrangement to change it.
func (u *unit) lockArrangement(ctx context.Context, project string) (Arrangement, error) {
	stored, err := u.LockArrangement(ctx, project)
	if err != nil {
		return Arrangement{}, err
	}
	return arrangementOf(stored)
}

// putArrangement stores an arrangement as its next version.
func (u *unit) putArrangement(ctx context.Context, project string, a *Arrangement) error {
	edits, err := textOf(a.edits)
	if err != nil {
		return err
	}
	undone, err := textOf(a.undone)
	if err != nil {
		return err
	}
	u.own = map[string]*model{}
	return u.PutArrangement(ctx, project, edits, undone)
}

// fits holds the edits against the import, and the project's reveals against what they make of it;
// *store.Refused when they do not go together. Deleted reveals do not count: they are fitted when they
// are brought back.
func (u *unit) fits(ctx context.Context, project string, edits []arrange.Edit) error {
	r, err := u.Revision(ctx, project)
	if err != nil {
		return err
	}
	from, err := parseAssembly(r.Assembly)
	if err != nil {
		return err
	}
	out, err := arrange.Apply(from, edits)
	if err != nil {
		return &store.Refused{Cause: err}
	}
	reveals, err := u.Documents(ctx, project)
	if err != nil {
		return err
	}
	for _, r := range reveals {
		doc, err := reveal.Parse([]byte(r.Document))
		if err == nil {
			err = reveal.Validate(doc, out.Assembly)
		}
		if err != nil {
			return &store.Refused{Cause: fmt.Errorf("the reveal %q would not fit any more: %w", r.Title, err)}
		}
	}
	return nil
}

// Split stores the shapes of the bodies that a part is made of and returns the edit that splits it.
func (s *Service) Split(ctx context.Context, project string, id assembly.NodeID) (arrange.Edit, error) {
	r, err := s.Store.Revision(ctx, project)
	if err != nil {
		return arrange.Edit{}, err
	}
	m, err := s.Model(ctx, r.ID, true)
	if err != nil {
		return arrange.Edit{}, err
	}
	at, ok := m.Assembly.Index()[id]
	if !ok || !m.Assembly.Nodes[at].IsPart() {
		return arrange.Edit{}, &store.Refused{Cause: fmt.Errorf("there is no part %q", id)}
	}
	return splitting(ctx, s.Store.Blobs, id, m.Shapes[m.Assembly.Nodes[at].Shape])
}

// splitting stores the bodies of a shape and returns the edit that splits its part.
func splitting(ctx context.Context, b *store.Blobs, id assembly.NodeID, whole *solid.Shape) (arrange.Edit, error) {
	edit := arrange.Edit{Do: arrange.Split, Node: id}
	shapes, from := whole.Pieces()
	for i, shape := range shapes {
		hash, err := b.PutShape(ctx, shape)
		if err != nil {
			return edit, err
		}
		edit.Pieces = append(edit.Pieces, arrange.Piece{Shape: product.ShapeRef(shape, hash), Submeshes: from[i]})
	}
	return edit, nil
}
