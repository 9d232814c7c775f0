package film

import (
	"fmt"
	"math"
	"sort"

	"slowreveal/core/assembly"
	"slowreveal/core/reveal"
)

// Schedule is the reveal laid out on the film's time: what a timeline draws.
type Schedule struct {
	Duration reveal.Micros `json:"duration"`
	Frames   int           `json:"frames"`
	Steps    []Span        `json:"steps"`
	Bars     []Bar         `json:"bars"`
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
}

func (s *Span) doneAt(done reveal.Micros) {
	s.Done, s.Late = done, 0
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
	// Twin says that the cue shares another's settings.
	Twin bool `json:"twin,omitempty"`
	// Retraced says that this is the backward run of a cue of another step.
	Retraced bool `json:"retraced,omitempty"`

	cue  *reveal.Cue
	back *reversal
}

// layOut computes the schedule. A muted step counts as absent: it takes no
// time and its cues do nothing.
func layOut(r *reveal.Reveal) Schedule {
	s := Schedule{Steps: make([]Span, len(r.Steps)), Bars: []Bar{}}
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
				Start: s.Duration + cue.Offset, Duration: cue.End() - cue.Offset, Label: cue.Label(), Twin: cue.Twin != "", Muted: cue.Muted, cue: cue}
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
	s.Frames = FrameCount(s.Duration, r.Frame.Rate)
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
		keep := by.Retrace.KeepCamera && bar.Kind.Camera() || bar.Kind.Words()
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

// FrameCount returns how many frames a length of film has at rate frames a
// second: every frame whose time k/rate lies before the end.
func FrameCount(length reveal.Micros, rate int) int {
	return Rate{rate, 1}.Count(length)
}

// FrameTime returns the time k/rate that frame k shows, to the nearest
// microsecond.
func FrameTime(k, rate int) reveal.Micros {
	return Rate{rate, 1}.Time(k)
}

// Rate is how many frames a film has a second, as a fraction: 30/1, 30000/1001.
type Rate struct {
	Num int `json:"num"`
	Den int `json:"den"`
}

// RateOf returns frames a second; slowed takes 1000/1001 of them, as television of
// 59.94 and 29.97 frames a second has it.
func RateOf(frames int, slowed bool) Rate {
	if slowed {
		return Rate{frames * 1000, 1001}
	}
	return Rate{frames, 1}
}

// String returns the rate as a fraction.
func (r Rate) String() string { return fmt.Sprintf("%d/%d", r.Num, r.Den) }

// Count is FrameCount at the rate.
func (r Rate) Count(length reveal.Micros) int {
	second := int64(reveal.Second) * int64(r.Den)
	return int((int64(length)*int64(r.Num) + second - 1) / second)
}

// Time is FrameTime at the rate.
func (r Rate) Time(k int) reveal.Micros {
	return reveal.Micros((int64(k)*int64(reveal.Second)*int64(r.Den) + int64(r.Num)/2) / int64(r.Num))
}

// DropFrame returns the SMPTE ST 12-1 drop-frame timecode of frame k at 30000/1001 frames
// a second (or, with 60, at 60000/1001): the numbers ;00 and ;01 (to ;03) are left out at
// the beginning of every minute but each tenth, so that it keeps step with the clock.
func DropFrame(k, nominal int) string {
	drop := nominal / 15
	minute, ten := nominal*60-drop, nominal*600-9*drop
	tens, rest := k/ten, k%ten
	k += 9 * drop * tens
	if rest >= drop {
		k += drop * ((rest - drop) / minute)
	}
	s := k / nominal
	return fmt.Sprintf("%02d:%02d:%02d;%02d", s/3600, s/60%60, s%60, k%nominal)
}

// SMPTE returns the timecode of frame k (SMPTE ST 12-1): hours, minutes, seconds and frames,
// counted by DropFrame where the rate is 30000/1001 or 60000/1001.
func SMPTE(k int, r Rate) string {
	nominal := (r.Num + r.Den - 1) / r.Den
	if r.Den == 1001 && (nominal == 30 || nominal == 60) {
		return DropFrame(k, nominal)
	}
	s := k / nominal
	return fmt.Sprintf("%02d:%02d:%02d:%02d", s/3600, s/60%60, s%60, k%nominal)
}

// Snap returns the time of the frame nearest to t; times may be negative.
func Snap(t reveal.Micros, rate int) reveal.Micros {
	k := (float64(t) * float64(rate)) / float64(reveal.Second)
	return reveal.Micros(math.Round(math.Round(k) * float64(reveal.Second) / float64(rate)))
}

// Timecode returns t as minutes, seconds and hundredths, with the number of the
// frame that is shown then.
func Timecode(t reveal.Micros, rate int) string {
	hundredths := int64(t) / 10_000
	frame := int64(t) * int64(rate) / int64(reveal.Second)
	return fmt.Sprintf("%02d:%02d.%02d %d", hundredths/6000, hundredths/100%60, hundredths%100, frame)
}

// StepFrames returns the time of the frame that is so many frames after the one nearest to t, or before it.
func StepFrames(t reveal.Micros, frames, rate int) reveal.Micros {
	return Snap(t+reveal.Micros(math.Round(float64(frames)*float64(reveal.Second)/float64(rate))), rate)
}
