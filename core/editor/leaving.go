package editor

import (
	"slices"

	"slowreveal/core/assembly"
)

// Leaving is what a movement has to do with what is driven: whether what it moves is, and what stands still from then on
// because it leaves what drives it.
type Leaving struct {
	InChain bool              `json:"inChain"`
	Stopped []assembly.NodeID `json:"stopped"`
}

func (d *Editor) leaving(q OfCue) (Leaving, error) {
	out := Leaving{Stopped: []assembly.NodeID{}}
	s, k := d.film.Reveal.FindCue(q.Cue)
	if s < 0 {
		return out, nil
	}
	out.InChain = d.film.InChain(d.film.Reveal.Steps[s].Cues[k].Targets)
	out.Stopped = append(out.Stopped, d.film.Stopped(q.Cue)...)
	slices.Sort(out.Stopped)
	return out, nil
}
