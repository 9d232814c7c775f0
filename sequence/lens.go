package sequence

import (
	"math"

	"slowreveal/core/film"
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

// lensCounts are the numbers of lens points that frames have, according to how far they blur: lensStride has no
// divisor in common with any of them.
var lensCounts = []int{lensPictures, 37, 53, 73, 97, 127, 163, 199}

// copyApart is how far apart, in pixels, the copies of a point lie that a blurred one is made of: further apart they
// are seen as such.
const copyApart = 1.3

// sharpen returns the instants of a frame with as many points of the lens as its blur needs.
func (c *camera) sharpen(list []instant) []instant {
	if list[0].lens < 0 {
		return list
	}
	c.see(list[len(list)/2].at)
	radius := c.blurred()
	need := math.Pi * radius * radius / (copyApart * copyApart)
	n := lensCounts[len(lensCounts)-1]
	for _, count := range lensCounts {
		if float64(count) >= need {
			n = count
			break
		}
	}
	if n <= len(list) {
		return list
	}
	out := make([]instant, n)
	for i := range out {
		out[i] = instant{list[i*len(list)/n].at, i * lensStride % n}
	}
	return out
}

// blurred is the radius in pixels of the largest disc that a point of a part that is seen becomes.
func (c *camera) blurred() float64 {
	fr := c.frame
	eye := film.Eye(fr.Camera)
	inverse := eye.Inverse()
	_, up := film.Field(fr.Camera.FocalLength, c.aspect)
	pixels := float64(c.plates[0].picture.Height) / 2 / up // of a slope of 1
	lens, focus, most := fr.Camera.FocalLength/c.aperture/2, fr.Camera.Distance, 0.0
	for i := range c.film.Assembly.Nodes {
		n := &c.film.Assembly.Nodes[i]
		if !n.IsPart() || fr.Opacity[i] == 0 {
			continue
		}
		toCamera := inverse.Mul(&fr.World[i])
		box := c.film.Assembly.Shapes[n.Shape].Bounds()
		for k := range 8 {
			corner := toCamera.Apply(box.Corner(k))
			away := max(-corner.Z, focus/20)
			if math.Abs(corner.X) < away*up*c.aspect*1.1 && math.Abs(corner.Y) < away*up*1.1 {
				most = max(most, lens*math.Abs(away-focus)/focus/away*pixels)
			}
		}
	}
	return most
}

// through returns the camera as it sees through point i of n of its lens: a thin lens of
// the given aperture, focused on what the camera looks at. The points lie evenly on the disc
// (Vogel 1979, "A better way to construct the sunflower head"), and the camera turns about
// what it looks at instead of moving aside, which differs in second order only.
func through(c reveal.Camera, aperture float64, i, n int) reveal.Camera {
	radius := c.FocalLength / aperture / 2 * math.Sqrt((float64(i)+0.5)/float64(n))
	s, k := math.Sincos(float64(i) * math.Pi * (3 - math.Sqrt(5)))
	const degrees = 180 / math.Pi
	aside := space.AxisAngle(space.Vec{Y: 1}, radius*k/c.Distance*degrees)
	over := space.AxisAngle(space.Vec{X: 1}, -radius*s/c.Distance*degrees)
	own := c.Orientation.Normalized().Matrix()
	turned := aside.Mul(&over)
	turned = own.Mul(&turned)
	c.Orientation = turned.Quat()
	return c
}
