package authoring

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"slowreveal/core/arrange"
	"slowreveal/core/assembly"
	"slowreveal/core/compose"
	"slowreveal/core/edit"
	"slowreveal/core/match"
	"slowreveal/core/product"
	"slowreveal/core/reveal"
	"slowreveal/core/solid"
	"slowreveal/store"
)

// matchRevision gives the nodes of a new revision the ids that they had in the newest one of the project, and puts what
// has changed into its report. It returns how to find again what was pointed at on parts that have another shape.
func (s *Service) matchRevision(ctx context.Context, project string, m *product.Model) (match.Faces, error) {
	before, err := s.Store.Revision(ctx, project)
	if err != nil {
		return nil, err
	}
	old, err := parseAssembly(before.Assembly)
	if err != nil {
		return nil, err
	}
	shapes := make([]*solid.Shape, len(old.Shapes))
	for i, ref := range old.Shapes {
		data, err := s.Store.Shape(ctx, ref.Hash)
		if err != nil {
			return nil, err
		}
		if shapes[i], err = solid.Decode(data); err != nil {
			return nil, fmt.Errorf("reading a shape of the revision before: %w", err)
		}
	}
	was, is := match.Side{Assembly: old, Shapes: shapes}, match.Side{Assembly: m.Assembly, Shapes: m.Shapes}
	out := match.Outcome{}
	if ids, err := s.knownFile(ctx, project, m.Assembly); err != nil {
		return nil, err
	} else if ids != nil {
		out = match.Again(was, is, ids)
	} else {
		out = match.Of(was, is)
	}
	faces := out.Faces(was, is)
	m.Assembly = out.Kept(m.Assembly)
	changes := out.Comparison(old, m.Assembly)
	said := len(m.Assembly.Joints) > 0
	match.KeepSaid(old, m.Assembly)
	if !said { // they are those of the revision before
		followAxes(faces, m.Assembly.Joints, &changes)
	}
	for i := range m.Assembly.Variants {
		m.Assembly.Variants[i].Divided(changes.Pieces)
	}
	changes.Before = before.ID
	m.Report.Changes = &changes
	return faces, m.Assembly.Check()
}

// mostKnown is in how many revisions before the newest one a file is looked for.
const mostKnown = 8

// knownFile returns the ids that the nodes of an assembly had when the same file was in a project before; nil for
// another file.
func (s *Service) knownFile(ctx context.Context, project string, a *assembly.Assembly) ([]assembly.NodeID, error) {
	list, err := s.Store.ImportedLast(ctx, project, mostKnown)
	if err != nil {
		return nil, err
	}
	for _, text := range list {
		before, err := parseAssembly(text)
		if err != nil {
			return nil, err
		}
		if !match.SameFile(before, a) {
			continue
		}
		ids := make([]assembly.NodeID, len(before.Nodes))
		for i := range before.Nodes {
			ids[i] = before.Nodes[i].ID
		}
		return ids, nil
	}
	return nil, nil
}

// followAxes has joints turn about the bores and shafts again that they were picked by, and says so.
func followAxes(faces match.Faces, joints []assembly.Joint, told *match.Comparison) {
	once := func(list []string, line string) []string { // an arrangement may set a joint several times
		if slices.Contains(list, line) {
			return list
		}
		return append(list, line)
	}
	for i := range joints {
		j := &joints[i]
		switch now, moved, ok := faces.Axis(j.Body, j.Point, j.Axis); {
		case !ok:
			told.Lost = once(told.Lost,
				fmt.Sprintf("the joint “%s”: what it turned about has another shape; give it another axis", j.Name))
		case moved > 0:
			j.Point = now
			told.Followed = once(told.Followed,
				fmt.Sprintf("the joint “%s” is about its bore again, %.3g mm from where that was", j.Name, moved))
		}
	}
}

// carryRevision takes a project to a new revision: its arrangement, its reveals, and the report of what has changed.
func (u *unit) carryRevision(
	ctx context.Context,
	project, revision string,
	m *product.Model,
	faces match.Faces,
) error {
	if err := u.carryArrangement(ctx, project, m, faces); err != nil {
		return err
	}
	if err := u.carryReveals(ctx, project, revision, m, faces); err != nil {
		return err
	}
	nameLost(m.Report.Changes)
	report, err := json.Marshal(m.Report)
	if err != nil {
		return fmt.Errorf("writing the report: %w", err)
	}
	return u.PutReport(ctx, revision, store.RawText(report))
}

