package proof

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// least is how large, in pixels of 1080 lines, what moves has to be seen.
const least = 12

// between is how far apart moments are at which it is looked who is seen, µs.
const between = reveal.Second / 4

// view is what of the parts of one bar has been seen so far.
type view struct {
	bar        *film.Bar
	seen, all  float64 // pixels
	worst      float64
	at         reveal.Micros
	height     float64 // of the picture, in its pixels
	largest    float64 // pixels at a time
	n          int
	everything []int
}

// hidden finds what is hidden while it moves, or too small.
func hidden(s *subject, limit float64) (list []Finding) {
	moves := s.bars(func(b *film.Bar) bool { return b.Kind.Moves() && b.Length > 0 })
	views := make([]view, len(moves))
	end := reveal.Micros(0)
	for i, b := range moves {
		views[i] = view{bar: b, worst: 2, everything: s.of(b.Targets)}
		end = max(end, b.Start+b.Length)
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
			// A short one is looked at once, in its middle.
			if b := v.bar; t >= b.Start && t < b.Start+b.Length {
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
		if v.n == 0 { // shorter than the time between looks
			t := v.bar.Start + v.bar.Length/2
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
	width, height := s.eyes.Size()
	counts := count(s.eyes.Owners(fr, solid, false))
	sight := film.SightOf(fr.Camera, s.aspect())
	only := make([]bool, len(solid))
	for _, v := range now {
		seen, outline := 0.0, 0.0
		for _, part := range v.everything {
			if fr.Opacity[part] == 0 {
				continue
			}
			seen += float64(counts[int32(part)])
			outline += s.outline(&sight, fr, part, width, height)
		}
		if outline == 0 {
			continue // gone, or outside of the frame: for others to say
		}
		// A part covers no more than the outline of its corners: where that much of it is seen it need not be drawn alone.
		all := outline
		if seen < limit*outline || seen < float64(height*height)*least*least/1080/1080 {
			clear(only)
			for _, part := range v.everything {
				only[part] = true
			}
			alone := count(s.eyes.Owners(fr, only, true))
			all = 0
			for _, part := range v.everything {
				all += float64(alone[int32(part)])
			}
		}
		v.height = float64(height)
		v.n++
		v.seen, v.all, v.largest = v.seen+seen, v.all+all, max(v.largest, all)
		if share := seen / max(all, 1); share < v.worst {
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
	f = Finding{Parts: b.Targets, Cues: []reveal.CueID{b.Cue}, From: b.Start, To: b.Start + b.Length, At: v.at}
	size := math.Sqrt(v.largest) * 1080 / v.height
	if size < least {
		f.Worse = 100 * (1 - size/least)
		f.Says = fmt.Sprintf("%s is %.0f pixels large while it moves, in a picture of 1080 lines: %s.", s.labels(b.Targets), size, s.cueWords(b.Cue))
		return f, true
	}
	if share := v.seen / max(v.all, 1); v.all > 0 && share < limit {
		f.Worse = 100 * (1 - share)
		f.Says = fmt.Sprintf("Of %s %.0f %% is seen while it moves, from %.1f to %.1f s: %s.", s.labels(b.Targets), 100*share, float64(f.From)/1e6, float64(f.To)/1e6, s.cueWords(b.Cue))
		return f, true
	}
	return f, false
}

func count(owners []int32) map[int32]int {
	n := map[int32]int{}
	for _, o := range owners {
		if o >= 0 {
			n[o]++
		}
	}
	return n
}

// outline is how many pixels the convex hull of a part's corners covers inside the frame, at most: as much as the part does.
func (s *subject) outline(sight *film.Sight, fr *film.Frame, part, width, height int) float64 {
	var points [][2]float64
	for _, p := range s.cornersOf(part) {
		x, y, front := sight.See(fr.World[part].Apply(p))
		if !front {
			return float64(width * height)
		}
		points = append(points, [2]float64{max(0, min(x, 1)) * float64(width), max(0, min(y, 1)) * float64(height)})
	}
	return hullArea(points)
}

// hullArea is the area of the convex hull of points, by Andrew's monotone chain (Andrew 1979, from memory).
func hullArea(points [][2]float64) float64 {
	slices.SortFunc(points, func(a, b [2]float64) int { return cmp.Or(cmp.Compare(a[0], b[0]), cmp.Compare(a[1], b[1])) })
	cross := func(o, a, b [2]float64) float64 { return (a[0]-o[0])*(b[1]-o[1]) - (a[1]-o[1])*(b[0]-o[0]) }
	var hull [][2]float64
	for range 2 {
		first := len(hull)
		for _, p := range points {
			for len(hull) >= first+2 && cross(hull[len(hull)-2], hull[len(hull)-1], p) <= 0 {
				hull = hull[:len(hull)-1]
			}
			hull = append(hull, p)
		}
		if len(hull) > first {
			hull = hull[:len(hull)-1]
		}
		slices.Reverse(points)
	}
	area := 0.0
	for i, p := range hull {
		q := hull[(i+1)%len(hull)]
		area += p[0]*q[1] - q[0]*p[1]
	}
	return math.Abs(area) / 2
}

// crowded finds what has been taken off and stands behind something else that has been, at the ends of steps.
func crowded(s *subject, limit float64) (list []Finding) {
	told := map[int]int{} // by the first part: its finding
	for i := range s.film.Schedule.Steps {
		span := &s.film.Schedule.Steps[i]
		if span.Muted || span.Length == 0 || s.film.Reveal.Steps[i].Retrace != nil {
			continue
		}
		if s.ctx.Err() != nil {
			return nil
		}
		t := span.Start + span.Length - 1
		for _, c := range s.covered(t, 1-limit/100) {
			first := c.parts[0]
			if k, ok := told[first]; ok {
				list[k].To = t
				continue
			}
			told[first] = len(list)
			ids := s.ids(c.parts)
			list = append(list, Finding{Parts: ids, From: t, To: t, At: t, Worse: 100 * c.share,
				Says: fmt.Sprintf("Other parts that were taken off cover %.0f %% of %s at the end of step %d.", 100*c.share, s.labels(ids), i+1)})
		}
	}
	return list
}

// unit is parts that have been taken off together.
type unit struct {
	parts []int
	share float64 // of it that others cover
}

// units divides the parts that are not where they were imported by where they have gone: those that still stand to one another as they did
// are one.
func (s *subject) units(fr *film.Frame) (list []unit) {
	known := map[space.Rigid]int{}
	for _, part := range s.parts {
		if since, ok := s.pulled[part]; !ok || since >= fr.Time || fr.Opacity[part] == 0 || !s.displaced(part, fr) {
			continue
		}
		back := s.rest[part].Inverse()
		way := rounded(fr.World[part].Then(&back))
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
	width, height := s.eyes.Size()
	counts := count(s.eyes.Owners(fr, only, true))
	sight := film.SightOf(fr.Camera, s.aspect())
	single := make([]bool, len(only))
	for _, u := range units {
		seen, outline := 0.0, 0.0
		for _, part := range u.parts {
			seen += float64(counts[int32(part)])
			outline += s.outline(&sight, fr, part, width, height)
		}
		if outline < tiny || seen >= least*outline {
			continue
		}
		clear(single)
		for _, part := range u.parts {
			single[part] = true
		}
		all := 0.0
		for _, n := range count(s.eyes.Owners(fr, single, true)) {
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
