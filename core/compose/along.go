package compose

import (
	"errors"
	"math"
	"slices"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/edit"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// takeAlong lets cues act on parts that none acts on yet, where they act on others of the same shape: each goes with the
// nearest of these.
func (c *composer) takeAlong() error {
	touched := map[assembly.NodeID]bool{}
	c.eachTargeted(func(cue *reveal.Cue) {
		for _, t := range cue.Targets {
			touched[t] = true
		}
	})
	worlds := c.Assembly.Worlds()
	middle := func(i int) space.Vec {
		return worlds[i].Apply(c.Assembly.Shapes[c.Assembly.Nodes[i].Shape].Bounds().Centre())
	}
	joins := map[assembly.NodeID][]assembly.NodeID{} // by the part whose cues they join
	for _, id := range c.w.Nodes {
		i, ok := c.Index[id]
		if !ok || !c.Assembly.Nodes[i].IsPart() || touched[id] {
			continue
		}
		best, least := assembly.NodeID(""), math.Inf(1)
		for k := range c.Assembly.Nodes {
			n := &c.Assembly.Nodes[k]
			if k == i || n.Shape != c.Assembly.Nodes[i].Shape || !touched[n.ID] {
				continue
			}
			if far := r3.Norm(r3.Sub(middle(i), middle(k))); far < least {
				best, least = n.ID, far
			}
		}
		if best != "" {
			joins[best] = append(joins[best], id)
		}
	}
	if len(joins) == 0 {
		return errors.New("No cue acts on parts like these.")
	}
	c.eachTargeted(func(cue *reveal.Cue) {
		grown := cue.Clone()
		for _, t := range cue.Targets {
			for _, id := range joins[t] {
				if !slices.Contains(grown.Targets, id) {
					grown.Targets = append(grown.Targets, id)
				}
			}
		}
		if len(grown.Targets) > len(cue.Targets) {
			c.add(edit.Command{Op: edit.SetCue, Cue: &grown})
		}
	})
	return nil
}

// eachTargeted calls do for every cue that may act on several nodes.
func (c *composer) eachTargeted(do func(cue *reveal.Cue)) {
	for i := range c.r.Steps {
		for k := range c.r.Steps[i].Cues {
			if cue := &c.r.Steps[i].Cues[k]; cue.Kind.Targeted() && !cue.Kind.Single() {
				do(cue)
			}
		}
	}
}
