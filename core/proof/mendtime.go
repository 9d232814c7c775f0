package proof

import (
	"fmt"
	"math"
	"slices"

	"slowreveal/core/assembly"
	"slowreveal/core/edit"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
)

// tenths rounds a time up to tenths of a second.
func tenths(t float64) reveal.Micros {
	return reveal.Micros(math.Ceil(t/float64(reveal.Second/10)-1e-9)) * (reveal.Second / 10)
}

// later lets a cue begin when what moves the other part has ended: in its own step, or at the end of the step in which
// that is.
func (m *mender) later(f *Finding, id reveal.CueID) (list []Mend) {
	r := m.subject.film.Reveal
	step, k := r.FindCue(id)
	if k < 0 || m.subject.film.Schedule.Steps[step].Muted {
		return nil
	}
	c := &r.Steps[step].Cues[k]
	for _, b := range m.subject.bars(func(b *film.Bar) bool { return !b.Retraced && b.Cue != id && b.Kind.Moves() }) {
		if !m.moves(b, f.Parts) || m.movesAny(c, b) {
			continue
		}
		start := m.subject.film.Schedule.Steps[step].Start
		by := tenths(float64(b.Start + b.Duration - start - c.Offset))
		if by <= 0 || by > 60*reveal.Second {
			continue
		}
		if b.Step == r.Steps[step].ID {
			commands := []edit.Command{{Op: edit.ShiftCues, CueIDs: []reveal.CueID{id}, By: by}}
			if over := c.End() + by - r.Steps[step].Duration; over > 0 {
				commands = append(
					commands,
					edit.Command{Op: edit.ChangeDuration, StepID: r.Steps[step].ID, By: tenths(float64(over))},
				)
			}
			list = append(
				list,
				Mend{
					fmt.Sprintf("Start %s later, when %s has ended", seconds(by), m.subject.cueWords(b.Cue)),
					edit.Command{Op: edit.Batch, Commands: commands},
				},
			)
			continue
		}
		to := r.FindStep(b.Step)
		moved := r.Steps[step].Cues[k]
		if original := m.cue(id); original != nil {
			moved = *original
		}
		moved.Offset = tenths(float64(b.Start + b.Duration - m.subject.film.Schedule.Steps[to].Start))
		commands := []edit.Command{
			{Op: edit.MoveCue, CueID: id, StepID: b.Step, Index: len(r.Steps[to].Cues)},
			{Op: edit.SetCue, Cue: &moved},
		}
		if over := moved.Offset + c.End() - c.Offset - r.Steps[to].Duration; over > 0 {
			commands = append(
				commands,
				edit.Command{Op: edit.ChangeDuration, StepID: b.Step, By: tenths(float64(over))},
			)
		}
		list = append(
			list,
			Mend{
				fmt.Sprintf("Move it to step %d, to when %s has ended", to+1, m.subject.cueWords(b.Cue)),
				edit.Command{Op: edit.Batch, Commands: commands},
			},
		)
	}
	return list
}

// moves reports whether a bar moves one of some parts, and movesAny whether it moves something that a cue moves too.
func (m *mender) moves(b *film.Bar, ids []assembly.NodeID) bool {
	for _, part := range m.subject.of(b.Targets) {
		if slices.Contains(ids, m.subject.film.Assembly.Nodes[part].ID) {
			return true
		}
	}
	return false
}

func (m *mender) movesAny(c *reveal.Cue, b *film.Bar) bool {
	own := m.subject.of(c.Targets)
	for _, part := range m.subject.of(b.Targets) {
		if slices.Contains(own, part) {
			return true
		}
	}
	return false
}

func axesWords(a reveal.Axes) string {
	return map[reveal.Axes]string{reveal.OwnAxes: "its own axes", reveal.ParentAxes: "its group's axes", reveal.AssemblyAxes: "the whole's axes", reveal.ReferenceAxes: "the axes that it borrows"}[a]
}

// until is how far a pull has gone when a finding begins, whole mm, less one; 0 where it has not begun.
func (m *mender) until(f *Finding, c *reveal.Cue) float64 {
	step, _ := m.doc.FindCue(c.ID)
	start := m.subject.film.Schedule.Steps[step].Start + c.Offset
	share := max(0, min(float64(f.From-start)/float64(c.Duration), 1))
	return math.Floor(math.Abs(c.Pull.Distance)*film.Ease(c.Easing, share)) - 1
}

// longer gives a text more time.
func (m *mender) longer(f *Finding) []Mend {
	by := tenths(f.Worse * float64(reveal.Second))
	if len(f.Cues) == 0 {
		step := m.doc.FindStep(f.Step)
		if step < 0 || m.doc.Steps[step].Retrace != nil && m.doc.Steps[step].Retrace.Speed > 0 {
			return nil
		}
		var list []Mend
		for _, more := range [2]float64{0, m.beside(f)} { // what is read meanwhile takes its time too
			by := by + tenths(more)
			list = append(
				list,
				Mend{
					fmt.Sprintf("Give step %d another %s", step+1, seconds(by)),
					edit.Command{Op: edit.ChangeDuration, StepID: f.Step, By: by},
				},
			)
		}
		return list
	}
	return m.stretched(f.Cues[0], by, "Let it stand %s longer")
}

// beside is how long it takes, µs, to read the other texts that stand while one does.
func (m *mender) beside(f *Finding) (sum float64) {
	for _, x := range m.subject.texts(m.subject.reads) {
		if x.cue != "" && x.from < f.To && x.to > f.From {
			sum += x.need
		}
	}
	return sum
}

// slower gives a movement more time.
func (m *mender) slower(f *Finding) []Mend {
	if len(f.Cues) != 1 || f.To <= f.From {
		return nil
	}
	c := m.cue(f.Cues[0])
	if c == nil || c.Twin != "" {
		return nil
	}
	by := tenths(float64(f.To-f.From) * (f.Worse/checkOf(f.Check).LimitIn(m.doc) - 1))
	if f.To-f.From < brief && f.Check == "pace" {
		by = tenths(float64(brief - (f.To - f.From)))
	}
	if by <= 0 || by > 30*reveal.Second {
		return nil
	}
	return m.stretched(c.ID, by, "Take %s longer")
}

// stretched lets a cue end later, and its step with it where it does not reach.
func (m *mender) stretched(id reveal.CueID, by reveal.Micros, says string) []Mend {
	r := m.subject.film.Reveal
	step, k := r.FindCue(id)
	if k < 0 {
		return nil
	}
	commands := []edit.Command{{Op: edit.StretchCue, CueIDs: []reveal.CueID{id}, By: by, Edge: edit.End}}
	if over := r.Steps[step].Cues[k].End() + by - r.Steps[step].Duration; over > 0 {
		commands = append(
			commands,
			edit.Command{Op: edit.ChangeDuration, StepID: r.Steps[step].ID, By: tenths(float64(over))},
		)
	}
	return []Mend{{fmt.Sprintf(says, seconds(by)), edit.Command{Op: edit.Batch, Commands: commands}}}
}
