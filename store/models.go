package store

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"sync"

	"gocloud.dev/gcerrors"

	"slowreveal/core/arrange"
	"slowreveal/core/assembly"
	"slowreveal/core/product"
	"slowreveal/core/solid"
	"slowreveal/core/survey"
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
	blobs *blobs

	mu     sync.Mutex
	kept   map[string]*model // by revision
	recent []string
}

// Model returns the assembly of a revision, arranged as its project is now, and,
// when shapes is true, its shapes. The result is shared and must not be changed.
func (s *Store) Model(ctx context.Context, revision string, shapes bool) (*product.Model, error) {
	m, err := s.models.at(ctx, s.db, revision, shapes)
	if err != nil {
		return nil, err
	}
	return &m.Model, nil
}

// Arranged returns the arranged assembly of a revision and its arrangement.
func (s *Store) Arranged(ctx context.Context, revision string) (*assembly.Assembly, Arrangement, error) {
	m, err := s.models.at(ctx, s.db, revision, false)
	if err != nil {
		return nil, Arrangement{}, err
	}
	return m.Assembly, m.arrangement, nil
}

// at returns the assembly of a revision as its project is arranged, read through q: the pool, or
// the transaction that somebody is in.
func (s *models) at(ctx context.Context, q reader, revision string, shapes bool) (*model, error) {
	var of struct {
		Project string
		Version int64
	}
	if err := q.GetContext(ctx, &of, `select r.project_id as project, coalesce(a.version, 0) as version
		from revisions r left join arrangements a on a.project_id = r.project_id where r.id = $1`, revision); err != nil {
		return nil, missing(err)
	}
	s.mu.Lock()
	m := s.kept[revision]
	s.mu.Unlock()
	if m == nil || m.arrangement.Version != of.Version {
		var err error
		if m, err = arranged(ctx, q, revision, of.Project, m); err != nil {
			return nil, err
		}
	}
	if shapes && len(m.Shapes) < len(m.Assembly.Shapes) {
		whole := *m
		if err := s.blobs.readShapes(ctx, &whole); err != nil {
			return nil, err
		}
		m = &whole
	}
	s.keep(revision, m)
	return m, nil
}

// readShapes reads the shapes that a model has not got yet.
func (b *blobs) readShapes(ctx context.Context, m *model) error {
	shapes := make([]*solid.Shape, 0, len(m.Assembly.Shapes))
	for i, ref := range m.Assembly.Shapes {
		if i < len(m.Shapes) {
			shapes = append(shapes, m.Shapes[i])
			continue
		}
		data, err := b.shape(ctx, ref.Hash)
		if err != nil {
			return err
		}
		shape, err := solid.Decode(data)
		if err != nil {
			return &Damaged{ref.Hash, err}
		}
		shapes = append(shapes, shape)
	}
	m.Shapes = shapes
	return nil
}

func imported(ctx context.Context, q reader, revision string) (*assembly.Assembly, error) {
	var text string
	if err := q.GetContext(ctx, &text, `select assembly from revisions where id = $1`, revision); err != nil {
		return nil, missing(err)
	}
	return parseAssembly(text)
}

func parseAssembly(text string) (*assembly.Assembly, error) {
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
	m := &model{}
	if m.arrangement, err = arrangement(ctx, q, project, false); err != nil {
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

// Survey returns what is known of a revision's parts as JSON. It is computed
// when it is asked for first and then kept with the shapes; names and groups do
// not matter to it.
func (s *Store) Survey(ctx context.Context, revision string) (RawText, error) {
	m, err := s.models.at(ctx, s.db, revision, false)
	if err != nil {
		return "", err
	}
	key := "surveys/" + surveyKey(m.Assembly)
	text, err := s.blobs.bucket.ReadAll(ctx, key)
	if err == nil || gcerrors.Code(err) != gcerrors.NotFound {
		return RawText(text), err
	}
	select {
	case s.surveying <- struct{}{}: // one at a time: it takes all processors
	case <-ctx.Done():
		return "", ctx.Err()
	}
	defer func() { <-s.surveying }()
	if m, err = s.models.at(ctx, s.db, revision, true); err != nil {
		return "", err
	}
	found, err := survey.Of(ctx, m.Assembly, m.Shapes)
	if err != nil {
		return "", err
	}
	if text, err = json.Marshal(found); err != nil {
		return "", fmt.Errorf("writing the survey: %w", err)
	}
	return RawText(text), s.blobs.bucket.WriteAll(ctx, key, text, nil)
}

// SurveyOf returns the survey itself.
func (s *Store) SurveyOf(ctx context.Context, revision string) (*survey.Survey, error) {
	text, err := s.Survey(ctx, revision)
	if err != nil {
		return nil, err
	}
	var out survey.Survey
	return &out, errors.Join(json.Unmarshal([]byte(text), &out))
}

// surveyVersion changes whenever surveys come out otherwise.
const surveyVersion = 7

// surveyKey names everything that a survey depends on: which shape stands where.
func surveyKey(a *assembly.Assembly) string {
	h := sha256.New()
	fmt.Fprintln(h, surveyVersion)
	worlds := a.Worlds()
	for i := range a.Nodes {
		if n := &a.Nodes[i]; n.IsPart() {
			w := &worlds[i]
			fmt.Fprintln(h, n.ID, a.Shapes[n.Shape].Hash)
			for _, v := range append(w.R[:], w.T.X, w.T.Y, w.T.Z) {
				fmt.Fprintf(h, "%.6f ", math.Round(v*1e6)/1e6+0)
			}
		}
	}
	return hex.EncodeToString(h.Sum(nil))
}

// Imported returns the assembly of a revision as it was imported, with its shapes.
func (s *Store) Imported(ctx context.Context, revision string) (*product.Model, error) {
	a, err := imported(ctx, s.db, revision)
	if err != nil {
		return nil, err
	}
	m := &model{Model: product.Model{Assembly: a}}
	return &m.Model, s.blobs.readShapes(ctx, m)
}
