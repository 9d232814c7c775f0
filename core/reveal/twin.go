package reveal

import "slices"

// Original returns the cue whose settings c uses: the one that c is a twin of, or
// c itself. nil when c names a cue that is not there.
func (r *Reveal) Original(c *Cue) *Cue {
	if c.Twin == "" {
		return c
	}
	if s, k := r.FindCue(c.Twin); s >= 0 {
		return &r.Steps[s].Cues[k]
	}
	return nil
}

// With returns the twin c with the settings of the cue that it shares, as if it
// were a cue of its own.
func (c *Cue) With(original *Cue) Cue {
	own := *original
	own.ID, own.Twin, own.Targets, own.Offset, own.Muted, own.Lost = c.ID, c.Twin, c.Targets, c.Offset, c.Muted, c.Lost
	return own
}

// Resolved returns the reveal with every twin's settings filled in. Without twins
// it is r itself; otherwise r is left as it is.
func Resolved(r *Reveal) *Reveal {
	originals := map[CueID]*Cue{}
	for i := range r.Steps {
		for k := range r.Steps[i].Cues {
			if c := &r.Steps[i].Cues[k]; c.Twin != "" {
				originals[c.Twin] = nil
			}
		}
	}
	if len(originals) == 0 {
		return r
	}
	for i := range r.Steps {
		for k := range r.Steps[i].Cues {
			c := &r.Steps[i].Cues[k]
			if _, asked := originals[c.ID]; asked {
				originals[c.ID] = c
			}
		}
	}
	full := *r
	full.Steps = slices.Clone(r.Steps)
	for i := range full.Steps {
		cues := slices.Clone(full.Steps[i].Cues)
		for k := range cues {
			if original := originals[cues[k].Twin]; original != nil && cues[k].Twin != "" {
				cues[k] = cues[k].With(original)
			}
		}
		full.Steps[i].Cues = cues
	}
	return &full
}
