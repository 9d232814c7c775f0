package proof

import (
	"fmt"
	"math"
	"slices"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
)

const (
	// brief is a movement that is over before it is seen, µs (common practice, no source: six frames of 30 a second).
	brief = reveal.Second / 5
	// still is how long nothing may happen after all has been read, µs (common practice, no source).
	still = 2 * reveal.Second
)

// pace finds what goes by too fast, and times in which nothing happens.
func pace(s *subject, limit float64) (list []Finding) {
	var busy [][2]reveal.Micros
	for _, b := range s.bars(func(b *film.Bar) bool { return b.Duration > 0 }) {
		if s.ctx.Err() != nil {
			return nil
		}
		busy = append(busy, [2]reveal.Micros{b.Start, b.Start + b.Duration})
		if !b.Kind.Moves() || s.wholly(b) {
			continue
		}
		f := Finding{
			Parts: b.Targets,
			Cues:  []reveal.CueID{b.Cue},
			From:  b.Start,
			To:    b.Start + b.Duration,
			At:    b.Start + b.Duration/2,
		}
		if b.Duration < brief && !b.Retraced {
			f.Worse = float64(brief) / float64(b.Duration)
			f.Says = fmt.Sprintf(
				"%s is over in %.2f s: %s.",
				s.labels(b.Targets),
				float64(b.Duration)/1e6,
				s.cueWords(b.Cue),
			)
			list = append(list, f)
			continue
		}
		if speed, at := s.fastest(b); speed > limit {
			f.Worse, f.At = speed, at
			f.Says = fmt.Sprintf(
				"%s crosses the picture at %.1f frame heights a second, at %.1f s: %s.",
				s.labels(b.Targets),
				speed,
				float64(at)/1e6,
				s.cueWords(b.Cue),
			)
			list = append(list, f)
		}
	}
	return append(list, s.idle(busy)...)
}

// fastest is how fast the parts of a bar go across the picture at most, frame heights a second, and when: their
// middles, where both are seen.
func (s *subject) fastest(b *film.Bar) (most float64, at reveal.Micros) {
	parts := s.of(b.Targets)
	if len(parts) > 64 { // those of a large subassembly go together
		parts = parts[:64]
	}
	was := make([][2]float64, len(parts))
	seen := make([]bool, len(parts))
	last := reveal.Micros(0)
	for k, t := range moments(b, reveal.Second/10, mostMoments) {
		fr := s.at(t)
		sight := film.ProjectionOf(fr.Camera, s.aspect())
		for i, part := range parts {
			bounds := s.film.Assembly.Shapes[s.film.Assembly.Nodes[part].Shape].Bounds()
			x, y, front := sight.Project(fr.World[part].Apply(bounds.Centre()))
			inside := front && x > 0 && x < 1 && y > 0 && y < 1 && fr.Opacity[part] > 0
			x *= s.aspect()
			if k > 0 && inside && seen[i] && t > last {
				if speed := math.Hypot(x-was[i][0], y-was[i][1]) / (float64(t-last) / 1e6); speed > most {
					most, at = speed, (t+last)/2
				}
			}
			was[i], seen[i] = [2]float64{x, y}, inside
		}
		last = t
	}
	return most, at
}

// idle finds times in which no cue runs for longer than what is said takes to read.
func (s *subject) idle(busy [][2]reveal.Micros) (list []Finding) {
	slices.SortFunc(busy, func(a, b [2]reveal.Micros) int { return int(a[0] - b[0]) })
	texts := s.texts(s.reads)
	busy = append(busy, [2]reveal.Micros{s.film.Duration(), s.film.Duration()})
	at := reveal.Micros(0)
	for _, b := range busy {
		if from, to := at, b[0]; to > from {
			until := float64(from) // all that began before is read by then
			for i := range texts {
				if x := &texts[i]; x.from < to && x.to > from {
					until = max(until, float64(x.from)) + min(x.need, float64(x.to-x.from))*share(x, from)
				}
			}
			if waits := float64(to) - until; waits > float64(still) {
				list = append(list, Finding{Level: Hint, From: from, To: to, At: from + (to-from)/2, Worse: waits / 1e6,
					Says: fmt.Sprintf(
						"Nothing happens from %.1f to %.1f s, %.1f s longer than it takes to read what is said.",
						float64(from)/1e6,
						float64(to)/1e6,
						waits/1e6,
					)})
			}
		}
		at = max(at, b[1])
	}
	return list
}

// share is how much of a text is still to be read at a time when it has been standing for a while.
func share(x *text, at reveal.Micros) float64 {
	if x.from >= at || x.need == 0 {
		return 1
	}
	return max(0, 1-float64(at-x.from)/x.need)
}
