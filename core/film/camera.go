package film

import (
	"errors"
	"math"

	"slowreveal/core/assembly"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// Field returns the tangents of half the horizontal and half the vertical
// field of view of a lens, for a frame of the given aspect (width over height)
// that lies as large as it can inside 36 × 24 mm: tan(φ/2) = d/2f (thin lens,
// focused at infinity).
func Field(lens, aspect float64) (horizontal, vertical float64) {
	if aspect >= 1.5 {
		h := 18 / lens
		return h, h / aspect
	}
	v := 12 / lens
	return v * aspect, v
}

// Eye returns where a camera stands in the world, and its rotation.
func Eye(c reveal.Camera) space.Rigid {
	r := c.Orientation.Normalized().Matrix()
	d := r.Apply(space.Vec{Z: c.Distance})
	t := c.Target.Vec()
	return space.Rigid{R: r, T: space.Vec{X: t.X + d.X, Y: t.Y + d.Y, Z: t.Z + d.Z}}
}

// Projection is a camera ready to see points of the world, in a frame of some aspect.
type Projection struct {
	eye, inverse space.Rigid
	// Half of what is seen across and up: a tangent, or mm where the lines of
	// sight are parallel.
	across, up   float64
	orthographic bool
}

// ProjectionOf returns the projection of a camera for a frame of the given aspect.
func ProjectionOf(c reveal.Camera, aspect float64) Projection {
	s := Projection{eye: Eye(c), orthographic: c.Orthographic}
	s.inverse = s.eye.Inverse()
	s.across, s.up = Field(c.FocalLength, aspect)
	if c.Orthographic {
		s.across, s.up = s.across*c.Distance, s.up*c.Distance
	}
	return s
}

// Project returns where a point of the world is seen in the frame (x from 0 at the
// left to 1 at the right, y from 0 at the top to 1 at the foot), and whether it
// lies in front of the camera.
func (s *Projection) Project(p space.Vec) (x, y float64, front bool) {
	c := s.inverse.Apply(p)
	away := 1.0
	if !s.orthographic {
		if c.Z > -1e-3 {
			return 0.5, 0.5, false
		}
		away = -c.Z
	}
	return 0.5 + c.X/(away*s.across)/2, 0.5 - c.Y/(away*s.up)/2, true
}

// View is a named direction to look from.
type View struct {
	Name        string     `json:"name"`
	Label       string     `json:"label"`
	Orientation space.Quat `json:"orientation"`
}

// Views returns the views by name. The elevation of the isometric view is
// atan(1/√2) = 35.264°; the dimetric one shows its axes at 7° and 42° with the
// scales 1 : 1 : ½ (ISO 5456-3), from which follow sin azimuth = 1/√8 and sin
// elevation = 1/3.
func Views() []View {
	up := space.Vec{Y: 1}
	from := func(azimuth, elevation float64) space.Quat {
		sa, ca := math.Sincos(azimuth)
		se, ce := math.Sincos(elevation)
		return space.LookAlong(space.Vec{X: -sa * ce, Y: -se, Z: -ca * ce}, up)
	}
	iso := math.Atan(1 / math.Sqrt2)
	return []View{
		{"isometric", "Isometric", from(math.Pi/4, iso)},
		{"dimetric", "Dimetric", from(math.Asin(math.Sqrt(1.0/8)), math.Asin(1.0/3))},
		{"front", "Front", from(0, 0)},
		{"back", "Back", from(math.Pi, 0)},
		{"left", "Left", from(-math.Pi/2, 0)},
		{"right", "Right", from(math.Pi/2, 0)},
		{"top", "Top", from(0, math.Pi/2)},
		{"bottom", "Bottom", from(0, -math.Pi/2)},
	}
}

// Fit returns the camera with the orientation, lens and projection of c that
// stands as near as it can while every corner of the boxes stays inside the frame,
// less margin (a share of the frame's half, 0…0.9) on each side. Boxes are in the
// world.
func Fit(c reveal.Camera, aspect, margin float64, boxes []space.Box) (reveal.Camera, error) {
	th, tv := Field(c.FocalLength, aspect)
	th, tv = th*(1-margin), tv*(1-margin)
	if c.Orthographic {
		return fitOrthographic(c, th, tv, boxes)
	}
	r := c.Orientation.Normalized().Matrix()
	inf := math.Inf(-1)
	right, left, top, bottom, nearest, farthest := inf, inf, inf, inf, inf, inf
	for _, b := range boxes {
		if b.Empty() {
			continue
		}
		for i := range 8 {
			p := r.ApplyInverse(b.Corner(i))
			right, left = math.Max(right, p.X+th*p.Z), math.Max(left, -p.X+th*p.Z)
			top, bottom = math.Max(top, p.Y+tv*p.Z), math.Max(bottom, -p.Y+tv*p.Z)
			nearest, farthest = math.Max(nearest, p.Z), math.Max(farthest, -p.Z)
		}
	}
	if math.IsInf(nearest, 0) {
		return reveal.Camera{}, errNothing
	}
	z := math.Max((right+left)/(2*th), (top+bottom)/(2*tv))
	depth := (nearest - farthest) / 2
	distance := math.Max(z-depth, leastShare*math.Max(math.Max(right+left, top+bottom), math.Abs(nearest+farthest)))
	if distance <= 0 { // a single point
		distance = 1
	}
	target := r.Apply(space.Vec{X: (right - left) / 2, Y: (top - bottom) / 2, Z: depth})
	c.Target, c.Distance = space.Vec3Of(target), distance
	return c, nil
}

var errNothing = errors.New("there is nothing to frame")

// leastShare is how near an eye comes at least, as a share of what it frames.
const leastShare = 1e-3

// fitOrthographic frames boxes by parallel lines of sight: the distance only says how
// much is seen.
func fitOrthographic(c reveal.Camera, th, tv float64, boxes []space.Box) (reveal.Camera, error) {
	r := c.Orientation.Normalized().Matrix()
	all := space.EmptyBox
	for _, b := range boxes {
		if b.Empty() {
			continue
		}
		for i := range 8 {
			p := r.ApplyInverse(b.Corner(i))
			all = all.Union(space.Box{Min: p, Max: p})
		}
	}
	if all.Empty() {
		return reveal.Camera{}, errNothing
	}
	size := all.Size()
	c.Target = space.Vec3Of(r.Apply(all.Centre()))
	c.Distance = math.Max(size.X/2/th, size.Y/2/tv)
	if c.Distance <= leastShare*size.Z {
		c.Distance = math.Max(leastShare*size.Z, 1e-3)
	}
	return c, nil
}

// FirstLook is the camera that a new reveal opens with: isometric, 50 mm, with the whole assembly in the frame and a
// quarter of its half left free on each side.
func FirstLook(a *assembly.Assembly) reveal.Camera {
	c, err := Fit(
		reveal.Camera{Orientation: Views()[0].Orientation, FocalLength: 50},
		16.0/9,
		0.25,
		[]space.Box{a.Bounds()},
	)
	if err != nil { // an assembly always has a part
		return reveal.Camera{Orientation: space.NoRotation, Distance: 500, FocalLength: 50}
	}
	return c
}
