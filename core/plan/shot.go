package plan

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// shot is one from where boxes and a way are seen well, where the present camera does not do; ok is false where it
// does.
func (w *writer) shot(boxes []space.Box, along space.Vec, name string) (shot reveal.Shot, ok bool) {
	const margin = 0.22
	best, score := w.camera, math.Inf(1)
	for _, turn := range eyes {
		for _, raise := range []float64{0, -50} {
			c := w.camera
			c.Orientation = turned(c.Orientation, turn, raise)
			r := c.Orientation.Normalized().Matrix()
			// lowered, it looks up from below, but not from straight below
			if raise != 0 && (r.Column(2).Y < -0.6 || r.Column(2).Y > 0.3) {
				continue
			}
			// 1 where it comes straight at the eye, −1 where it goes away behind what it leaves.
			towards := r3.Dot(w.rest[0].R.Apply(along), r.Column(2))
			cost := math.Abs(turn)/180 - raise/150
			cost += 3*max(0, math.Abs(towards)-0.8) + 3*max(0, -towards-0.1)
			if r.Column(2).Y < -0.05 { // from below only where that is needed
				cost += 0.3
			}
			if cost < score {
				best, score = c, cost
			}
		}
	}
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

// easySwing is how fast a camera turns at most on its way to a shot, degrees a second: well below what proof calls
// fast.
const easySwing = 30

// swing is how long, s, a camera takes at least from one view to another.
func swing(from, to reveal.Camera) float64 {
	a, b := from.Orientation.Normalized().Matrix(), to.Orientation.Normalized().Matrix()
	return math.Acos(max(-1, min(1, r3.Dot(a.Column(2), b.Column(2))))) * 180 / math.Pi / easySwing
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
