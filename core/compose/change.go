package compose

import (
	"errors"
	"math"
	"slices"

	"slowreveal/core/edit"
	"slowreveal/core/reveal"
)

// sources are the cues whose settings the selected ones have, each once.
func (c *composer) sources() (list []reveal.Cue, err error) {
	var known []reveal.CueID
	for _, id := range c.w.CueIDs {
		cue, err := c.find(id)
		if err != nil {
			return nil, err
		}
		source := c.r.Original(cue)
		if !slices.Contains(known, source.ID) {
			known = append(known, source.ID)
			list = append(list, *source)
		}
	}
	return list, nil
}

func (c *composer) set(cue reveal.Cue) { c.add(edit.Command{Op: edit.SetCue, Cue: &cue}) }

// stagger lets each further target of cues come a fifth of their time later; where all do, at once again.
func (c *composer) stagger() error {
	cues, err := c.sources()
	if err != nil {
		return err
	}
	cues = slices.DeleteFunc(cues, func(cue reveal.Cue) bool { return len(cue.Targets) < 2 })
	if len(cues) == 0 {
		return errors.New("none of these acts on several parts")
	}
	on := slices.ContainsFunc(cues, func(cue reveal.Cue) bool { return cue.Stagger == 0 })
	for _, cue := range cues {
		cue.Stagger = 0
		if on {
			cue.Stagger = reveal.Micros(math.Round(float64(cue.Duration)/5/10_000)) * 10_000
			if cue.Stagger == 0 {
				cue.Stagger = reveal.Second / 10
			}
		}
		c.set(cue)
	}
	return nil
}

// setTargets lets cues act on the picked nodes too, or no longer; on something each acts.
func (c *composer) setTargets() error {
	for _, id := range c.w.CueIDs {
		cue, err := c.find(id)
		if err != nil {
			return err
		}
		if len(cue.Targets) == 0 {
			continue
		}
		changed := *cue
		changed.Targets = slices.DeleteFunc(slices.Clone(cue.Targets), c.isPicked)
		if c.w.On {
			if changed.Lost != "" { // in the place of what is gone
				changed.Targets, changed.Muted, changed.Lost = nil, changed.Lost == reveal.LostOff, ""
			}
			changed.Targets = append(changed.Targets, c.w.Nodes...)
		}
		if len(changed.Targets) > 0 {
			c.set(changed)
		}
	}
	return nil
}

// mute switches cues off, or on where all of them are off.
func (c *composer) mute() error {
	var cues []reveal.Cue
	off := false
	for _, id := range c.w.CueIDs {
		cue, err := c.find(id)
		if err != nil {
			return err
		}
		if cue.Lost != "" {
			return errors.New(
				"nothing that it acts on is in the product any more: pick other parts, and add them to what it acts on",
			)
		}
		cues = append(cues, *cue)
		off = off || !cue.Muted
	}
	for _, cue := range cues {
		cue.Muted = off
		c.set(cue)
	}
	return nil
}

// atOnce lets cues take no time, or that of a transition again. A length that twins share changes once.
func (c *composer) atOnce() error {
	for _, id := range c.w.CueIDs {
		cue, err := c.find(id)
		if err != nil {
			return err
		}
		changed := *c.r.Original(cue)
		if changed.Duration = changeTime; c.w.On {
			changed.Duration = atOnce
		}
		c.set(changed)
	}
	return nil
}

// duplicateCues puts a copy of each cue right behind it.
func (c *composer) duplicateCues() error {
	for _, id := range c.w.CueIDs {
		i, k := c.r.FindCue(id)
		if i < 0 {
			return edit.ErrNoCue
		}
		cue := c.r.Steps[i].Cues[k]
		cue.Offset += c.r.Original(&cue).Duration
		c.insertCue(c.r.Steps[i].ID, len(c.r.Steps[i].Cues), cue)
	}
	return nil
}

// pullOut takes unscrewed parts straight out from where their threads end.
func (c *composer) pullOut() error {
	for _, id := range c.w.CueIDs {
		i, k := c.r.FindCue(id)
		if i < 0 {
			return edit.ErrNoCue
		}
		cue := c.r.Steps[i].Cues[k]
		full := cue.With(c.r.Original(&cue))
		if full.Unscrew == nil {
			continue
		}
		ways, err := c.Ways(full.Targets)
		if err != nil {
			return err
		}
		c.insertCue(c.r.Steps[i].ID, k+1, out(&full, ways.Distance))
	}
	if len(c.out) == 0 {
		return errors.New("none of these unscrews anything")
	}
	return nil
}

// thenOn makes routes of pulls: what they went along at the same time comes afterwards, or they go on aside.
func (c *composer) thenOn() error {
	cues, err := c.sources()
	if err != nil {
		return err
	}
	for _, cue := range cues {
		p := cue.Pull
		if p == nil {
			continue
		}
		on := reveal.Leg{Along: aside(p.Along), Distance: math.Abs(p.Distance)}
		if p.Secondary != nil {
			on = *p.Secondary
		}
		cue.Kind, cue.Pull, cue.Duration = reveal.KindRoute, nil, 2*cue.Duration
		cue.Route = &reveal.Route{
			Axes:   p.Axes,
			Legs:   []reveal.Leg{{Along: p.Along, Distance: p.Distance}, on},
			Radius: corner(p.Distance),
		}
		c.set(cue)
	}
	return nil
}

// sideways lets pulls go aside at the same time, or no longer.
func (c *composer) sideways() error {
	cues, err := c.sources()
	if err != nil {
		return err
	}
	for _, cue := range cues {
		if cue.Pull == nil {
			continue
		}
		pull := *cue.Pull
		pull.Secondary = nil
		if c.w.On {
			pull.Secondary = &reveal.Leg{Along: aside(pull.Along), Distance: sidewaysFirst}
		}
		cue.Pull = &pull
		c.set(cue)
	}
	return nil
}

// addLeg lets routes go on.
func (c *composer) addLeg() error {
	cues, err := c.sources()
	if err != nil {
		return err
	}
	for _, cue := range cues {
		if cue.Route == nil || len(cue.Route.Legs) == 0 {
			continue
		}
		route := *cue.Route
		last := route.Legs[len(route.Legs)-1]
		route.Legs = append(slices.Clone(route.Legs), reveal.Leg{Along: aside(last.Along), Distance: legFirst})
		cue.Route = &route
		c.set(cue)
	}
	return nil
}
