package compose

import (
	"cmp"
	"errors"
	"slices"

	"slowreveal/core/assembly"
	"slowreveal/core/edit"
	"slowreveal/core/reveal"
)

func (c *composer) find(id reveal.CueID) (*reveal.Cue, error) {
	s, k := c.r.FindCue(id)
	if s < 0 {
		return nil, edit.ErrNoCue
	}
	return &c.r.Steps[s].Cues[k], nil
}

// makeTwins adds a twin of each cue, with the same gaps between them.
func (c *composer) makeTwins() error {
	i, at, err := c.here()
	if err != nil {
		return err
	}
	if len(c.w.CueIDs) == 0 {
		return errors.New("select the cues whose twins are wanted")
	}
	var offsets []reveal.Micros
	for _, id := range c.w.CueIDs {
		cue, err := c.find(id)
		if err != nil {
			return err
		}
		offsets = append(offsets, cue.Offset)
	}
	for n, id := range c.w.CueIDs {
		cue, _ := c.find(id)
		twin := reveal.Cue{Kind: cue.Kind, Twin: cue.ID, Offset: at + offsets[n] - slices.Min(offsets)}
		if cue.Twin != "" {
			twin.Twin = cue.Twin
		}
		if cue.Kind.Targeted() {
			if len(c.w.Nodes) == 0 {
				return errors.New("pick the parts that the twin is to act on")
			}
			twin.Targets = targetsOf(cue.Kind, c.w.Nodes)
		}
		c.insertCue(c.r.Steps[i].ID, len(c.r.Steps[i].Cues)+n, twin)
	}
	return nil
}

// targetsOf are what a cue of a kind can act on: some have one part alone.
func targetsOf(kind reveal.Kind, nodes []assembly.NodeID) []assembly.NodeID {
	if kind.Single() {
		return nodes[:1]
	}
	return nodes
}

// partTwins gives twins settings of their own.
func (c *composer) partTwins() error {
	for _, id := range c.w.CueIDs {
		cue, err := c.find(id)
		if err != nil {
			return err
		}
		if cue.Twin == "" {
			continue
		}
		own := cue.With(c.r.Original(cue))
		own.Twin = ""
		c.add(edit.Command{Op: edit.SetCue, Cue: &own})
	}
	if len(c.out) == 0 {
		return errors.New("none of these shares its settings with another cue")
	}
	return nil
}

// bequeath hands the settings of cues that go to the first twin that stays.
func (c *composer) bequeath(going []reveal.CueID) {
	heirs := map[reveal.CueID]reveal.CueID{}
	for i := range c.r.Steps {
		for k := range c.r.Steps[i].Cues {
			cue := c.r.Steps[i].Cues[k]
			if cue.Twin == "" || !slices.Contains(going, cue.Twin) || slices.Contains(going, cue.ID) {
				continue
			}
			heir, known := heirs[cue.Twin]
			if !known {
				heirs[cue.Twin] = cue.ID
				cue = cue.With(c.r.Original(&cue))
			}
			cue.Twin = heir
			c.add(edit.Command{Op: edit.SetCue, Cue: &cue})
		}
	}
}

func (c *composer) removeNamed() error { return c.removeCues(c.w.CueIDs) }

func (c *composer) removeCues(ids []reveal.CueID) error {
	for _, id := range ids {
		if _, err := c.find(id); err != nil {
			return err
		}
	}
	c.bequeath(ids)
	for _, id := range ids {
		c.add(edit.Command{Op: edit.RemoveCue, CueID: id})
	}
	return nil
}

func (c *composer) removeStep() error {
	i := c.r.FindStep(c.w.StepID)
	if i < 0 {
		return edit.ErrNoStep
	}
	var going []reveal.CueID
	for k := range c.r.Steps[i].Cues {
		going = append(going, c.r.Steps[i].Cues[k].ID)
	}
	c.bequeath(going)
	var idle []reveal.StepID
	c.retraces(func(by reveal.StepID, ids []reveal.StepID) []reveal.StepID {
		left := slices.DeleteFunc(slices.Clone(ids), func(id reveal.StepID) bool { return id == c.w.StepID })
		if len(left) == 0 {
			idle = append(idle, by)
			return ids
		}
		return left
	})
	for _, id := range append(idle, c.w.StepID) {
		c.add(edit.Command{Op: edit.RemoveStep, StepID: id})
	}
	return nil
}

// backTogether makes a teardown a whole film: a pause with everything apart, then
// all of it backwards, camera and all, so that the film ends as it began.
func (c *composer) backTogether() error {
	taken := map[reveal.StepID]bool{}
	for i := range c.r.Steps {
		if t := c.r.Steps[i].Retrace; t != nil {
			for _, id := range t.Steps {
				taken[id] = true
			}
		}
	}
	var steps []reveal.StepID
	for i := range c.r.Steps {
		if s := &c.r.Steps[i]; s.Retrace == nil && !taken[s.ID] && len(s.Cues) > 0 {
			steps = append(steps, s.ID)
		}
	}
	if len(steps) == 0 {
		return errors.New("there is no step that could be run backwards and is not already")
	}
	speed := cmp.Or(c.w.Factor, backSpeed)
	at := len(c.r.Steps)
	pause := reveal.Step{
		ID:       reveal.StepID(c.w.Fresh + "-pause"),
		Title:    "All apart",
		Duration: cmp.Or(c.w.By, pauseTime),
	}
	c.add(edit.Command{Op: edit.InsertStep, Step: &pause, Index: at})
	at++
	back := reveal.Step{
		ID:       reveal.StepID(c.w.Fresh + "-back"),
		Title:    "Put it together again",
		Duration: reveal.Second,
		Retrace:  &reveal.Retrace{Steps: steps, Speed: speed},
	}
	c.add(edit.Command{Op: edit.InsertStep, Step: &back, Index: at})
	c.done.Step = back.ID
	return nil
}
