package reveal

// The methods here need the settings of twins filled in (Resolved).

// Done is the time from a step's start until the last of its cues has ended.
func (s *Step) Done() Micros {
	end := Micros(0)
	for k := range s.Cues {
		end = max(end, s.Cues[k].End())
	}
	return end
}

// Extent is the time from a step's start until all is done that begins in it.
func (s *Step) Extent() Micros { return max(s.Duration, s.Done()) }

// Lasts is the time that step i takes in the film: nothing where it is muted, and
// what its speed makes of the steps that it runs backwards where it has one.
func (r *Reveal) Lasts(i int) Micros {
	s := &r.Steps[i]
	switch {
	case s.Muted:
		return 0
	case s.Retrace == nil || s.Retrace.Speed == 0:
		return s.Duration
	}
	return max(MinStepDuration, Micros(float64(r.Way(s.Retrace))/s.Retrace.Speed))
}

// Way is the time that the steps take which a retrace runs backwards.
func (r *Reveal) Way(t *Retrace) Micros {
	way := Micros(0)
	for _, id := range t.Steps {
		if k := r.FindStep(id); k >= 0 && !r.Steps[k].Muted {
			way += r.Steps[k].Extent()
		}
	}
	return way
}
