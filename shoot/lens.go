package shoot

import (
	"math"

	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// Bounds of the aperture, as the focal length over its diameter.
const (
	MinAperture = 0.7
	MaxAperture = 64
)

// lensPictures is of how many pictures a frame with depth of field is the mean at least.
const lensPictures = 24

// through returns the camera as it sees through point i of n of its lens: a thin lens of
// the given aperture, focused on what the camera looks at. The points lie evenly on the disc
// (Vogel 1979, "A better way to construct the sunflower head"), and the camera turns about
// what it looks at instead of moving aside, which differs in second order only.
func through(c reveal.Camera, aperture float64, i, n int) reveal.Camera {
	radius := c.Lens / aperture / 2 * math.Sqrt((float64(i)+0.5)/float64(n))
	s, k := math.Sincos(float64(i) * math.Pi * (3 - math.Sqrt(5)))
	const degrees = 180 / math.Pi
	aside := space.AxisAngle(space.Vec{Y: 1}, radius*k/c.Distance*degrees)
	over := space.AxisAngle(space.Vec{X: 1}, -radius*s/c.Distance*degrees)
	own := c.Orientation.Unit().Matrix()
	turned := aside.Mul(&over)
	turned = own.Mul(&turned)
	c.Orientation = turned.Quat()
	return c
}
