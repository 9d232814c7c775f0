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
	"slowreveal/formats"
)

// Source is what an output is made of, as it was when it was ordered.
type Source struct {
	// RevisionID and Edits are the assembly and its arrangement, Look how it looks and moves and, where what is made
	// says so, what its parts are called.
	RevisionID string  `db:"revision_id"`
	Edits      RawText `db:"edits"`
	Look       string  `db:"look"`
	Joined     []Joined
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
	return Source{RevisionID: revision, Edits: RawText(edits), Look: m.look, Joined: []Joined{}}, nil
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
func (s *Store) ModelOf(ctx context.Context, from Source, revision string, shapes bool) (*formats.Model, error) {
	now, err := s.models.at(ctx, s.db, revision, shapes)
	if err != nil {
		return nil, err
	}
	if looksAs(from.Look, now.look) {
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
	m := &model{Model: formats.Model{Assembly: out.Assembly}}
	if shapes {
		return &m.Model, s.blobs.readShapes(ctx, m)
	}
	return &m.Model, nil
}

// behind stands between how an assembly looks and what its parts are called, in the name of its look.
const behind = ":"

// WithoutNames is the source of something that does not say what parts are called.
func (s Source) WithoutNames() Source {
	s.Look, _, _ = strings.Cut(s.Look, behind)
	return s
}

// looksAs reports whether a look that was noted is that of today. Names count where they were noted.
func looksAs(noted, today string) bool {
	if !strings.Contains(noted, behind) {
		today, _, _ = strings.Cut(today, behind)
	}
	return noted == today
}

// lookOf digests how an assembly looks and moves: where which shape stands, its finish, what is tied to what; and what
// its parts are called.
func lookOf(a *assembly.Assembly) (string, error) {
	type seen struct {
		ID       assembly.NodeID
		Parent   int
		Pose     any
		Shape    string
		Finishes []assembly.Finish
	}
	looks, names := sha256.New(), sha256.New()
	e, called := json.NewEncoder(looks), json.NewEncoder(names)
	for i := range a.Nodes {
		n := &a.Nodes[i]
		s := seen{ID: n.ID, Parent: n.Parent, Pose: n.Pose}
		if n.IsPart() {
			s.Shape = a.Shapes[n.Shape].Hash
			for _, f := range n.Finishes {
				s.Finishes = append(s.Finishes, a.Finishes[f])
			}
		}
		if err := errors.Join(e.Encode(s), called.Encode(n.Name)); err != nil {
			return "", fmt.Errorf("digesting the assembly: %w", err)
		}
	}
	if len(a.Variants) > 0 {
		if err := e.Encode(a.Variants); err != nil {
			return "", fmt.Errorf("digesting the variants: %w", err)
		}
	}
	if len(a.Joints) > 0 {
		if err := errors.Join(e.Encode(a.Joints), e.Encode(a.Couplings)); err != nil {
			return "", fmt.Errorf("digesting the joints: %w", err)
		}
	}
	return hex.EncodeToString(looks.Sum(nil)) + behind + hex.EncodeToString(names.Sum(nil)[:8]), nil
}
