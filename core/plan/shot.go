package plan

import (
	"fmt"
	"math"
	"slices"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// looks divides the moves of a step by what one eye can see of them: where parts of one move leave on sides that face
// away from one another, each side is looked at by itself.
func (w *writer) looks(group []int) (list [][]Move) {
	var together []Move
	divided := false
	for _, k := range group {
		sides := w.p.Moves[k].sides()
		divided = divided || len(sides) > 1
		for _, side := range sides {
			list = append(list, []Move{side})
		}
		together = append(together, w.p.Moves[k])
	}
	if !divided || w.w.NoShots {
		return [][]Move{together}
	}
	return list
}

// sides divides what is undone by the directions in which it leaves: those that turn away from one another are apart.
func (m *Move) sides() (list []Move) {
	if m.Thread == nil {
		return []Move{*m}
	}
	for i := range m.Nodes {
		along := m.Paths[i].Legs[0].Along.Vec()
		k := slices.IndexFunc(list, func(o Move) bool { return r3.Dot(o.Paths[0].Legs[0].Along.Vec(), along) > -0.3 })
		if k < 0 {
			k = len(list)
			side := *m
			side.Nodes, side.Paths = nil, nil
			list = append(list, side)
		}
		list[k].Nodes, list[k].Paths = append(list[k].Nodes, m.Nodes[i]), append(list[k].Paths, m.Paths[i])
	}
	return list
}

// look lets the camera go to where the nth moves of a step are seen well, if the present one does not do, from a time of
// the step on, µs, and returns when they may begin.
func (w *writer) look(step *reveal.Step, n int, moves []Move, side bool, at float64) float64 {
	var boxes []space.Box
	for i := range moves {
		boxes = append(boxes, w.seen(&moves[i])...)
	}
	before, begin := w.camera, 0.0
	name := step.Title
	if n > 0 {
		begin, name = at+0.2*second, fmt.Sprintf("%s, side %d", short(name), n+1)
	}
	shot, ok := w.shot(boxes, w.eye(w.camera.Orientation, moves, side), name)
	if !ok {
		return at
	}
	arrives := travel(before, w.camera, w.aspect)
	step.Cues = append(step.Cues, w.cue(reveal.Cue{
		Kind:     reveal.KindShot,
		Offset:   reveal.Micros(math.Round(begin)),
		Duration: w.time(max(1.4, arrives)),
		Easing:   reveal.Smooth,
		Shot:     &shot,
	}))
	if arrives > 0.7 {
		return begin + (max(1.4, arrives)-0.1)*second
	}
	return begin + second
}

// eye is how the camera is turned for moves; side says that they are one side of what others see the other side of.
func (w *writer) eye(from space.Quat, moves []Move, side bool) space.Quat {
	for i := range moves {
		for _, id := range moves[i].Nodes {
			if eye, ok := w.p.Eyes[id]; ok {
				return eye
			}
		}
	}
	least := -0.1
	if side {
		least = 0.3
	}
	return seenFrom(from, w.rest[0].R.Apply(moves[0].Paths[0].Legs[0].Along.Vec()), least)
}

// shot is one of boxes with the camera turned so, where the present one does not do; ok is false where it does.
func (w *writer) shot(boxes []space.Box, eye space.Quat, name string) (shot reveal.Shot, ok bool) {
	const margin = 0.22
	best := w.camera
	best.Orientation = eye
	fitted, err := film.Fit(best, w.aspect, margin, boxes)
	if err != nil {
		return shot, false
	}
	if best == w.camera && w.shows(boxes) && w.camera.Distance < 2.2*fitted.Distance {
		return shot, false
	}
	fitted = raised(fitted, w.aspect)
	w.camera = fitted
	return reveal.Shot{Name: short(name), Camera: fitted}, true
}

// seenFrom turns a camera's orientation so that something that goes along a direction, both of the world, is seen well:
// by no more than it must. least is how much it has to come towards the eye: 1 for straight at it, −1 for straight away.
func seenFrom(from space.Quat, along space.Vec, least float64) space.Quat {
	best, score := from, math.Inf(1)
	for _, turn := range eyes {
		for _, raise := range []float64{0, -50} {
			eye := from
			if turn != 0 || raise != 0 {
				eye = turned(from, turn, raise)
			}
			r := eye.Normalized().Matrix()
			// lowered, it looks up from below, but not from straight below
			if raise != 0 && (r.Column(2).Y < -0.6 || r.Column(2).Y > 0.3) {
				continue
			}
			// 1 where it comes straight at the eye, −1 where it goes away behind what it leaves.
			towards := r3.Dot(along, r.Column(2))
			cost := math.Abs(turn)/180 - raise/150
			cost += 3*max(0, math.Abs(towards)-0.8) + 3*max(0, least-towards)
			if r.Column(2).Y < -0.05 { // from below only where that is needed
				cost += 0.3
			}
			if cost < score {
				best, score = eye, cost
			}
		}
	}
	return best
}

// Eyes are how the camera is turned in the steps of moves, by move, where it is turned so before them; and in the end,
// when all is shown.
func Eyes(p *Plan, a *assembly.Assembly, world []space.Rigid, from space.Quat, w Writing) (list []space.Quat) {
	list = make([]space.Quat, len(p.Moves), len(p.Moves)+1)
	eye, writer := from, newWriter(p, a, world, w)
	for _, group := range writer.groups() {
		looks := writer.looks(group)
		for _, look := range looks {
			eye = writer.eye(eye, look, len(looks) > 1)
		}
		for _, k := range group {
			list[k] = eye
		}
	}
	return append(list, from)
}

// FirstEye is how the camera of a first film is turned where that begins.
func FirstEye() space.Quat { return turned(film.Views()[0].Orientation, -15, 0) }

// easySwing is how fast a camera turns at most on its way to a shot, degrees a second: well below what proof calls
// fast. easyTravel is how long it takes at least for the height of its picture, and for twice the distance, s.
const (
	easySwing  = 30
	easyTravel = 0.8
)

// travel is how long, s, a camera takes at least from one view to another.
func travel(from, to reveal.Camera, aspect float64) float64 {
	a, b := from.Orientation.Normalized(), to.Orientation.Normalized()
	dot := a[0]*b[0] + a[1]*b[1] + a[2]*b[2] + a[3]*b[3]
	turn := 2 * math.Acos(min(1, math.Abs(dot))) * 180 / math.Pi
	_, up := film.Field(to.FocalLength, aspect)
	across := r3.Norm(r3.Sub(to.Target.Vec(), from.Target.Vec())) / max(2*up*max(from.Distance, to.Distance), 1e-3)
	nearer := math.Abs(math.Log2(to.Distance / from.Distance))
	return max(turn/easySwing, easyTravel*across, easyTravel*nearer)
}

// raised lets what a camera shows stand higher in the frame, above the words of the step.
func raised(c reveal.Camera, aspect float64) reveal.Camera {
	const by, back = 0.16, 1.12
	_, up := film.Field(c.FocalLength, aspect)
	r := c.Orientation.Normalized().Matrix()
	c.Distance *= back
	c.Target = space.Vec3Of(r3.Sub(c.Target.Vec(), r3.Scale(by*up*c.Distance, r.Column(1))))
	return c
}

// eyes are by how much the camera may go round the upright for a better view, degrees.
var eyes = []float64{0, 30, -30, 60, -60, 90, -90, 120, -120, 150, -150, 180}

// turned takes a camera round the upright of the world, and raises it about its own across.
func turned(q space.Quat, round, raise float64) space.Quat {
	r := q.Normalized().Matrix()
	side, up := space.AxisAngle(space.Vec{Y: 1}, round), space.AxisAngle(r.Column(0), -raise)
	both := side.Mul(&up)
	both = both.Mul(&r)
	return both.Quat()
}

// shows reports whether boxes lie inside the present frame.
func (w *writer) shows(boxes []space.Box) bool {
	sight := film.ProjectionOf(w.camera, w.aspect)
	for _, b := range boxes {
		for i := range 8 {
			if x, y, front := sight.Project(b.Corner(i)); !front || x < 0.03 || x > 0.97 || y < 0.03 || y > 0.97 {
				return false
			}
		}
	}
	return true
}

func short(name string) string {
	if letters := []rune(name); len(letters) > 60 {
		return string(letters[:59]) + "…"
	}
	return name
}
