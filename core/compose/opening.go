package compose

import (
	"errors"
	"slices"

	"slowreveal/core/assembly"
	"slowreveal/core/edit"
	"slowreveal/core/reveal"
)

// openHere makes a moment of the film the opening. The cues that have led there are switched off: what they did is in
// the opening now.
func (c *composer) openHere() error {
	if c.Film == nil {
		return errors.New("nothing is open")
	}
	opening := c.Film.Opening(c.w.Time)
	c.add(edit.Command{Op: edit.SetOpening, Opening: &opening})
	for i := range c.Film.Schedule.Bars {
		b := &c.Film.Schedule.Bars[i]
		if b.Start >= c.w.Time || b.Muted || b.Retraced || b.Kind.Passes() {
			continue
		}
		cue, err := c.find(b.Cue)
		if err != nil {
			return err
		}
		off := *cue
		off.Muted = true
		c.add(edit.Command{Op: edit.SetCue, Cue: &off})
		c.done.Off++
	}
	return nil
}

// suppress leaves nodes out of the film, or takes them in again.
func (c *composer) suppress() error {
	opening := c.r.Opening
	opening.Suppressed = slices.DeleteFunc(slices.Clone(opening.Suppressed), c.isPicked)
	if c.w.On {
		opening.Suppressed = append(opening.Suppressed, c.w.Nodes...)
	}
	c.add(edit.Command{Op: edit.SetOpening, Opening: &opening})
	return nil
}

// openFaded lets nodes be see-through from the beginning, or solid.
func (c *composer) openFaded() error {
	opening := c.r.Opening
	opening.Opacities = slices.DeleteFunc(
		slices.Clone(opening.Opacities),
		func(o reveal.NodeOpacity) bool { return c.isPicked(o.Node) },
	)
	for _, node := range c.w.Nodes {
		if c.w.Opacity < 1 {
			opening.Opacities = append(opening.Opacities, reveal.NodeOpacity{Node: node, Opacity: c.w.Opacity})
		}
	}
	c.add(edit.Command{Op: edit.SetOpening, Opening: &opening})
	return nil
}

func (c *composer) isPicked(node assembly.NodeID) bool { return slices.Contains(c.w.Nodes, node) }
