package proof

import (
	"fmt"
	"math"

	"slowreveal/core/film"
	"slowreveal/core/outline"
	"slowreveal/core/reveal"
)

// least is how large, in pixels of 1080 lines, what moves has to be seen.
const least = 12

// between is how far apart moments are at which it is looked who is seen, µs.
const between = reveal.Second / 4

// view is what of the parts of one bar has been seen so far.
type view struct {
	bar        *film.Bar
	seen, all  float64 // pixels
	words      float64 // those of seen that words lie on
	worst      float64
	at         reveal.Micros
	height     float64 // of the picture, in its pixels
	largest    float64 // pixels at a time
	n          int
	everything []int
}

// hidden finds what is hidden while it moves, or too small.
func hidden(s *subject, limit float64) (list []Finding) {
	moves := s.bars(func(b *film.Bar) bool { return b.Kind.Moves() && b.Duration > 0 && !s.wholly(b) })
	views := make([]view, len(moves))
	end := reveal.Micros(0)
	for i, b := range moves {
		views[i] = view{bar: b, worst: 2, everything: s.of(b.Targets)}
		end = max(end, b.Start+b.Duration)
	}
	solid := make([]bool, len(s.film.Assembly.Nodes))
	for t := between / 2; t < end; t += max(between, end/mostLooks) {
		if s.ctx.Err() != nil {
			return nil
		}
		var now []*view
		clear(solid)
		for i := range views {
			v := &views[i]
			if b := v.bar; t >= b.Start && t < b.Start+b.Duration {
				now = append(now, v)
				for _, part := range v.everything {
					solid[part] = true
				}
			}
		}
		if len(now) > 0 {
			s.lookAt(t, now, solid, limit/100)
		}
	}
	for i := range views {
		v := &views[i]
		if v.n == 0 { // shorter than the time between looks: once, in its middle
			t := v.bar.Start + v.bar.Duration/2
			clear(solid)
			for _, part := range v.everything {
				solid[part] = true
			}
			s.lookAt(t, []*view{v}, solid, limit/100)
		}
		if f, ok := s.judge(v, limit/100); ok {
			list = append(list, f)
		}
	}
	return list
}

// mostLooks bounds at how many moments of a film it is looked who is seen.
const mostLooks = 4000

// lookAt adds a moment to views.
func (s *subject) lookAt(t reveal.Micros, now []*view, solid []bool, limit float64) {
	fr := s.at(t)
	_, height := s.eyes.Size()
	owners := s.eyes.Nodes(fr, solid, false)
	s.words = s.under(fr, s.words)
	counts, under := s.count(owners, nil), s.count(owners, s.words)
	sight := film.ProjectionOf(fr.Camera, s.aspect())
	only := make([]bool, len(solid))
	for _, v := range now {
		seen, outline := s.shown(v.everything, counts, &sight, fr)
		if outline == 0 {
			continue // gone, or outside of the frame: for others to say
		}
		words := 0.0
		for _, part := range v.everything {
			words += float64(under[part])
		}
		// A part covers no more than the outline of its corners: where that much of it is seen it need not be drawn
		// alone.
		all := outline
		if seen-words < limit*outline || seen < float64(height*height)*least*least/1080/1080 {
			clear(only)
			for _, part := range v.everything {
				only[part] = true
			}
			alone := s.count(s.eyes.Nodes(fr, only, true), nil)
			all = 0
			for _, part := range v.everything {
				all += float64(alone[part])
			}
		}
		v.height = float64(height)
		v.n++
		v.seen, v.words, v.all, v.largest = v.seen+seen, v.words+words, v.all+all, max(v.largest, all)
		if share := (seen - words) / max(all, 1); share < v.worst {
			v.worst, v.at = share, t
		}
	}
}

// judge tells whether too little was seen.
func (s *subject) judge(v *view, limit float64) (f Finding, found bool) {
	if v.n == 0 {
		return f, false
	}
	b := v.bar
	f = Finding{Parts: b.Targets, Cues: []reveal.CueID{b.Cue}, From: b.Start, To: b.Start + b.Duration, At: v.at}
	size := math.Sqrt(v.largest) * 1080 / v.height
	if size < least {
		f.Worse = 100 * (1 - size/least)
		f.Says = fmt.Sprintf(
			"%s is %.0f pixels large while it moves, in a picture of 1080 lines: %s.",
			s.labels(b.Targets),
			size,
			s.cueWords(b.Cue),
		)
		return f, true
	}
	share := (v.seen - v.words) / max(v.all, 1)
	if v.all == 0 || share >= limit {
		return f, false
	}
	f.Worse = 100 * (1 - share)
	under := ""
	if v.seen/v.all >= limit {
		under = underWords
	}
	f.Says = fmt.Sprintf(
		"Of %s %.0f %% is seen while it moves%s, from %.1f to %.1f s: %s.",
		s.labels(b.Targets), 100*share, under, float64(f.From)/1e6, float64(f.To)/1e6, s.cueWords(b.Cue),
	)
	return f, true
}

// underWords is said where more than enough would be seen without the words of the film.
const underWords = ", as words lie on it"

// count is how many pixels are of each node, of those that are marked where marks are given.
func (s *subject) count(owners []int32, marked []bool) []int {
	n := make([]int, len(s.film.Assembly.Nodes))
	for i, o := range owners {
		if o >= 0 && (marked == nil || marked[i]) {
			n[o]++
		}
	}
	return n
}

// shown is how many pixels of parts that are there are seen, and how many they can cover at most.
func (s *subject) shown(
	parts []int,
	counts []int,
	sight *film.Projection,
	fr *film.Frame,
) (seen, most float64) {
	for _, part := range parts {
		if fr.Opacity[part] > 0 {
			seen += float64(counts[part])
			most += s.outline(sight, fr, part)
		}
	}
	return seen, most
}

// outline is how many pixels the convex hull of a part's corners covers inside the frame, at most: as much as the part
// does.
func (s *subject) outline(sight *film.Projection, fr *film.Frame, part int) float64 {
	width, height := s.eyes.Size()
	var points []outline.Point
	for _, p := range s.cornersOf(part) {
		x, y, front := sight.Project(fr.World[part].Apply(p))
		if !front {
			return float64(width * height)
		}
		points = append(points, outline.Point{max(0, min(x, 1)) * float64(width), max(0, min(y, 1)) * float64(height)})
	}
	return outline.Area(outline.Hull(points))
}
