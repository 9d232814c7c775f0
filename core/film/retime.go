package film

import "slowreveal/core/reveal"

// run is the tracks of one cue.
type run struct{ first, count int }

// Retime gives cues other offsets and lengths, as a hand does that drags bars, and returns the indices of the bars that
// have changed, backward ones among them. The reveal stays as it is, and notes stay where they have been placed. It
// does nothing and returns false where more than these bars would change: then the film has to be compiled anew.
func (f *Film) Retime(cue reveal.CueID, offset, length reveal.Micros) (bars []int, ok bool) {
	i, known := f.bars[cue]
	if !known {
		return nil, false
	}
	bar := &f.Schedule.Bars[i]
	s := f.Reveal.FindStep(bar.Step)
	special := bar.cue.Leaves != "" || bar.Kind.Passes() || len(f.arrows) > 0 || bar.Kind == reveal.KindDrive ||
		len(f.borrowed) > 0
	if special || s < 0 || bar.back != nil && !f.keepsExtent(s, i, offset, length) {
		return nil, false
	}
	span := &f.Schedule.Steps[s]
	bar.Start, bar.Duration = span.Start+offset, length+spread(bar)
	bar.cue = retimed(bar.cue, offset, length)
	r := f.ran[cue]
	for k := range r.count {
		b := &f.tracks[r.first+k]
		b.start, b.duration = float64(bar.Start)+float64(k)*float64(bar.cue.Stagger), float64(length)
	}
	span.doneAt(f.doneOf(bar.Step))
	bars = append(bars, i)
	if bar.back == nil {
		return bars, true
	}
	for k := range f.Schedule.Bars {
		if b := &f.Schedule.Bars[k]; b.Retraced && b.Cue == cue {
			b.place(bar)
			bars = append(bars, k)
		}
	}
	return bars, true
}

// spread is what staggered targets take longer than the first.
func spread(b *Bar) reveal.Micros {
	return reveal.Micros(max(0, len(b.Targets)-1)) * b.cue.Stagger
}

func retimed(c *reveal.Cue, offset, length reveal.Micros) *reveal.Cue {
	copied := *c
	copied.Offset, copied.Duration = offset, length
	return &copied
}

// keepsExtent reports whether a step takes as long as before when bar i has another
// offset and length: what runs it backwards depends on that.
func (f *Film) keepsExtent(step, i int, offset, length reveal.Micros) bool {
	bar := &f.Schedule.Bars[i]
	least := f.Reveal.Steps[step].Duration
	before, after := least, max(least, offset+length+spread(bar))
	for k := range f.Schedule.Bars {
		b := &f.Schedule.Bars[k]
		if b.Step != bar.Step || b.Retraced {
			continue
		}
		end := b.Start + b.Duration - f.Schedule.Steps[step].Start
		before = max(before, end)
		if k != i {
			after = max(after, end)
		}
	}
	return before == after
}

func (f *Film) doneOf(step reveal.StepID) reveal.Micros {
	done := reveal.Micros(0)
	start := f.Schedule.Steps[f.Reveal.FindStep(step)].Start
	for k := range f.Schedule.Bars {
		if b := &f.Schedule.Bars[k]; b.Step == step && !b.Retraced {
			done = max(done, b.Start+b.Duration-start)
		}
	}
	return done
}
