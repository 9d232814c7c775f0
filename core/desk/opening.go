package desk

import (
	"slowreveal/core/edit"
	"slowreveal/core/reveal"
)

// openHere returns the command that makes the moment t the opening. The cues that
// have led there are switched off: what they did is in the opening now.
func (d *Desk) openHere(t reveal.Micros) edit.Command {
	opening := d.film.Opening(t)
	out := edit.Command{Op: edit.Batch, Commands: []edit.Command{{Op: edit.SetOpening, Opening: &opening}}}
	for i := range d.film.Schedule.Bars {
		b := &d.film.Schedule.Bars[i]
		lasting := b.Kind != reveal.KindNote && b.Kind != reveal.KindCard
		if b.Start >= t || b.Muted || b.Retraced || !lasting {
			continue
		}
		s, k := d.reveal.FindCue(b.Cue)
		cue := d.reveal.Steps[s].Cues[k]
		cue.Muted = true
		out.Commands = append(out.Commands, edit.Command{Op: edit.SetCue, Cue: &cue})
	}
	return out
}
