package film

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// Blend goes from camera a to camera b along the arc about what they look at:
// target, distance and lens straight, the orientation along the great arc. At
// 0 it is a itself, at 1 b itself.
func Blend(a, b reveal.Camera, u float64) reveal.Camera {
	switch u {
	case 0:
		return a
	case 1:
		return b
	}
	c := reveal.Camera{
		Orientation: space.Slerp(a.Orientation, b.Orientation, u),
		Distance:    math.Max(mix(a.Distance, b.Distance, u), 1e-3),
		FocalLength: math.Max(mix(a.FocalLength, b.FocalLength, u), reveal.MinFocalLength),
	}
	for k := range c.Target {
		c.Target[k] = mix(a.Target[k], b.Target[k], u)
	}
	return flattened(c, a, b, u)
}

// straight goes from a to b as Blend does, but the eye runs along a straight line.
func straight(a, b reveal.Camera, u float64) reveal.Camera {
	c := Blend(a, b, u)
	if u == 0 || u == 1 {
		return c
	}
	ea, eb := Eye(a).T, Eye(b).T
	eye := space.Vec{X: mix(ea.X, eb.X, u), Y: mix(ea.Y, eb.Y, u), Z: mix(ea.Z, eb.Z, u)}
	r := c.Orientation.Normalized().Matrix()
	c.Target = space.Vec3Of(r3.Sub(eye, r.Apply(space.Vec{Z: c.Distance})))
	return c
}

// orthographicFrom is how far a change to parallel lines of sight has come when they
// count as parallel: the eye is then a thousand times as far away.
const orthographicFrom = 0.999

// flattened takes c the share u of the way from the projection of a to that of b:
// the eye moves away while the lens grows, so that what is looked at keeps its
// size.
func flattened(c, a, b reveal.Camera, u float64) reveal.Camera {
	p := 0.0
	switch {
	case a.Orthographic && b.Orthographic:
		p = 1
	case b.Orthographic:
		p = u
	case a.Orthographic:
		p = 1 - u
	}
	if p >= orthographicFrom {
		c.Orthographic = true
	} else if p > 0 {
		c.Distance, c.FocalLength = c.Distance/(1-p), c.FocalLength/(1-p)
	}
	return c
}

// curveOfViews is the curve through several cameras: the one where it begins, those on
// the way, and the last. All of it follows Catmull–Rom splines, the orientation on
// quaternions of the nearer sign, made of unit length again.
type curveOfViews struct {
	first reveal.Camera
	via   []reveal.Camera
	last  reveal.Camera
}

func (w *curveOfViews) segments() int { return len(w.via) + 1 }

func (w *curveOfViews) key(i int) *reveal.Camera {
	switch {
	case i <= 0:
		return &w.first
	case i <= len(w.via):
		return &w.via[i-1]
	}
	return &w.last
}

// at returns the camera after u of the way, 0…1; each segment takes as long as
// the others.
func (w *curveOfViews) at(u float64) reveal.Camera {
	n := w.segments()
	switch {
	case u <= 0:
		return w.first
	case u >= 1:
		return w.last
	}
	i := min(int(u*float64(n)), n-1)
	v := u*float64(n) - float64(i)
	k := [4]*reveal.Camera{w.key(i - 1), w.key(i), w.key(i + 1), w.key(i + 2)}
	var c reveal.Camera
	for d := range c.Target {
		c.Target[d] = catmullRom(k[0].Target[d], k[1].Target[d], k[2].Target[d], k[3].Target[d], v)
	}
	c.Distance = positiveSpline(k[0].Distance, k[1].Distance, k[2].Distance, k[3].Distance, v)
	c.FocalLength = positiveSpline(k[0].FocalLength, k[1].FocalLength, k[2].FocalLength, k[3].FocalLength, v)
	c.Orientation = splineOf(k[0].Orientation, k[1].Orientation, k[2].Orientation, k[3].Orientation, v)
	return flattened(c, *k[1], *k[2], v)
}

func splineOf(a, b, c, d space.Quat, v float64) space.Quat {
	a, c = nearer(a, b), nearer(c, b)
	d = nearer(d, c)
	var q space.Quat
	for i := range q {
		q[i] = catmullRom(a[i], b[i], c[i], d[i], v)
	}
	return q.Normalized()
}

// nearer returns q or −q, which is the same rotation: that on the side of to.
func nearer(q, to space.Quat) space.Quat {
	if q[0]*to[0]+q[1]*to[1]+q[2]*to[2]+q[3]*to[3] < 0 {
		return space.Quat{-q[0], -q[1], -q[2], -q[3]}
	}
	return q
}

// catmullRom is the cubic from b to c with the slopes (c−a)/2 and (d−b)/2
// (Catmull, Rom 1974).
func catmullRom(a, b, c, d, v float64) float64 {
	return b + 0.5*v*(c-a+v*(2*a-5*b+4*c-d+v*(3*(b-c)+d-a)))
}

// positiveSpline holds a spline between half the lesser and twice the greater of
// its middle values, which are positive.
func positiveSpline(a, b, c, d, v float64) float64 {
	return max(min(b, c)/2, min(catmullRom(a, b, c, d, v), 2*max(b, c)))
}

// atConstantSpeed returns the u at which the eye has come the share s of the length of its
// way.
func (w *curveOfViews) atConstantSpeed(s float64) float64 {
	if s <= 0 || s >= 1 {
		return s
	}
	const pieces = 64 // of a segment
	n := w.segments() * pieces
	var known [8 * pieces]float64 // the first lengths, which are needed twice
	last := Eye(w.at(0)).T
	step := func(k int) float64 {
		p := Eye(w.at(float64(k) / float64(n))).T
		d := r3.Norm(r3.Sub(p, last))
		last = p
		return d
	}
	total := 0.0
	for k := range n {
		d := step(k + 1)
		total += d
		if k < len(known) {
			known[k] = d
		}
	}
	if total == 0 {
		return s
	}
	wanted := s * total
	for k := range n {
		var d float64
		switch {
		case k < len(known):
			d = known[k]
		case k == len(known):
			last = Eye(w.at(float64(k) / float64(n))).T
			d = step(k + 1)
		default:
			d = step(k + 1)
		}
		if wanted <= d && d > 0 {
			return (float64(k) + wanted/d) / float64(n)
		}
		wanted -= d
	}
	return 1
}
