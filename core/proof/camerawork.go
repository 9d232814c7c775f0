package proof

import (
	"fmt"
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

const (
	// turnsBack is by how much, degrees, a camera has to turn one way and then the other to be said to go to and fro,
	// and soon is how soon, µs (common practice, no source).
	turnsBack = 15
	soon      = reveal.Second
)

// cameraWork finds cameras that go through parts, turn too fast, or turn one way and at once back.
func cameraWork(s *subject, limit float64) (list []Finding) {
	var last *turned
	for _, b := range s.bars(func(b *film.Bar) bool { return b.Kind.Camera() && b.Duration > 0 }) {
		if s.ctx.Err() != nil {
			return nil
		}
		f := Finding{Cues: []reveal.CueID{b.Cue}, From: b.Start, To: b.Start + b.Duration}
		ts := moments(b, reveal.Second/30, 40*mostMoments)
		eyes := make([]space.Rigid, len(ts))
		var through Finding
		pierces := false
		for k, t := range ts {
			fr := s.at(t)
			eyes[k] = film.Eye(fr.Camera)
			if k > 0 && !pierces {
				through, pierces = s.goesThrough(fr, t, eyes[k-1].T, eyes[k].T)
			}
		}
		fast := f
		for k := 1; k < len(ts); k++ {
			if ts[k] == ts[k-1] {
				continue
			}
			angle, _ := turnBetween(&eyes[k-1], &eyes[k])
			if speed := angle / (float64(ts[k]-ts[k-1]) / 1e6); speed > fast.Worse {
				fast.Worse, fast.At = speed, ts[k]
			}
		}
		if fast.Worse > limit*(1+1e-6) {
			fast.Says = fmt.Sprintf(
				"The camera turns by %.0f° a second at %.1f s: %s.",
				fast.Worse,
				float64(fast.At)/1e6,
				s.cueWords(b.Cue),
			)
			list = append(list, fast)
		}
		if pierces {
			through.Cues, through.From, through.To = f.Cues, f.From, f.To
			through.Says += fmt.Sprintf(": %s.", s.cueWords(b.Cue))
			list = append(list, through)
		}
		angle, axis := turnBetween(&eyes[0], &eyes[len(eyes)-1])
		now := &turned{b, angle, axis}
		if back, ok := last.against(now); ok {
			back.Says = fmt.Sprintf(
				"The camera turns by %.0f° and at once back by %.0f°, at %.1f s: %s, then %s.",
				last.angle,
				angle,
				float64(back.At)/1e6,
				s.cueWords(last.bar.Cue),
				s.cueWords(b.Cue),
			)
			list = append(list, back)
		}
		last = now
	}
	return list
}

// turned is by how much the camera has turned in a bar, about which axis of the world.
type turned struct {
	bar   *film.Bar
	angle float64 // degrees
	axis  space.Vec
}

func (a *turned) against(b *turned) (f Finding, found bool) {
	if a == nil || a.bar.Retraced || b.bar.Retraced || a.angle < turnsBack || b.angle < turnsBack ||
		b.bar.Start-a.bar.Start-a.bar.Duration > soon ||
		r3.Dot(a.axis, b.axis) > -0.7 {
		return f, false
	}
	return Finding{
		Level: Hint,
		Cues:  []reveal.CueID{a.bar.Cue, b.bar.Cue},
		From:  a.bar.Start,
		To:    b.bar.Start + b.bar.Duration,
		At:    b.bar.Start,
		Worse: min(a.angle, b.angle),
	}, true
}

// turnBetween is by which angle, degrees, and about which axis of the world one pose is turned against another.
func turnBetween(a, b *space.Rigid) (angle float64, axis space.Vec) {
	back := a.R.Transposed()
	turn := b.R.Mul(&back)
	q := turn.Quat()
	v := space.Vec{X: q[0], Y: q[1], Z: q[2]}
	sin, cos := r3.Norm(v), q[3]
	if cos < 0 {
		v, cos = r3.Scale(-1, v), -cos
	}
	if sin == 0 {
		return 0, v
	}
	return 2 * math.Atan2(sin, cos) * 180 / math.Pi, r3.Scale(1/sin, v)
}

// goesThrough finds the first part through whose surface the eye goes on the short way to where it is in a frame, at t.
func (s *subject) goesThrough(fr *film.Frame, t reveal.Micros, before, now space.Vec) (f Finding, found bool) {
	if fr.Camera.Orthographic { // such a picture is taken from any distance
		return f, false
	}
	for _, part := range s.parts {
		if fr.Opacity[part] == 0 {
			continue
		}
		inverse := fr.World[part].Inverse()
		from, to := inverse.Apply(before), inverse.Apply(now)
		way := space.Box{Min: to, Max: to}.With(from)
		bounds := s.film.Assembly.Shapes[s.film.Assembly.Nodes[part].Shape].Bounds()
		if separate(way, bounds, 0) || !s.pierces(part, from, to) {
			continue
		}
		id := s.film.Assembly.Nodes[part].ID
		return Finding{
			Parts: []assembly.NodeID{id},
			At:    t,
			Worse: 1000,
			Says:  fmt.Sprintf("The camera goes through %s at %.1f s", s.label(id), float64(t)/1e6),
		}, true
	}
	return f, false
}

// pierces reports whether the way from one point to another, in a part's own frame, goes through its surface.
func (s *subject) pierces(part int, from, to space.Vec) bool {
	shape := s.shapes[s.film.Assembly.Nodes[part].Shape]
	corner := func(i uint32) space.Vec {
		p := shape.Positions[3*i:]
		return space.Vec{X: float64(p[0]), Y: float64(p[1]), Z: float64(p[2])}
	}
	for i := 0; i+2 < len(shape.Triangles); i += 3 {
		t := solid.Triangle{corner(shape.Triangles[i]), corner(shape.Triangles[i+1]), corner(shape.Triangles[i+2])}
		if pierced(&t, from, to) {
			return true
		}
	}
	return false
}

// pierced reports whether the way from one point to another goes through a triangle (Möller and Trumbore 1997, “Fast,
// minimum storage ray/triangle intersection”, from memory).
func pierced(t *solid.Triangle, from, to space.Vec) bool {
	way, e, g := r3.Sub(to, from), r3.Sub(t[1], t[0]), r3.Sub(t[2], t[0])
	p := r3.Cross(way, g)
	det := r3.Dot(e, p)
	if det == 0 {
		return false
	}
	back := r3.Sub(from, t[0])
	q := r3.Cross(back, e)
	u, v, at := r3.Dot(back, p)/det, r3.Dot(way, q)/det, r3.Dot(g, q)/det
	return u >= 0 && v >= 0 && u+v <= 1 && at >= 0 && at <= 1
}
