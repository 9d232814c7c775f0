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
	s.Markers, s.Wordings = slices.Clone(s.Markers), slices.Clone(s.Wordings)
	if s.Retrace != nil {
		t := *s.Retrace
		t.Steps = slices.Clone(t.Steps)
		s.Retrace = &t
	}
	cues := s.Cues
	s.Cues = nil
	for i := range cues {
		s.Cues = append(s.Cues, cues[i].Clone())
	}
	return s
}

func cloned[T any](p *T) *T {
	if p == nil {
		return nil
	}
	v := *p
	return &v
}
