package film

import (
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// route is the way of a cue that goes along several legs.
type route struct {
	corners []space.Vec // from the start on: one more than legs
	times   []float64   // when each corner is reached, 0…1
	bends   []bend      // of the inner corners, in order
}

// bend is a rounded corner: a parabola that touches both legs.
type bend struct {
	from, to           float64 // 0…1
	enter, corner, out space.Vec
}

func newRoute(r *reveal.Route) *route {
	n := len(r.Legs)
	w := &route{corners: make([]space.Vec, n+1), times: make([]float64, n+1)}
	total := 0.0
	for i := range r.Legs {
		w.corners[i+1] = r3.Add(w.corners[i], r.Legs[i].Way())
		total += share(&r.Legs[i])
		w.times[i+1] = total
	}
	for i := range w.times {
		w.times[i] /= total
	}
	for i := 1; i < n && r.Radius > 0; i++ {
		before, behind := r3.Sub(w.corners[i], w.corners[i-1]), r3.Sub(w.corners[i+1], w.corners[i])
		a, b := r3.Norm(before), r3.Norm(behind)
		d := min(r.Radius, a/2, b/2)
		if d <= 0 {
			continue
		}
		w.bends = append(w.bends, bend{
			from: w.times[i] - d/a*(w.times[i]-w.times[i-1]), to: w.times[i] + d/b*(w.times[i+1]-w.times[i]),
			enter:  r3.Sub(w.corners[i], r3.Scale(d/a, before)),
			corner: w.corners[i],
			out:    r3.Add(w.corners[i], r3.Scale(d/b, behind)),
		})
	}
	return w
}

func share(l *reveal.Leg) float64 {
	if l.Share == 0 {
		return 1
	}
	return l.Share
}

// at returns how far the route has led after the progress u. A progress beyond
// its ends goes on along the first or the last leg.
func (w *route) at(u float64) space.Vec {
	if u == 1 {
		return w.corners[len(w.corners)-1]
	}
	for i := range w.bends {
		if b := &w.bends[i]; u > b.from && u < b.to {
			v := (u - b.from) / (b.to - b.from)
			p := r3.Add(scaled(b.enter, (1-v)*(1-v)), scaled(b.corner, 2*v*(1-v)))
			return r3.Add(p, scaled(b.out, v*v))
		}
	}
	i := 0
	for i < len(w.corners)-2 && u >= w.times[i+1] {
		i++
	}
	v := (u - w.times[i]) / (w.times[i+1] - w.times[i])
	return r3.Add(w.corners[i], scaled(r3.Sub(w.corners[i+1], w.corners[i]), v))
}

// stops lists the progress at which a line drawn along the route needs a point.
func (w *route) stops() []float64 {
	const pieces = 8 // of a bend
	stops := []float64{0}
	next := 0
	for i := 1; i < len(w.corners); i++ {
		if next < len(w.bends) && w.bends[next].corner == w.corners[i] && w.bends[next].from < w.times[i] &&
			w.times[i] < w.bends[next].to {
			b := &w.bends[next]
			for k := range pieces + 1 {
				stops = append(stops, b.from+(b.to-b.from)*float64(k)/pieces)
			}
			next++
			continue
		}
		stops = append(stops, w.times[i])
	}
	return stops
}

// turned returns the route with its legs turned.
func (w *route) turned(r *space.Mat3) *route {
	out := &route{corners: make([]space.Vec, len(w.corners)), times: w.times, bends: make([]bend, len(w.bends))}
	for i := range w.corners {
		out.corners[i] = r.Apply(w.corners[i])
	}
	for i, b := range w.bends {
		out.bends[i] = bend{b.from, b.to, r.Apply(b.enter), r.Apply(b.corner), r.Apply(b.out)}
	}
	return out
}
