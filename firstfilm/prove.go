package firstfilm

import (
	"context"
	"slices"

	"slowreveal/core/assembly"
	"slowreveal/core/edit"
	"slowreveal/core/film"
	"slowreveal/core/plan"
	"slowreveal/core/product"
	"slowreveal/core/proof"
	"slowreveal/core/reveal"
)

// Prove looks whether anything goes into anything when a plan is accepted as it is, behind the step that runs at a time
// of a reveal. What a move goes into is noted with it; the plan is proven when that has been asked of all of it.
func Prove(
	ctx context.Context,
	m *product.Model,
	doc *reveal.Reveal,
	at reveal.Micros,
	p plan.Plan,
) (plan.Plan, error) {
	tried := reveal.Clone(doc)
	written := plan.Insert(
		&p,
		m.Assembly,
		tried,
		at,
		plan.Writing{Fineness: plan.EachMove, NoShots: true, Fresh: "proven"},
	)
	if _, err := edit.Do(tried, m.Assembly, written.Command); err != nil {
		return p, err
	}
	found, err := proof.Interference(ctx, film.Compile(m.Assembly, tried), m.Shapes, proof.Settings{})
	if err != nil {
		return p, err
	}
	moves := map[reveal.CueID]int{} // what each of the new cues belongs to
	for i, c := range written.Command.Commands {
		for _, cue := range c.Step.Cues {
			moves[cue.ID] = written.Steps[i][0]
		}
	}
	p.Moves = slices.Clone(p.Moves)
	for _, o := range found.List {
		for _, cue := range o.Cues {
			k, ours := moves[cue]
			if !ours || p.Moves[k].Collides != "" {
				continue
			}
			p.Moves[k].Collides = o.Still
			if within(m.Assembly, o.Still, p.Moves[k].Nodes) {
				p.Moves[k].Collides = o.Moving
			}
		}
	}
	p.Proven = true
	return p, nil
}

// within reports whether a part hangs in one of some nodes.
func within(a *assembly.Assembly, part assembly.NodeID, nodes []assembly.NodeID) bool {
	index := a.Index()
	for i := index[part]; i >= 0; i = a.Nodes[i].Parent {
		if slices.Contains(nodes, a.Nodes[i].ID) {
			return true
		}
	}
	return false
}
