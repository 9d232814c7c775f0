package store

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"slowreveal/core/arrange"
	"slowreveal/core/assembly"
	"slowreveal/core/product"
	"slowreveal/core/variant"
)

// Source is what an output is made of, as it was when it was ordered.
type Source struct {
	// RevisionID and Edits are the assembly and its arrangement, Look how it looks and moves in the variant that is
	// shown and, where what is made says so, what its parts are called.
	RevisionID string  `db:"revision_id"`
	Edits      RawText `db:"edits"`
	Look       string  `db:"look"`
	Joined     []Joined
	looks      *look // of the product as it is now; nil for what was read
}

// Joined is a further reveal of a joined film.
type Joined struct {
	ID         string  `json:"id"`
	Version    int64   `json:"version"`
	RevisionID string  `json:"revision"`
	Document   RawText `json:"document"`
}

// Pin returns the source that a revision is now.
func (s *Store) Pin(ctx context.Context, revision string) (Source, error) {
	m, err := s.models.at(ctx, s.db, revision, false)
	if err != nil {
		return Source{}, err
	}
	edits := []byte("[]")
	if len(m.arrangement.edits) > 0 {
		if edits, err = json.Marshal(m.arrangement.edits); err != nil {
			return Source{}, fmt.Errorf("writing the arrangement: %w", err)
		}
	}
	return Source{
		RevisionID: revision,
		Edits:      RawText(edits),
		Look:       m.look.noted(m.look.whole),
		Joined:     []Joined{},
		looks:      m.look,
	}, nil
}

// OutputSource returns what an output is made of. Of one that was ordered before this was kept
// it is what is there now.
func (s *Store) OutputSource(ctx context.Context, o Output) (Source, error) {
	var row struct {
		Source
		Now    string `db:"now"`
		Joined string `db:"joined"`
	}
	if err := s.db.GetContext(ctx, &row, `select coalesce(o.revision_id::text, '') as revision_id, o.edits, o.look, o.joined, r.revision_id as now
		from outputs o join reveals r on r.id = o.reveal_id where o.id = $1`, o.ID); err != nil {
		return Source{}, missing(err)
	}
	if row.RevisionID == "" {
		return s.Pin(ctx, row.Now)
	}
	if err := json.Unmarshal([]byte(row.Joined), &row.Source.Joined); err != nil {
		return Source{}, fmt.Errorf("reading what an output is made of: %w", err)
	}
	return row.Source, nil
}

// ModelOf returns the assembly of a revision as it is arranged in a source.
func (s *Store) ModelOf(ctx context.Context, from Source, revision string, shapes bool) (*product.Model, error) {
	now, err := s.models.at(ctx, s.db, revision, shapes)
	if err != nil {
		return nil, err
	}
	if now.look.was(from.Look) {
		return &now.Model, nil
	}
	before, err := imported(ctx, s.db, revision)
	if err != nil {
		return nil, err
	}
	var edits []arrange.Edit
	if err := json.Unmarshal([]byte(from.Edits), &edits); err != nil {
		return nil, fmt.Errorf("reading an output's arrangement: %w", err)
	}
	out, err := arrange.Apply(before, edits)
	if err != nil {
		return nil, fmt.Errorf("arranging the assembly: %w", err)
	}
	m := &model{Model: product.Model{Assembly: out.Assembly}}
	if shapes {
		return &m.Model, s.blobs.readShapes(ctx, m)
	}
	return &m.Model, nil
}

// beforeNames stands between how a product looks and what its parts are called, in the note of a look.
const beforeNames = ":"

// look says how a product looks and moves: digests of the whole of it and of each of its variants, and of what its parts
// are called.
type look struct {
	whole, names string
	variants     map[assembly.VariantID]string
}

// noted is what is kept of a look of the whole product, or of one of its variants.
func (l *look) noted(of string) string { return of + beforeNames + l.names }

// was reports whether a look that was noted is that of today. The names count where they were noted.
func (l *look) was(noted string) bool {
	of, names, named := strings.Cut(noted, beforeNames)
	if named && names != l.names {
		return false
	}
	for _, digest := range l.variants {
		if digest == of {
			return true
		}
	}
	return of == l.whole
}

// WithoutNames is the source of something that does not say what parts are called.
func (s Source) WithoutNames() Source {
	s.Look, _, _ = strings.Cut(s.Look, beforeNames)
	return s
}

// In is the source of something that shows the product in a variant, nil for the whole of it: what is otherwise in other
// variants does not matter to it.
func (s Source) In(v *assembly.Variant) Source {
	if v != nil && s.looks != nil {
		s.Look = s.looks.noted(s.looks.variants[v.ID])
	}
	return s
}

// lookOf digests how an assembly looks and moves: where which shape stands, its finish, what is tied to what; what its
// parts are called; and the same of its variants.
func lookOf(a *assembly.Assembly) (*look, error) {
	names := sha256.New()
	called := json.NewEncoder(names)
	for i := range a.Nodes {
		if err := called.Encode(a.Nodes[i].Name); err != nil {
			return nil, fmt.Errorf("digesting the names: %w", err)
		}
	}
	whole, err := digestOf(a, nil, nil)
	l := &look{whole: whole, names: hex.EncodeToString(names.Sum(nil)[:8]), variants: map[assembly.VariantID]string{}}
	for i := range a.Variants {
		if err != nil {
			break
		}
		v := &a.Variants[i]
		shown := variant.Of(a, nil, v.ID)
		l.variants[v.ID], err = digestOf(shown.Assembly, v, shown.Absent)
	}
	return l, err
}

// digestOf digests how an assembly looks, and what a variant of it is called and calls its parts.
func digestOf(a *assembly.Assembly, v *assembly.Variant, absent []bool) (string, error) {
	type seen struct {
		ID       assembly.NodeID
		Parent   int
		Pose     any
		Shape    string
		Finishes []assembly.Finish
	}
	sum := sha256.New()
	e := json.NewEncoder(sum)
	for i := range a.Nodes {
		if v != nil && absent[i] {
			continue
		}
		n := &a.Nodes[i]
		s := seen{ID: n.ID, Parent: n.Parent, Pose: n.Pose}
		if n.IsPart() {
			s.Shape = a.Shapes[n.Shape].Hash
			for _, f := range n.Finishes {
				s.Finishes = append(s.Finishes, a.Finishes[f])
			}
		}
		if err := e.Encode(s); err != nil {
			return "", fmt.Errorf("digesting the assembly: %w", err)
		}
	}
	if v != nil {
		if err := errors.Join(e.Encode(v.Name), e.Encode(v.Names), e.Encode(v.Instead)); err != nil {
			return "", fmt.Errorf("digesting the variant %q: %w", v.Name, err)
		}
	}
	if len(a.Joints) > 0 {
		if err := errors.Join(e.Encode(a.Joints), e.Encode(a.Couplings)); err != nil {
			return "", fmt.Errorf("digesting the joints: %w", err)
		}
	}
	return hex.EncodeToString(sum.Sum(nil)), nil
}
