package authoring

import (
	"context"
	"encoding/json"
	"fmt"
	"sync"

	"slowreveal/core/arrange"
	"slowreveal/core/assembly"
	"slowreveal/core/product"
	"slowreveal/core/solid"
	"slowreveal/store"
)

// keptModels is how many assemblies with their shapes stay in memory.
const keptModels = 4

// model is an arranged assembly as it stays in memory.
type model struct {
	product.Model
	arrangement Arrangement
	look        *look
}

// models keeps the arranged assemblies that were used last.
type models struct {
	blobs *store.Blobs

	mu     sync.Mutex
	kept   map[string]*model // by revision
	recent []string
}

// reader is what a store and a unit of work offer alike.
type reader interface {
	ArrangedAs(ctx context.Context, revision string) (project string, version int64, err error)
	Arrangement(ctx context.Context, project string) (store.Arrangement, error)
	Imported(ctx context.Context, revision string) (assembly store.RawText, err error)
}

// Model returns the assembly of a revision, arranged as its project is now, and,
// when shapes is true, its shapes. The result is shared and must not be changed.
func (s *Service) Model(ctx context.Context, revision string, shapes bool) (*product.Model, error) {
	m, err := s.models.at(ctx, s.Store, revision, shapes)
	if err != nil {
		return nil, err
	}
	return &m.Model, nil
}

// Arranged returns the arranged assembly of a revision and its arrangement.
func (s *Service) Arranged(ctx context.Context, revision string) (*assembly.Assembly, Arrangement, error) {
	m, err := s.models.at(ctx, s.Store, revision, false)
	if err != nil {
		return nil, Arrangement{}, err
	}
	return m.Assembly, m.arrangement, nil
}

// Imported returns the assembly of a revision as it was imported, with its shapes.
func (s *Service) Imported(ctx context.Context, revision string) (*product.Model, error) {
	a, err := imported(ctx, s.Store, revision)
	if err != nil {
		return nil, err
	}
	m := &product.Model{Assembly: a}
	return m, readShapes(ctx, s.Store.Blobs, m)
}

// at returns the assembly of a revision as its project is arranged, read through q: the store, or
// the unit of work that somebody is in.
func (s *models) at(ctx context.Context, q reader, revision string, shapes bool) (*model, error) {
	project, version, err := q.ArrangedAs(ctx, revision)
	if err != nil {
		return nil, err
	}
	s.mu.Lock()
	m := s.kept[revision]
	s.mu.Unlock()
	if m == nil || m.arrangement.Version != version {
		if m, err = arranged(ctx, q, revision, project, m); err != nil {
			return nil, err
		}
	}
	if shapes && len(m.Shapes) < len(m.Assembly.Shapes) {
		whole := *m
		if err := readShapes(ctx, s.blobs, &whole.Model); err != nil {
			return nil, err
		}
		m = &whole
	}
	s.keep(revision, m)
	return m, nil
}

func (s *models) keep(revision string, m *model) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if _, known := s.kept[revision]; !known {
		s.recent = append(s.recent, revision)
		if len(s.recent) > keptModels {
			delete(s.kept, s.recent[0])
			s.recent = s.recent[1:]
		}
	}
	s.kept[revision] = m
}

// readShapes reads the shapes that a model has not got yet.
func readShapes(ctx context.Context, b *store.Blobs, m *product.Model) error {
	shapes := make([]*solid.Shape, 0, len(m.Assembly.Shapes))
	for i, ref := range m.Assembly.Shapes {
		if i < len(m.Shapes) {
			shapes = append(shapes, m.Shapes[i])
			continue
		}
		data, err := b.Shape(ctx, ref.Hash)
		if err != nil {
			return err
		}
		shape, err := solid.Decode(data)
		if err != nil {
			return &store.Damaged{Hash: ref.Hash, Why: err}
		}
		shapes = append(shapes, shape)
	}
	m.Shapes = shapes
	return nil
}

func imported(ctx context.Context, q reader, revision string) (*assembly.Assembly, error) {
	text, err := q.Imported(ctx, revision)
	if err != nil {
		return nil, err
	}
	return parseAssembly(text)
}

func parseAssembly(text store.RawText) (*assembly.Assembly, error) {
	out := &assembly.Assembly{}
	if err := json.Unmarshal([]byte(text), out); err != nil {
		return nil, fmt.Errorf("reading the stored assembly: %w", err)
	}
	return out, nil
}

// arranged reads an assembly and arranges it. Shapes of an earlier state stay:
// an arrangement only adds some behind them.
func arranged(ctx context.Context, q reader, revision, project string, before *model) (*model, error) {
	from, err := imported(ctx, q, revision)
	if err != nil {
		return nil, err
	}
	stored, err := q.Arrangement(ctx, project)
	if err != nil {
		return nil, err
	}
	m := &model{}
	if m.arrangement, err = arrangementOf(stored); err != nil {
		return nil, err
	}
	out, err := arrange.Apply(from, m.arrangement.edits)
	if err != nil {
		return nil, fmt.Errorf("arranging the assembly: %w", err)
	}
	m.Assembly, m.arrangement.Sets = out.Assembly, out.Sets
	if m.look, err = lookOf(m.Assembly); err != nil {
		return nil, err
	}
	if before != nil {
		for i, shape := range before.Shapes {
			if i >= len(m.Assembly.Shapes) || m.Assembly.Shapes[i].Hash != before.Assembly.Shapes[i].Hash {
				break
			}
			m.Shapes = append(m.Shapes, shape)
		}
	}
	return m, nil
}
