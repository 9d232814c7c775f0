package proof

import (
	"cmp"
	"fmt"
	"slices"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// gone is how far, mm, a part has to have been moved against another one to have left it.
const gone = 1

// flowSeen is the opacity below which a part shows no flow line.
const flowSeen = 0.3

// ends finds loose ends: retraces that do not come home, parts that stay alone, flow lines without a part.
func ends(s *subject, limit float64) []Finding {
	return slices.Concat(s.notHome(limit), s.alone(), s.flowsOfNothing())
}

// notHome finds parts that do not stand, at the end of a retrace, where they stood when the first of the steps that it
// runs backwards began. What other steps have moved in between is left aside.
func (s *subject) notHome(limit float64) (list []Finding) {
	r := s.film.Reveal
	for i := range r.Steps {
		span := &s.film.Schedule.Steps[i]
		if r.Steps[i].Retrace == nil || span.Muted {
			continue
		}
		first, run := reveal.Micros(-1), map[reveal.StepID]bool{}
		for _, id := range r.Steps[i].Retrace.Steps {
			if at := &s.film.Schedule.Steps[r.FindStep(id)]; !at.Muted {
				run[id] = true
				if first < 0 || at.Start < first {
					first = at.Start
				}
			}
		}
		if first < 0 {
			continue
		}
		end := span.Start + span.Duration
		var cues []reveal.CueID
		moved := map[int]bool{}
		for _, b := range s.bars(func(b *film.Bar) bool { return b.Kind.Moves() && b.Start < end }) {
			switch {
			case b.Retraced && b.Step == r.Steps[i].ID:
				for _, part := range s.of(b.Targets) {
					if _, ok := moved[part]; !ok {
						moved[part] = true
					}
				}
				cues = append(cues, b.Cue)
			case !b.Retraced && !run[b.Step] && b.Start+b.Duration > first || b.Retraced && b.Step != r.Steps[i].ID && b.Start >= first:
				for _, part := range s.of(b.Targets) {
					moved[part] = false
				}
			}
		}
		if f, ok := s.away(moved, first, end, limit); ok {
			f.Cues = cues
			f.Says = fmt.Sprintf(
				"At the end of step %d %s not where it stood before it was taken off: %.2f mm away.",
				i+1,
				isOrAre(s, f.Parts),
				f.Worse,
			)
			list = append(list, f)
		}
	}
	return list
}

func isOrAre(s *subject, ids []assembly.NodeID) string {
	if len(ids) == 1 {
		return s.labels(ids) + " is"
	}
	return s.labels(ids) + " are"
}

// away tells which of the parts that have been moved stand elsewhere at end than at first.
func (s *subject) away(moved map[int]bool, first, end reveal.Micros, limit float64) (f Finding, found bool) {
	was := append([]space.Rigid(nil), s.at(first).World...)
	fr := s.at(end)
	var out []int
	for part, alone := range moved {
		if !alone {
			continue
		}
		far := 0.0
		for _, p := range s.cornersOf(part) {
			far = max(far, r3.Norm(r3.Sub(fr.World[part].Apply(p), was[part].Apply(p))))
		}
		if far > limit {
			out = append(out, part)
			f.Worse = max(f.Worse, far)
		}
	}
	slices.Sort(out)
	f.Parts, f.From, f.To, f.At = s.ids(out), first, end, end-1
	return f, len(out) > 0
}

// displaced reports whether a part stands elsewhere in the whole than it was imported.
func (s *subject) displaced(part int, fr *film.Frame) bool {
	return s.movedAgainst(part, 0, fr) > gone
}

// movedAgainst is how far, mm, a part has been moved against another node, at its middle.
func (s *subject) movedAgainst(part, other int, fr *film.Frame) float64 {
	if s.rest == nil {
		s.rest = s.film.Assembly.Worlds()
	}
	bounds := s.film.Assembly.Shapes[s.film.Assembly.Nodes[part].Shape].Bounds()
	middle := bounds.Centre()
	now, then := fr.World[other].Inverse(), s.rest[other].Inverse()
	return r3.Norm(r3.Sub(now.Apply(fr.World[part].Apply(middle)), then.Apply(s.rest[part].Apply(middle))))
}

// alone finds parts that no cue moves or fades although all that touched them has left, but for the largest: something
// has to stay.
func (s *subject) alone() (list []Finding) {
	touched, last := map[int]bool{}, reveal.Micros(0)
	for _, b := range s.bars(func(b *film.Bar) bool { return !b.Retraced && (b.Kind.Moves() || b.Kind == reveal.KindFade) }) {
		for _, part := range s.of(b.Targets) {
			touched[part] = true
		}
		last = max(last, b.Start+b.Duration)
	}
	fr := s.at(s.farthest(last))
	var left []int
	for _, part := range s.parts {
		if !touched[part] && fr.Opacity[part] > 0 {
			left = append(left, part)
		}
	}
	if len(left) == 0 || len(touched) == 0 {
		return nil
	}
	contacts, err := s.memory.contacts(s.ctx, s.film.Assembly, s.shapes)
	if err != nil {
		return nil
	}
	neighbours := map[int][]int{}
	for i := range contacts {
		a, b := s.index[contacts[i].A], s.index[contacts[i].B]
		neighbours[a], neighbours[b] = append(neighbours[a], b), append(neighbours[b], a)
	}
	var alone []int
	for _, part := range left {
		if len(neighbours[part]) == 0 {
			continue
		}
		if !slices.ContainsFunc(
			neighbours[part],
			func(o int) bool { return fr.Opacity[o] > 0 && s.movedAgainst(o, part, fr) <= gone },
		) {
			alone = append(alone, part)
		}
	}
	slices.SortStableFunc(alone, func(a, b int) int { return cmp.Compare(s.size(b), s.size(a)) })
	if len(alone) == len(left) && len(alone) > 0 {
		alone = alone[1:]
	}
	for _, part := range alone {
		id := s.film.Assembly.Nodes[part].ID
		list = append(
			list,
			Finding{
				Level: Hint,
				Parts: []assembly.NodeID{id},
				From:  fr.Time,
				To:    fr.Time,
				At:    fr.Time,
				Worse: float64(len(neighbours[part])),
				Says: fmt.Sprintf(
					"%s stays alone: what it touches has left, %s, and no cue is about it.",
					s.label(id),
					counted(len(neighbours[part]), "part"),
				),
			},
		)
	}
	return list
}

// farthest is the moment at which most has been taken off: before the first retrace, or last.
func (s *subject) farthest(last reveal.Micros) reveal.Micros {
	for i := range s.film.Reveal.Steps {
		if span := &s.film.Schedule.Steps[i]; s.film.Reveal.Steps[i].Retrace != nil && !span.Muted {
			last = min(last, span.Start)
		}
	}
	return last
}

// counted is a number of things: "one part", "11 parts".
func counted(n int, what string) string {
	if n == 1 {
		return "one " + what
	}
	return fmt.Sprintf("%d %ss", n, what)
}

func (s *subject) size(part int) float64 {
	size := s.film.Assembly.Shapes[s.film.Assembly.Nodes[part].Shape].Bounds().Size()
	return size.X * size.Y * size.Z
}

// flowsOfNothing finds cues that draw flow lines of parts that are never seen meanwhile.
func (s *subject) flowsOfNothing() (list []Finding) {
	r := s.film.Reveal
	for _, b := range s.bars(func(b *film.Bar) bool { return !b.Retraced }) {
		step, k := r.FindCue(b.Cue)
		if r.Steps[step].Cues[k].Flow == nil {
			continue
		}
		seen := false
		for _, t := range moments(b, reveal.Second/4, 20) {
			fr := s.at(t)
			for _, part := range s.of(b.Targets) {
				seen = seen || fr.Opacity[part] >= flowSeen
			}
		}
		if !seen {
			list = append(
				list,
				Finding{
					Parts: b.Targets,
					Cues:  []reveal.CueID{b.Cue},
					From:  b.Start,
					To:    b.Start + b.Duration,
					At:    b.Start,
					Worse: 1,
					Says: fmt.Sprintf(
						"The flow line of %s has no part that can be seen: %s.",
						s.labels(b.Targets),
						s.cueWords(b.Cue),
					),
				},
			)
		}
	}
	return list
}
