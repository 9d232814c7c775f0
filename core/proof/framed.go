package proof

import (
	"fmt"
	"slices"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
)

// mostMoments is at how many moments of a cue it is looked at most, a tenth of a second apart.
const mostMoments = 60

// moments divides a bar's time.
func moments(b *film.Bar, apart reveal.Micros, most int) []reveal.Micros {
	n := min(int(b.Duration/apart)+1, most)
	var list []reveal.Micros
	for k := range n + 1 {
		list = append(list, b.Start+b.Duration*reveal.Micros(k)/reveal.Micros(n))
	}
	return list
}

// framed finds what leaves the frame while a cue is about it.
func framed(s *subject, limit float64) (list []Finding) {
	about := func(b *film.Bar) bool {
		return b.Kind.Moves() || b.Kind == reveal.KindTint || b.Kind == reveal.KindNote
	}
	for _, b := range s.bars(about) {
		if s.ctx.Err() != nil {
			return nil
		}
		parts := s.of(b.Targets)
		f := Finding{Cues: []reveal.CueID{b.Cue}}
		outside, side, out := map[int]bool{}, "", false
		for _, t := range moments(b, reveal.Second/10, mostMoments) {
			fr, any := s.at(t), false
			sight := film.ProjectionOf(fr.Camera, s.aspect())
			for _, part := range parts {
				if fr.Opacity[part] == 0 {
					continue
				}
				beyond, where := s.beyond(&sight, fr, part)
				if beyond *= 100; beyond <= limit {
					continue
				}
				any, outside[part] = true, true
				if beyond > f.Worse {
					f.Worse, f.At, side = beyond, t, where
				}
			}
			if any {
				if !out {
					f.From, out = t, true
				}
				f.To = t
			}
		}
		if len(outside) == 0 {
			continue
		}
		f.Parts = s.ids(slices.DeleteFunc(slices.Clone(parts), func(part int) bool { return !outside[part] }))
		f.Worse = min(f.Worse, 999)
		verb := "reaches"
		if len(f.Parts) > 1 {
			verb = "reach"
		}
		f.Says = fmt.Sprintf(
			"%s %s beyond the frame %s from %.1f to %.1f s, by %.0f %% of its height: %s.",
			s.labels(f.Parts),
			verb,
			side,
			float64(f.From)/1e6,
			float64(f.To)/1e6,
			f.Worse,
			s.cueWords(b.Cue),
		)
		list = append(list, f)
	}
	return list
}

func (s *subject) aspect() float64 { return s.film.Reveal.Frame.Aspect() }

// beyond is how far a part reaches beyond the frame, in frame heights, and where.
func (s *subject) beyond(sight *film.Projection, fr *film.Frame, part int) (most float64, where string) {
	aspect := s.aspect()
	for _, p := range s.cornersOf(part) {
		x, y, front := sight.Project(fr.World[part].Apply(p))
		if !front {
			return 10, "behind the camera"
		}
		for _, side := range [4]struct {
			by   float64
			name string
		}{{-x * aspect, "on the left"}, {(x - 1) * aspect, "on the right"}, {-y, "at the top"}, {y - 1, "at the foot"}} {
			if side.by > most {
				most, where = side.by, side.name
			}
		}
	}
	return most, where
}
