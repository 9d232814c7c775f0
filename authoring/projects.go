package authoring

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"slowreveal/core/arrange"
	"slowreveal/core/film"
	"slowreveal/core/match"
	"slowreveal/core/product"
	"slowreveal/core/reveal"
	"slowreveal/store"
)

// CreateProject stores an imported model as the first revision of a new
// project, with an empty reveal to begin with. The shapes go first: a project
// never refers to one that is not there.
func (s *Service) CreateProject(ctx context.Context, name, fileName string, m *product.Model) (store.Project, error) {
	if err := s.putShapes(ctx, m); err != nil {
		return store.Project{}, err
	}
	var id string
	err := s.within(ctx, func(u *unit) (err error) {
		id, err = u.createProject(ctx, name, store.Revision{FileName: fileName}, m)
		return err
	})
	if err != nil {
		return store.Project{}, fmt.Errorf("storing the project: %w", err)
	}
	return s.Store.Project(ctx, id)
}

func (s *Service) putShapes(ctx context.Context, m *product.Model) error {
	for _, shape := range m.Shapes {
		if _, err := s.Store.PutShape(ctx, shape); err != nil {
			return err
		}
	}
	return nil
}

// createProject stores a project with its first revision and a reveal to begin with.
func (u *unit) createProject(
	ctx context.Context,
	name string,
	from store.Revision,
	m *product.Model,
) (id string, err error) {
	if id, err = u.InsertProject(ctx, name); err != nil {
		return "", err
	}
	from.ProjectID = id
	revision, err := u.insertRevision(ctx, from, m)
	if err != nil {
		return "", err
	}
	_, err = u.insertReveal(ctx, id, revision, reveal.New("First reveal", film.FirstLook(m.Assembly)))
	return id, err
}

// insertRevision stores a model as the next revision of a project.
func (u *unit) insertRevision(ctx context.Context, r store.Revision, m *product.Model) (id string, err error) {
	text, err := json.Marshal(m.Assembly)
	if err != nil {
		return "", fmt.Errorf("writing the assembly: %w", err)
	}
	report, err := json.Marshal(m.Report)
	if err != nil {
		return "", fmt.Errorf("writing the report: %w", err)
	}
	r.Assembly, r.Report = store.RawText(text), store.RawText(report)
	return u.InsertRevision(ctx, r)
}

// FinishImport stores what an import has read: a new project or, for files read
// once more, the next revision of theirs. All of it or nothing. store.ErrTaken when the import is no longer this job's.
func (s *Service) FinishImport(ctx context.Context, i store.Import, m *product.Model) error {
	if err := s.putShapes(ctx, m); err != nil {
		return err
	}
	var faces match.Faces
	if i.Revises() {
		var err error
		if faces, err = s.matchRevision(ctx, *i.ProjectID, m); err != nil {
			return err
		}
	}
	return s.within(ctx, func(u *unit) error {
		if err := u.FinishImport(ctx, i); err != nil {
			return err
		}
		from := store.Revision{FileName: i.Files[0].Name, ImportID: &i.ID}
		if i.Reread {
			return u.nextRevision(ctx, i, from, m, faces)
		}
		project, err := u.createProject(ctx, i.Name, from, m)
		if err != nil {
			return err
		}
		return u.PutImportProject(ctx, i, project)
	})
}

// nextRevision takes a project to the revision that an import has read.
func (u *unit) nextRevision(
	ctx context.Context,
	i store.Import,
	from store.Revision,
	m *product.Model,
	faces match.Faces,
) error {
	project := *i.ProjectID
	from.ProjectID = project
	revision, err := u.insertRevision(ctx, from, m)
	if err != nil {
		return err
	}
	if i.Revises() {
		err = u.carryRevision(ctx, project, revision, m, faces)
	} else {
		err = u.carryOver(ctx, project, revision, m)
	}
	if err != nil {
		return err
	}
	return u.Notify(ctx, store.Event{Kind: "import", Project: project, ID: revision})
}

// carryOver moves the arrangement and the reveals of a project to a new
// revision of the same files, after holding each against it. Parts that were split are split anew:
// their bodies have other shapes now.
func (u *unit) carryOver(ctx context.Context, project, revision string, m *product.Model) error {
	a, err := u.lockArrangement(ctx, project)
	if err != nil {
		return err
	}
	index := m.Assembly.Index()
	for _, edits := range [][]arrange.Edit{a.edits, a.undone} {
		for i := range edits {
			at, ok := index[edits[i].Node]
			if edits[i].Do != arrange.Split || !ok || !m.Assembly.Nodes[at].IsPart() {
				continue
			}
			whole := m.Shapes[m.Assembly.Nodes[at].Shape]
			if edits[i], err = splitting(ctx, u.blobs, edits[i].Node, whole); err != nil {
				return err
			}
		}
	}
	var refused *store.Refused
	if err := u.fits(ctx, project, a.edits); errors.As(err, &refused) {
		return &store.Refused{
			Cause: fmt.Errorf("what was made of the assembly does not fit it as it is read now: %w", refused.Cause),
		}
	} else if err != nil {
		return err
	}
	if err := u.putArrangement(ctx, project, &a); err != nil {
		return err
	}
	_, err = u.MoveReveals(ctx, project, revision)
	return err
}
