package firstfilm

import (
	"context"
	"maps"
	"slices"

	"slowreveal/core/assembly"
	"slowreveal/core/edit"
	"slowreveal/core/plan"
	"slowreveal/core/product"
	"slowreveal/core/proof"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/prove"
	"slowreveal/render"
)

// Looker looks at films of a model, with what is known of the model already.
type Looker struct {
	Model  *product.Model
	Scene  *render.Scene
	Memory *proof.Memory
}

// NewLooker is one who has not seen the model yet.
func NewLooker(m *product.Model) (*Looker, error) {
	scene, err := render.NewScene(m.Assembly, m.Shapes)
	return &Looker{m, scene, proof.NewMemory()}, err
}

// Look looks at a plan as the steps that it becomes behind the one that runs at a time of a reveal, and notes how the
// camera is to be turned where the usual way sees too little of what moves.
func (l *Looker) Look(ctx context.Context, doc *reveal.Reveal, at reveal.Micros, p plan.Plan) (plan.Plan, error) {
	return l.look(ctx, p, func(p *plan.Plan) (*reveal.Reveal, error) {
		tried := reveal.Clone(doc)
		_, err := edit.Do(
			tried,
			l.Model.Assembly,
			plan.Insert(p, l.Model.Assembly, tried, at, plan.Writing{Fresh: "looked"}).Command,
		)
		return tried, err
	})
}

// ofEyes are the checks of findings that another eye may mend.
var ofEyes = []string{"hidden", "crowded", "camera"}

// look writes the film of a plan again and again, with the camera turned otherwise where that shows more: it takes its
// time to get there, and what follows is seen from there.
func (l *Looker) look(
	ctx context.Context,
	p plan.Plan,
	write func(p *plan.Plan) (*reveal.Reveal, error),
) (plan.Plan, error) {
	settings := proof.Settings{Memory: l.Memory, Checks: ofEyes}
	ours := map[assembly.NodeID]bool{}
	for i := range p.Moves {
		for _, id := range p.Moves[i].Nodes {
			ours[id] = true
		}
	}
	for range rounds(l.Model.Assembly.Parts()) {
		doc, err := write(&p)
		if err != nil {
			return p, err
		}
		outcome, err := prove.Film(ctx, l.Model, l.Scene, doc, settings, nil)
		if err != nil {
			return p, err
		}
		eyes := maps.Clone(p.Eyes)
		if eyes == nil {
			eyes = map[assembly.NodeID]space.Quat{}
		}
		if err := l.otherEyes(ctx, doc, settings, outcome, ours, eyes); err != nil {
			return p, err
		}
		if len(eyes) == len(p.Eyes) {
			break
		}
		p.Eyes = eyes
	}
	return p, nil
}

// otherEyes adds how the camera is to be turned for what of ours is hidden while it moves or covered after that, or where it
// goes through something. For what that has been tried already it is not tried again.
func (l *Looker) otherEyes(
	ctx context.Context,
	doc *reveal.Reveal,
	settings proof.Settings,
	outcome proof.Outcome,
	ours map[assembly.NodeID]bool,
	eyes map[assembly.NodeID]space.Quat,
) error {
	looked := func(f *proof.Finding) assembly.NodeID { // at what, by one of its nodes
		if f.Check == "hidden" && len(f.Parts) > 0 {
			return f.Parts[0]
		}
		return lastMoved(doc, f.Step)
	}
	outcome.Findings = slices.DeleteFunc(slices.Clone(outcome.Findings), func(f proof.Finding) bool {
		id := looked(&f)
		_, tried := eyes[id]
		return tried || !ours[id]
	})
	_, err := prove.Mend(ctx, l.Model, l.Scene, doc, settings, &outcome, func(i int, list []proof.Mend) {
		if len(list) > 0 && list[0].Command.Op == edit.SetCue && list[0].Command.Cue.Shot != nil {
			eyes[looked(&outcome.Findings[i])] = list[0].Command.Cue.Shot.Camera.Orientation
		}
	})
	return err
}

// lastMoved is what a step moves last.
func lastMoved(doc *reveal.Reveal, step reveal.StepID) (id assembly.NodeID) {
	if k := doc.FindStep(step); k >= 0 {
		for _, c := range doc.Steps[k].Cues {
			if c.Kind.Moves() && len(c.Targets) > 0 {
				id = c.Targets[0]
			}
		}
	}
	return id
}
