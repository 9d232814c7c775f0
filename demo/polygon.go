package demo

import (
	"math"

	"slowreveal/core/outline"
)

// point is a point of a profile, mm.
type point = outline.Point

// polygon is a closed outline, anticlockwise, without its first point again.
type polygon []point

func circle(r float64, segments int) polygon { return circleAt(0, 0, r, segments) }

func circleAt(x, y, r float64, segments int) polygon {
	p := make(polygon, segments)
	for i := range p {
		s, c := math.Sincos(2 * math.Pi * float64(i) / float64(segments))
		p[i] = point{x + r*c, y + r*s}
	}
	return p
}

// hexagon has the given width across flats.
func hexagon(flats float64) polygon { return circle(flats/math.Sqrt(3), 6) }

// roundedRect is centred on x, y.
func roundedRect(x, y, w, h, r float64) polygon {
	var p polygon
	const n = 6
	for q, centre := range []point{{x + w/2 - r, y + h/2 - r}, {x - w/2 + r, y + h/2 - r}, {x - w/2 + r, y - h/2 + r}, {x + w/2 - r, y - h/2 + r}} {
		for i := range n + 1 {
			s, c := math.Sincos(math.Pi / 2 * (float64(q) + float64(i)/n))
			p = append(p, point{centre[0] + r*c, centre[1] + r*s})
		}
	}
	return p
}

// gear is an outline with straight-flanked teeth: module m, z teeth. Of an
// outer gear the addendum is m, the dedendum 1.25 m (ISO 53).
func gear(m float64, z int, inner bool) polygon {
	tip, root := m*(float64(z)/2+1), m*(float64(z)/2-1.25)
	if inner {
		tip, root = m*(float64(z)/2-1), m*(float64(z)/2+1.25)
	}
	var p polygon
	for i := range z {
		for _, k := range [][2]float64{{-0.36, root}, {-0.14, tip}, {0.14, tip}, {0.36, root}} {
			s, c := math.Sincos(2 * math.Pi * (float64(i) + k[0]) / float64(z))
			p = append(p, point{k[1] * c, k[1] * s})
		}
	}
	return p
}

func (p polygon) reversed() polygon {
	r := make(polygon, len(p))
	for i := range p {
		r[len(p)-1-i] = p[i]
	}
	return r
}

func (p polygon) at(x, y float64) polygon {
	r := make(polygon, len(p))
	for i := range p {
		r[i] = point{p[i][0] + x, p[i][1] + y}
	}
	return r
}
