package film

import "slowreveal/core/reveal"

// curve is a cubic Bézier from (0, 0) to (1, 1) in polynomial form (W3C CSS
// Easing Functions 1, cubic-bezier).
type curve struct {
	ax, bx, cx float64
	ay, by, cy float64
	linear     bool
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
