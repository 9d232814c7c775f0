package proof

import (
	"fmt"
	"math"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// crowded finds what has been taken off and stands behind something else that has been, at the ends of steps.
func crowded(s *subject, limit float64) (list []Finding) {
	told := map[int]int{} // by the first part: its finding
	for i := range s.film.Schedule.Steps {
		span := &s.film.Schedule.Steps[i]
		if span.Muted || span.Duration == 0 || s.film.Reveal.Steps[i].Retrace != nil {
			continue
		}
		if s.ctx.Err() != nil {
			return nil
		}
		t := span.Start + span.Duration - 1
		for _, c := range s.covered(t, 1-limit/100) {
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

// covered are the units of which less than a share is seen behind others, among those that have been taken off.
func (s *subject) covered(t reveal.Micros, least float64) (list []unit) {
	fr := s.at(t)
	units := s.units(fr)
	if len(units) < 2 {
		return nil
	}
	only := make([]bool, len(s.film.Assembly.Nodes))
	for _, u := range units {
		for _, part := range u.parts {
			only[part] = true
		}
	}
	counts := s.count(s.eyes.Nodes(fr, only, true), nil)
	sight := film.ProjectionOf(fr.Camera, s.aspect())
	single := make([]bool, len(only))
	for _, u := range units {
		seen, outline := s.shown(u.parts, counts, &sight, fr)
		if outline < tiny || seen >= least*outline {
			continue
		}
		clear(single)
		for _, part := range u.parts {
			single[part] = true
		}
		all := 0.0
		for _, n := range s.count(s.eyes.Nodes(fr, single, true), nil) {
			all += float64(n)
		}
		if all >= tiny && seen < least*all {
			u.share = 1 - seen/all
			list = append(list, u)
		}
	}
	return list
}

// tiny is how many pixels are too few to say how much of something is covered.
const tiny = 9
