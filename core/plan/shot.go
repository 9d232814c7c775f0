package plan

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// shot is one from where boxes and a way are seen well, where the present camera does not do; ok is false where it
// does.
func (w *writer) shot(boxes []space.Box, along space.Vec, name string) (shot reveal.Shot, ok bool) {
	const margin = 0.22
	best := w.camera
	best.Orientation = Eye(w.camera.Orientation, w.rest[0].R.Apply(along))
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

// Eye turns a camera's orientation so that something that goes along a direction, both of the world, is seen well: by no
// more than it must.
func Eye(from space.Quat, along space.Vec) space.Quat {
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
			cost += 3*max(0, math.Abs(towards)-0.8) + 3*max(0, -towards-0.1)
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
	eye := from
	for _, group := range newWriter(p, a, world, w).groups() {
		eye = Eye(eye, world[0].R.Apply(p.Moves[group[0]].Paths[0].Legs[0].Along.Vec()))
		for _, k := range group {
			list[k] = eye
		}
	}
	return append(list, from)
}

// FirstEye is how the camera of a first film is turned where that begins.
func FirstEye() space.Quat { return turned(film.Views()[0].Orientation, -15, 0) }

// easySwing is how fast a camera turns at most on its way to a shot, degrees a second: well below what proof calls
// fast.
const easySwing = 30

// swing is how long, s, a camera takes at least from one view to another.
func swing(from, to reveal.Camera) float64 {
	a, b := from.Orientation.Normalized(), to.Orientation.Normalized()
	dot := a[0]*b[0] + a[1]*b[1] + a[2]*b[2] + a[3]*b[3]
	return 2 * math.Acos(min(1, math.Abs(dot))) * 180 / math.Pi / easySwing
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
