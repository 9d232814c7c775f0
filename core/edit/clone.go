package edit

import (
	"slices"

	"slowreveal/core/reveal"
)

// A document never shares memory with the commands that made it: a command is
// kept in logs and histories, and must not change with the document.

func cloneOpening(o reveal.Opening) reveal.Opening {
	o.Suppressed = slices.Clone(o.Suppressed)
	o.Opacities = slices.Clone(o.Opacities)
	o.Tints, o.Poses, o.Surfaces = slices.Clone(o.Tints), slices.Clone(o.Poses), slices.Clone(o.Surfaces)
	return o
}

func cloneStep(s reveal.Step) reveal.Step {
	s.Notice = cloned(s.Notice)
	s.Tools = slices.Clone(s.Tools)
	s.Markers = slices.Clone(s.Markers)
	if s.Retrace != nil {
		t := *s.Retrace
		t.Steps = slices.Clone(t.Steps)
		s.Retrace = &t
	}
	cues := s.Cues
	s.Cues = nil
	for i := range cues {
		s.Cues = append(s.Cues, cloneCue(cues[i]))
	}
	return s
}

func cloneCue(c reveal.Cue) reveal.Cue {
	c.Targets = slices.Clone(c.Targets)
	c.Pull, c.Turn, c.Unscrew = cloned(c.Pull), cloned(c.Turn), cloned(c.Unscrew)
	c.Fade, c.Tint, c.Note = cloned(c.Fade), cloned(c.Tint), cloned(c.Note)
	c.Shot, c.Orbit = cloned(c.Shot), cloned(c.Orbit)
	c.Route, c.Surface, c.Card, c.Flow = cloned(c.Route), cloned(c.Surface), cloned(c.Card), cloned(c.Flow)
	if c.Pull != nil {
		c.Pull.Secondary = cloned(c.Pull.Secondary)
	}
	if c.Route != nil {
		c.Route.Legs = slices.Clone(c.Route.Legs)
	}
	if c.Shot != nil {
		c.Shot.Via = slices.Clone(c.Shot.Via)
		c.Shot.Shapes = slices.Clone(c.Shot.Shapes)
	}
	if c.Shot != nil && c.Shot.Follow != nil {
		c.Shot.Follow = cloned(c.Shot.Follow)
		c.Shot.Follow.Nodes = slices.Clone(c.Shot.Follow.Nodes)
	}
	return c
}

func cloned[T any](p *T) *T {
	if p == nil {
		return nil
	}
	v := *p
	return &v
}
