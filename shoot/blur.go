package shoot

import (
	"slowreveal/core/reveal"
)

// MaxBlur is the largest number of pictures that a frame with motion blur is the mean of.
const MaxBlur = 32

// shutter is how much of a frame's time the film is exposed: half, as film cameras do it
// (a shutter of 180°; common practice, no source).
const shutter = 0.5

// exposure returns the film's times of the pictures that frame k is the mean of, its own
// time in their middle.
func (p *Plan) exposure(k int) []reveal.Micros {
	t := p.Rate.Time(k)
	if p.Blur < 2 {
		return []reveal.Micros{p.Shown(t)}
	}
	open := shutter * float64(reveal.Second) * float64(p.Rate.Den) / float64(p.Rate.Num)
	list := make([]reveal.Micros, p.Blur)
	for i := range list {
		at := float64(t) + open*((float64(i)+0.5)/float64(p.Blur)-0.5)
		list[i] = p.Shown(max(0, reveal.Micros(at)))
	}
	return list
}

// expose renders a frame that is the mean of several moments. Words are not blurred: they
// are those of the middle.
func (c *camera) expose(times []reveal.Micros, out []byte) {
	if len(times) == 1 || c.still(times) {
		c.shoot(times[len(times)/2], out)
		return
	}
	for _, p := range c.plates {
		if p.sum == nil {
			p.sum = make([]uint16, len(p.picture.RGB))
		}
		clear(p.sum)
	}
	for _, t := range times {
		c.film.At(t, c.frame)
		c.view.Take(c.scene, c.frame, c.aspect)
		for _, p := range c.plates {
			p.draw(c)
			for i, v := range p.picture.RGB {
				p.sum[i] += uint16(v)
			}
		}
	}
	c.film.At(times[len(times)/2], c.frame)
	n := uint16(len(times))
	for _, p := range c.plates {
		p.picture.Replace(func(rgb []byte) {
			for i, v := range p.sum {
				rgb[i] = byte((v + n/2) / n)
			}
		})
		c.write(p.picture)
	}
	c.shot = false // what the plates show is no moment
	c.develop()
	copy(out, c.out)
}

// still reports whether nothing moves between the moments.
func (c *camera) still(times []reveal.Micros) bool {
	if c.probe == nil {
		c.probe = c.scene.NewView()
	}
	c.film.At(times[0], c.frame)
	c.probe.Take(c.scene, c.frame, c.aspect)
	c.film.At(times[len(times)-1], c.frame)
	return c.probe.Shows(c.scene, c.frame, c.aspect)
}
