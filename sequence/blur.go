package sequence

import (
	"slowreveal/core/reveal"
	"slowreveal/render"
)

// MaxShutterSamples is the largest number of pictures that a frame with motion blur is the mean of.
const MaxShutterSamples = 32

// shutter is how much of a frame's time the film is exposed: half, as film cameras do it
// (a shutter of 180°; common practice, no source).
const shutter = 0.5

// instant is one of the pictures that a frame is the mean of: a time of the film, and a
// point of the lens.
type instant struct {
	at   reveal.Micros
	lens int // of how many; −1 for a lens without extent
}

// Exposures is of how many pictures a frame in which something moves is the mean.
func (p *Plan) Exposures() int {
	n := max(p.ShutterSamples, 1)
	if p.Aperture > 0 {
		n = max(n, lensPictures)
	}
	return n
}

// exposure returns what frame k is the mean of, its own time in the middle.
func (p *Plan) exposure(k int) []instant {
	t, n := p.Rate.Time(k), p.Exposures()
	list := make([]instant, n)
	open := shutter * float64(reveal.Second) * float64(p.Rate.Den) / float64(p.Rate.Num)
	for i := range list {
		list[i] = instant{p.Shown(t), -1}
		if p.ShutterSamples > 1 {
			list[i].at = p.Shown(max(0, reveal.Micros(float64(t)+open*((float64(i)+0.5)/float64(n)-0.5))))
		}
		if p.Aperture > 0 {
			list[i].lens = i * lensStride % n
		}
	}
	return list
}

// moment returns what a picture of one time of the reveal is the mean of.
func (p *Plan) moment(t reveal.Micros) []instant {
	if p.Aperture == 0 {
		return []instant{{t, -1}}
	}
	list := make([]instant, lensPictures)
	for i := range list {
		list[i] = instant{t, i}
	}
	return list
}

// lensStride takes the lens's points in an order in which early moments are not all seen
// through its middle; it has no divisor in common with any number from lensPictures to MaxBlur, nor of lensCounts.
const lensStride = 11

// expose renders a frame that is the mean of several instants. Words are not blurred: they
// are those of the middle.
func (c *camera) expose(list []instant, out *render.Frame) {
	list = c.sharpen(list)
	middle := list[len(list)/2]
	still := c.still(list)
	if len(list) == 1 || still && middle.lens < 0 {
		c.shoot(middle.at, out)
		return
	}
	if still && c.exposed && c.unchanged(middle.at) {
		c.into(out)
		c.hand(out)
		return
	}
	c.into(nil)
	if c.film.HasNotes() {
		c.see(middle.at)
		c.plates[0].renderer.Watch(c.frame.Notes)
	}
	c.gather(list)
	c.into(out)
	c.see(middle.at)
	c.note()
	if len(c.frame.Notes) > 0 {
		c.plates[0].renderer.MarkHidden(c.view, c.frame.Notes) // as in the last instant
	}
	n := uint16(len(list))
	for _, p := range c.plates {
		p.picture.Replace(func(rgb []byte) {
			for i, v := range p.sum {
				rgb[i] = byte((v + n/2) / n)
			}
		})
		c.write(p.picture)
	}
	if still { // what it showed is kept as if it were one moment
		c.view.Take(c.scene, c.frame, c.aspect)
	}
	c.mean = true
	c.shot, c.exposed = false, still // what the plates show is no moment
	c.develop()
	c.hand(out)
}

// gather sums the pictures of the instants up.
func (c *camera) gather(list []instant) {
	for _, p := range c.plates {
		if p.sum == nil {
			p.sum = make([]uint16, len(p.picture.RGB))
		}
		clear(p.sum)
	}
	for _, i := range list {
		c.see(i.at)
		if i.lens >= 0 {
			c.frame.Camera = through(c.frame.Camera, c.aperture, i.lens, len(list))
		}
		c.view.Take(c.scene, c.frame, c.aspect)
		for _, p := range c.plates {
			p.draw(c)
			for k, v := range p.picture.RGB {
				p.sum[k] += uint16(v)
			}
		}
	}
}

// still reports whether nothing moves between the instants.
func (c *camera) still(list []instant) bool {
	if c.probe == nil {
		c.probe = c.scene.NewView()
	}
	first, last := list[0].at, list[len(list)-1].at
	if first == last {
		return true
	}
	c.see(first)
	c.probe.Take(c.scene, c.frame, c.aspect)
	c.see(last)
	return c.probe.Shows(c.scene, c.frame, c.aspect)
}