// nameLost says the names of nodes that are gone in the place of their ids.
func nameLost(c *match.Comparison) {
	gone := slices.Clone(c.Gone)
	slices.SortFunc(gone, func(a, b match.Named) int { return len(b.ID) - len(a.ID) }) // ids begin with others
	for i, line := range c.Lost {
		for _, n := range gone {
			name := "“" + n.Name + "”"
			if n.Of != "" {
				name += " (one part with “" + n.Of + "” now)"
			}
			if strings.HasSuffix(line, " "+string(n.ID)) {
				line = strings.TrimSuffix(line, string(n.ID)) + name
			}
			line = strings.ReplaceAll(line, `"`+string(n.ID)+`"`, name)
		}
		c.Lost[i] = line
	}
}

// carryArrangement takes what of a project's arrangement still means something to a new revision.
func (u *unit) carryArrangement(ctx context.Context, project string, m *product.Model, faces match.Faces) error {
	a, err := u.lockArrangement(ctx, project)
	if err != nil {
		return err
	}
	index := m.Assembly.Index()
	for i := range a.edits { // bodies have other shapes now
		at, ok := index[a.edits[i].Node]
		if a.edits[i].Do != arrange.Split || !ok || !m.Assembly.Nodes[at].IsPart() {
			continue
		}
		pieces, err := splitting(ctx, u.blobs, a.edits[i].Node, m.Shapes[m.Assembly.Nodes[at].Shape])
		if err == nil {
			a.edits[i] = pieces
		}
	}
	arrange.Divided(a.edits, m.Report.Changes.Pieces)
	for i := range a.edits {
		a.edits[i].Joints = slices.Clone(a.edits[i].Joints)
		followAxes(faces, a.edits[i].Joints, m.Report.Changes)
	}
	var lost []string
	a.edits, lost = arrange.Carry(m.Assembly, a.edits)
	a.undone = nil
	m.Report.Changes.Lost = append(m.Report.Changes.Lost, lost...)
	return u.putArrangement(ctx, project, &a)
}

// carryReveals fits a project's reveals to a new revision. One that loses something is kept as it was under a name.
func (u *unit) carryReveals(
	ctx context.Context,
	project, revision string,
	m *product.Model,
	faces match.Faces,
) error {
	list, err := u.MoveReveals(ctx, project, revision)
	if err != nil {
		return err
	}
	for i := range list {
		if list[i].DeletedAt != nil {
			continue // it is fitted when it is brought back
		}
		lost, followed, err := u.carryReveal(ctx, &list[i], m.Report.Changes.Pieces, faces)
		if err != nil {
			return fmt.Errorf("the reveal %q: %w", list[i].Title, err)
		}
		for _, l := range lost {
			m.Report.Changes.Lost = append(m.Report.Changes.Lost, fmt.Sprintf("“%s”, %s", list[i].Title, l))
		}
		for _, f := range followed {
			m.Report.Changes.Followed = append(m.Report.Changes.Followed, fmt.Sprintf("“%s”, %s", list[i].Title, f))
		}
	}
	return nil
}

// carryReveal fits a reveal to its revision; pieces are the parts that this has in the place of one. lost is what it names
// that is not there, or what is back; followed is what goes with the geometry.
func (u *unit) carryReveal(
	ctx context.Context,
	r *store.StoredReveal,
	pieces assembly.Pieces,
	faces match.Faces,
) (lost, followed []string, err error) {
	d, err := u.begin(ctx, r)
	if err != nil {
		return nil, nil, err
	}
	fitting := reveal.Clone(d.doc)
	divided := reveal.Divided(fitting, pieces)
	var problems reveal.Problems
	switch err := reveal.Validate(d.doc, d.assembly); {
	case err != nil && !errors.As(err, &problems):
		return nil, nil, err
	case err != nil || d.doc.Lost(): // else nothing is gone, and nothing is back
		lost = reveal.Carry(fitting, d.assembly)
	}
	followed, beside := reveal.FollowFaces(fitting, faces)
	lost = append(lost, beside...)
	followed = append(followed, compose.ClearAgain(fitting, d.assembly)...)
	if len(lost)+len(followed) == 0 && !divided {
		return nil, nil, nil // what was gone is gone still
	}
	if len(lost) > 0 {
		if _, err := u.InsertVersion(ctx, r, "Before the new revision", ""); err != nil {
			return nil, nil, err
		}
	}
	c := edit.Command{Op: edit.Replace, Reveal: fitting}
	if err := d.apply(ctx, On{}, &store.Entry{Kind: "do", Label: "fit the new revision"}, c, nil); err != nil {
		return nil, nil, err
	}
	return lost, followed, d.put(ctx)
}
