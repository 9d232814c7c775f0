package film

import (
	"sort"

	"slowreveal/core/assembly"
	"slowreveal/core/reveal"
	"slowreveal/core/timecode"
)

// Schedule is the reveal laid out on the film's time: what a timeline draws.
type Schedule struct {
	Duration reveal.Micros `json:"duration"`
	Frames   int           `json:"frames"`
	// Frame is how long a frame lasts, to the microsecond.
	Frame reveal.Micros `json:"frame"`
	Steps []Span        `json:"steps"`
	Bars  []Bar         `json:"bars"`
}

// Span is the time that a step takes. A muted step takes none.
type Span struct {
	Step     reveal.StepID `json:"step"`
	Start    reveal.Micros `json:"start"`
	Duration reveal.Micros `json:"duration"`
	// Done is the time from the step's start until the last of its cues has
	// ended, 0 without cues.
	Done reveal.Micros `json:"done"`
	// Late is how much later than the step its cues end, 0 where they do not or it is muted.
	Late  reveal.Micros `json:"late,omitempty"`
	Muted bool          `json:"muted,omitempty"`
	// Fitting is how long the step would be as long as its cues (Fitting), 0 without cues.
	Fitting reveal.Micros `json:"fitting"`
}

// leastStep is how long a step is at least that is as long as its cues (no source).
const leastStep = reveal.Second / 2

// Fitting is how long a step is that is as long as its cues, which have ended after done.
func Fitting(done reveal.Micros) reveal.Micros { return max(leastStep, done) }

func (s *Span) doneAt(done reveal.Micros) {
	s.Done, s.Late, s.Fitting = done, 0, 0
	if done > 0 {
		s.Fitting = Fitting(done)
	}
	if !s.Muted {
		s.Late = max(0, done-s.Duration)
	}
}

// Bar is the time in which a cue runs, forwards or, retraced, backwards.
type Bar struct {
	Cue      reveal.CueID      `json:"cue"`
	Step     reveal.StepID     `json:"step"` // the step in whose time it runs
	Kind     reveal.Kind       `json:"kind"`
	Targets  []assembly.NodeID `json:"targets,omitempty"`
	Start    reveal.Micros     `json:"start"`
	Duration reveal.Micros     `json:"duration"` // to the end of the last target
	Label    string            `json:"label"`
	// Advance is how far an unscrew comes out, mm: turns × lead.
	Advance float64 `json:"advance,omitempty"`
	Muted   bool    `json:"muted,omitempty"`
	// Once says that the cue takes less time than a frame lasts: nobody sees it happen.
	Once bool `json:"once,omitempty"`
	// Twin says that the cue shares another's settings.
	Twin bool `json:"twin,omitempty"`
	// Retraced says that this is the backward run of a cue of another step.
	Retraced bool `json:"retraced,omitempty"`

	cue  *reveal.Cue
	back *reversal
	// before is the speed that a drive begins with, units in a second; handsOver says that the next one goes on with
	// its own.
	before    float64
	handsOver bool
}

// layOut computes the schedule. A muted step counts as absent: it takes no
// time and its cues do nothing.
func layOut(r *reveal.Reveal) Schedule {
	s := Schedule{Steps: make([]Span, len(r.Steps)), Bars: []Bar{}, Frame: timecode.FrameTime(1, r.Frame.Rate)}
	at := make(map[reveal.StepID]int, len(r.Steps))
	for i := range r.Steps {
		step := &r.Steps[i]
		at[step.ID] = i
		s.Steps[i] = Span{Step: step.ID, Start: s.Duration, Duration: r.Lasts(i), Muted: step.Muted}
		s.Steps[i].doneAt(step.Done())
		if step.Muted {
			continue
		}
		for k := range step.Cues {
			cue := &step.Cues[k]
			bar := Bar{Cue: cue.ID, Step: step.ID, Kind: cue.Kind, Targets: cue.Targets,
				Start: s.Duration + cue.Offset, Duration: cue.End() - cue.Offset, Label: cue.Label(), Twin: cue.Twin != "", Muted: cue.Muted, Once: cue.Duration < s.Frame, cue: cue}
			if u := cue.Unscrew; u != nil {
				bar.Advance = u.Turns * u.Lead
			}
			s.Bars = append(s.Bars, bar)
		}
		s.Duration += s.Steps[i].Duration
	}
	for i := range r.Steps {
		if step := &r.Steps[i]; step.Retrace != nil && !step.Muted {
			s.retrace(r, step, s.Steps[i], at)
		}
	}
	s.Frames = timecode.FrameCount(s.Duration, r.Frame.Rate)
	return s
}

// retrace runs the steps that step names backwards, last first, each over its
// whole extent, at the speed that fills the retracing step.
func (s *Schedule) retrace(r *reveal.Reveal, step *reveal.Step, span Span, at map[reveal.StepID]int) {
	order := make([]int, 0, len(step.Retrace.Steps))
	total := reveal.Micros(0)
	for _, id := range step.Retrace.Steps {
		if i := at[id]; !r.Steps[i].Muted {
			order = append(order, i)
			total += r.Steps[i].Extent()
		}
	}
	sort.Sort(sort.Reverse(sort.IntSlice(order)))
	if total == 0 {
		return
	}
	speed := float64(total) / float64(span.Duration)
	passed := reveal.Micros(0)
	for _, i := range order {
		run := reversal{
			at:      float64(span.Start) + float64(passed)/speed,
			forward: float64(s.Steps[i].Start + r.Steps[i].Extent()),
			speed:   speed,
		}
		s.reverseBars(s.Steps[i].Step, step, &run)
		passed += r.Steps[i].Extent()
	}
}

func (s *Schedule) reverseBars(reversed reveal.StepID, by *reveal.Step, run *reversal) {
	for k := range s.Bars {
		bar := &s.Bars[k]
		// A note or a card says something of the way out; it is not said again.
		keep := by.Retrace.KeepCamera && bar.Kind.Camera() || bar.Kind.Passes()
		if bar.Step != reversed || bar.Retraced || keep {
			continue
		}
		bar.back = run
		back := Bar{Cue: bar.Cue, Step: by.ID, Kind: bar.Kind, Targets: bar.Targets,
			Label: bar.Label, Twin: bar.Twin, Muted: bar.Muted, Retraced: true, cue: bar.cue}
		back.place(bar)
		s.Bars = append(s.Bars, back)
	}
}

// place puts a backward bar where it lies for a forward one.
func (b *Bar) place(forward *Bar) {
	run := forward.back
	end := float64(forward.Start + forward.Duration)
	b.Start = reveal.Micros(run.at + (run.forward-end)/run.speed)
	b.Duration = reveal.Micros(float64(forward.Duration) / run.speed)
}

// Place returns the index of the step that runs at t, −1 without one, and the time since it began.
func (s *Schedule) Place(t reveal.Micros) (step int, offset reveal.Micros) {
	if step = s.StepAt(t); step >= 0 {
		offset = t - s.Steps[step].Start
	}
	return step, offset
}

// StepAt returns the index of the step that runs at t; at the very end that is
// the last one. −1 when there is none.
func (s *Schedule) StepAt(t reveal.Micros) int {
	last := -1
	for i := range s.Steps {
		if s.Steps[i].Muted {
			continue
		}
		if s.Steps[i].Start > t {
			break
		}
		last = i
	}
	return last
}
