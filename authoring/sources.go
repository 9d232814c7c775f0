package authoring

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
	"slowreveal/store"
)

// Source is what an output is to be made of, as it is when it is ordered.
type Source struct {
	store.Source
	looks *look // of the product as it is now
}

// Pin returns the source that a revision is now.
func (s *Service) Pin(ctx context.Context, revision string) (Source, error) {
	m, err := s.models.at(ctx, s.Store, revision, false)
	if err != nil {
		return Source{}, err
	}
	edits, err := textOf(m.arrangement.edits)
	if err != nil {
		return Source{}, err
	}
	stored := store.Source{
		RevisionID: revision,
		Edits:      edits,
		Look:       m.look.noted(m.look.whole),
		Joined:     []store.Joined{},
	}
	return Source{stored, m.look}, nil
}

// OutputSource returns what an output is made of. Of one that was ordered before this was kept
// it is what is there now.
func (s *Service) OutputSource(ctx context.Context, o store.Output) (store.Source, error) {
	from, now, err := s.Store.OutputSource(ctx, o)
	if err != nil || from.RevisionID != "" {
		return from, err
	}
	pin, err := s.Pin(ctx, now)
	return pin.Source, err
}

// ModelOf returns the assembly of a revision as it is arranged in a source.
func (s *Service) ModelOf(
	ctx context.Context,
	from store.Source,
	revision string,
	shapes bool,
) (*product.Model, error) {
	now, err := s.models.at(ctx, s.Store, revision, shapes)
	if err != nil {
		return nil, err
	}
	if now.look.was(from.Look) {
		return &now.Model, nil
	}
	before, err := imported(ctx, s.Store, revision)
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
	m := &product.Model{Assembly: out.Assembly}
	if shapes {
		return m, readShapes(ctx, s.Store.Blobs, m)
	}
	return m, nil
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
