// Package firstfilm makes a film of an assembly that nobody has directed yet: a teardown plan, its steps with shots and
// words, the way back and a turn around, looked at by the checks and mended where they offer something. It is something
// to change, not to start from nothing.
package firstfilm

import (
	"context"
	"fmt"

	"slowreveal/core/assembly"
	"slowreveal/core/clearance"
	"slowreveal/core/edit"
	"slowreveal/core/plan"
	"slowreveal/core/product"
	"slowreveal/core/proof"
	"slowreveal/core/removal"
	"slowreveal/core/reveal"
	"slowreveal/core/survey"
	"slowreveal/prove"
)

// AtRest is how an assembly stands as it was imported, all of it seen.
func AtRest(a *assembly.Assembly) clearance.Pose {
	at := clearance.Pose{World: a.Worlds(), Opacity: make([]float64, len(a.Nodes))}
	for i := range at.Opacity {
		at.Opacity[i] = 1
	}
	return at
}

// Plan plans the teardown of a model at rest, and proves it.
func Plan(ctx context.Context, m *product.Model, choices plan.Choices, found func(plan.Plan)) (plan.Plan, error) {
	known, err := survey.Of(ctx, m.Assembly, m.Shapes)
	if err != nil {
		return plan.Plan{}, fmt.Errorf("looking at the parts: %w", err)
	}
	p, err := removal.Run(
		ctx,
		removal.Subject{Assembly: m.Assembly, Shapes: m.Shapes, Survey: known, At: AtRest(m.Assembly)},
		choices,
		found,
	)
	if err != nil || len(p.Moves) == 0 {
		return p, err
	}
	blank, err := plan.Film(&plan.Plan{}, m.Assembly, m.Assembly.Name, plan.Writing{Fresh: "blank"})
	if err != nil {
		return p, err
	}
	return Prove(ctx, m, blank, 0, p)
}

// rounds is how often a film of so many parts is looked at and mended: what it takes grows with the square of them.
func rounds(parts int) int { return max(1, min(4, 400/max(parts, 1))) }

// Make writes the film of a plan, and mends what can be mended. What is left is in the outcome.
func (l *Looker) Make(ctx context.Context, p *plan.Plan, w plan.Writing) (*reveal.Reveal, proof.Outcome, error) {
	var none proof.Outcome
	m, settings := l.Model, proof.Settings{Memory: l.Memory}
	write := func(p *plan.Plan) (*reveal.Reveal, error) { return plan.Film(p, m.Assembly, m.Assembly.Name, w) }
	looked, err := l.look(ctx, *p, write)
	if err != nil {
		return nil, none, err
	}
	doc, err := write(&looked)
	if err != nil {
		return nil, none, err
	}
	if err := reveal.Validate(doc, m.Assembly); err != nil {
		return nil, none, fmt.Errorf("the planned film is not valid: %w", err)
	}
	outcome, err := prove.Film(ctx, m, l.Scene, doc, settings, nil)
	for n := 0; n < rounds(m.Assembly.Parts()) && err == nil && len(outcome.Findings) > 0; n++ {
		done := 0
		done, err = l.mend(ctx, doc, settings, &outcome)
		if err != nil || done == 0 {
			break
		}
		outcome, err = prove.Film(ctx, m, l.Scene, doc, settings, nil)
	}
	return doc, outcome, err
}

// mend carries out the first mend of each finding, and returns how many it could: a mend that no longer fits what
// others have changed is left out.
func (l *Looker) mend(
	ctx context.Context,
	doc *reveal.Reveal,
	settings proof.Settings,
	outcome *proof.Outcome,
) (done int, err error) {
	mends := make([][]proof.Mend, len(outcome.Findings))
	if _, err := prove.Mend(ctx, l.Model, l.Scene, doc, settings, outcome, func(i int, list []proof.Mend) { mends[i] = list }); err != nil {
		return 0, err
	}
	touched := map[edit.Op]map[string]bool{}
	for _, list := range mends {
		if len(list) == 0 {
			continue
		}
		c := list[0].Command
		key := string(c.StepID) + string(c.CueID)
		if c.Cue != nil {
			key = string(c.Cue.ID)
		}
		if touched[c.Op] == nil {
			touched[c.Op] = map[string]bool{}
		}
		if touched[c.Op][key] && c.Op != edit.Batch { // made for what another mend has changed by now
			continue
		}
		if _, err := edit.Do(doc, l.Model.Assembly, c); err == nil {
			touched[c.Op][key] = true
			done++
		}
	}
	return done, nil
}
