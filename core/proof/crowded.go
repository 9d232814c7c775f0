package proof

import (
	"fmt"
	"math"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// crowded finds what has been taken off and stands behind something else that has been, at the ends of steps. A picture
// that is about something else may have other parts in line with one another: it is told where the step has moved what
// is covered or what covers it, and where the picture shows all that has been taken off.
func crowded(s *subject, limit float64) (list []Finding) {
	told := map[int]int{} // by the first part: its finding
	for i := range s.film.Schedule.Steps {
		span := &s.film.Schedule.Steps[i]
		if span.Muted || span.Duration == 0 || s.during != "" && s.during != span.Step ||
			s.film.Reveal.Steps[i].Retrace != nil {
			continue
		}
		if s.ctx.Err() != nil {
			return nil
		}
		t := span.Start + span.Duration - 1
		for _, c := range s.covered(t, s.movedIn(span), 1-limit/100) {
			first := c.parts[0]
			if k, ok := told[first]; ok {
				list[k].To = t
				continue
			}
			told[first] = len(list)
			ids := s.ids(c.parts)
			list = append(list, Finding{Parts: ids, From: t, To: t, At: t, Worse: 100 * c.share,
				Says: fmt.Sprintf(
					"Other parts that were taken off cover %.0f %% of %s at the end of step %d.",
					100*c.share,
					s.labels(ids),
					i+1,
				)})
		}
	}
	return list
}

// unit is parts that have been taken off together.
type unit struct {
	parts []int
	share float64 // of it that others cover
}

// units divides the parts that are not where they were imported by where they have gone: those that still stand to one
// another as they did are one.
func (s *subject) units(fr *film.Frame) (list []unit) {
	known := map[space.Rigid]int{}
	for _, part := range s.parts {
		since, ok := s.pulled[part]
		if !ok || since >= fr.Time || fr.Opacity[part] == 0 || s.film.Assembly.SeenThrough(part) ||
			!s.displaced(part, fr) {
			continue
		}
		back := s.rest[part].Inverse()
		way := rounded(fr.World[part].Mul(&back))
		k, ok := known[way]
		if !ok {
			k, known[way] = len(list), len(list)
			list = append(list, unit{})
		}
		list[k].parts = append(list[k].parts, part)
	}
	return list
}

// rounded is a motion to the hundredth of a mm, so that what was moved together is found to be.
func rounded(m space.Rigid) space.Rigid {
	for i := range m.R {
		m.R[i] = math.Round(m.R[i]*1e5) / 1e5
	}
	m.T = space.Vec{X: math.Round(m.T.X*100) / 100, Y: math.Round(m.T.Y*100) / 100, Z: math.Round(m.T.Z*100) / 100}
	return m
}

// movedIn are the parts that a step moves.
func (s *subject) movedIn(span *film.Span) map[int]bool {
	moved := map[int]bool{}
	for _, b := range s.bars(func(b *film.Bar) bool { return b.Step == span.Step && b.Kind.Moves() }) {
		for _, part := range s.of(b.Targets) {
			moved[part] = true
		}
	}
	return moved
}

// covered are the units of which less than a share is seen behind others, among those that have been taken off, where
// the picture is about them: of what has just been moved.
func (s *subject) covered(t reveal.Micros, moved map[int]bool, least float64) (list []unit) {
	fr := s.at(t)
	units := s.units(fr)
	if len(units) < 2 {
		return nil
	}
	sight := film.ProjectionOf(fr.Camera, s.aspect())
	all := s.inPicture(units, &sight, fr)
	counts := s.countOnly(fr, units, func(int) bool { return true })
	var others []int // without what has just been moved
	for _, u := range units {
		seen, outline := s.shown(u.parts, counts, &sight, fr)
		if outline < tiny || seen >= least*outline {
			continue
		}
		whole := 0.0
		for _, n := range s.countOnly(fr, []unit{u}, func(int) bool { return true }) {
			whole += float64(n)
		}
		if whole < tiny || seen >= least*whole {
			continue
		}
		if !all && !moved[u.parts[0]] {
			if others == nil {
				others = s.countOnly(fr, units, func(part int) bool { return !moved[part] })
			}
			if before, _ := s.shown(u.parts, others, &sight, fr); before < least*whole {
				continue // what covers it was there before
			}
		}
		u.share = 1 - seen/whole
		list = append(list, u)
	}
	return list
}

// countOnly counts the pixels of parts of units as if nothing else was there.
func (s *subject) countOnly(fr *film.Frame, units []unit, want func(part int) bool) []int {
	only := make([]bool, len(s.film.Assembly.Nodes))
	for _, u := range units {
		for _, part := range u.parts {
			only[part] = want(part)
		}
	}
	return s.count(s.eyes.Nodes(fr, only, true), nil)
}

// inPicture reports whether all units stand in the frame, by their middles.
func (s *subject) inPicture(units []unit, sight *film.Projection, fr *film.Frame) bool {
	for _, u := range units {
		box := space.EmptyBox
		for _, part := range u.parts {
			bounds := s.film.Assembly.Shapes[s.film.Assembly.Nodes[part].Shape].Bounds()
			box = box.Union(bounds.Moved(&fr.World[part]))
		}
		if x, y, front := sight.Project(box.Centre()); !front || x < 0 || x > 1 || y < 0 || y > 1 {
			return false
		}
	}
	return true
}

// tiny is how many pixels are too few to say how much of something is covered.
const tiny = 9
