package film

import "slowreveal/core/reveal"

// curve is a cubic Bézier from (0, 0) to (1, 1) in polynomial form (W3C CSS
// Easing Functions 1, cubic-bezier).
type curve struct {
	ax, bx, cx float64
	ay, by, cy float64
	linear     bool
	// profile is how far what is driven goes; then a progress is in its units.
	profile *profile
}

func newCurve(e reveal.Easing) curve {
	p := e.Points()
	c := curve{linear: p[0] == p[1] && p[2] == p[3]}
	c.cx, c.cy = 3*p[0], 3*p[1]
	c.bx, c.by = 3*(p[2]-p[0])-c.cx, 3*(p[3]-p[1])-c.cy
	c.ax, c.ay = 1-c.cx-c.bx, 1-c.cy-c.by
	return c
}

// at returns the progress after the share x of the time. Outside 0…1 it holds
// its ends.
func (c *curve) at(x float64) float64 {
	if c.profile != nil {
		return c.profile.at(x, c.eased(x))
	}
	return c.eased(x)
}

// end is the progress when all is done.
func (c *curve) end() float64 {
	if c.profile != nil {
		return c.profile.at(1, 1)
	}
	return 1
}

// most is how far an easing comes on its way, 1 where it does not overshoot.
func (c *curve) most() float64 {
	// A Bézier lies within its control points.
	y1, y2 := c.cy/3, c.by/3+2*c.cy/3
	return max(1, y1, y2, 1-min(y1, y2, 0))
}

func (c *curve) overshoots() bool { return c.most() > 1 }

// within reports whether an easing never leaves 0…1: that the heights of its two inner corners do not.
func (c *curve) within() bool {
	first := c.cy / 3
	second := c.by/3 + 2*first
	return c.linear || min(first, second) >= 0 && max(first, second) <= 1
}

// bounds are the least and the greatest progress of what is driven.
func (c *curve) bounds() (least, most float64) { return c.profile.bounds(c.most()) }

func (c *curve) eased(x float64) float64 {
	switch {
	case x <= 0:
		return 0
	case x >= 1:
		return 1
	case c.linear:
		return x
	}
	s := c.solve(x)
	return ((c.ay*s+c.by)*s + c.cy) * s
}

// solve returns the curve parameter at which the curve's x is x: Newton's
// method, and bisection where the slope is too small for it.
func (c *curve) solve(x float64) float64 {
	s := x
	for range 8 {
		d := ((c.ax*s+c.bx)*s+c.cx)*s - x
		if d < 1e-12 && d > -1e-12 {
			return s
		}
		slope := (3*c.ax*s+2*c.bx)*s + c.cx
		if slope < 1e-6 && slope > -1e-6 {
			break
		}
		s -= d / slope
	}
	lo, hi := 0.0, 1.0
	if s < lo || s > hi {
		s = x
	}
	for range 60 {
		v := ((c.ax*s+c.bx)*s + c.cx) * s
		if v == x {
			break
		}
		if v < x {
			lo = s
		} else {
			hi = s
		}
		s = (lo + hi) / 2
	}
	return s
}

// Ease returns the progress of an easing after the share x of its time.
func Ease(e reveal.Easing, x float64) float64 {
	c := newCurve(e)
	return c.at(x)
}
