package demo

import "math"

// point is a point of a profile, mm.
type point [2]float64

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

func turn(a, b, c point) float64 { return (b[0]-a[0])*(c[1]-a[1]) - (b[1]-a[1])*(c[0]-a[0]) }

// triangulate cuts an outline with holes into triangles by clipping ears. It
// returns the points (outline first, then the holes) and index triples.
func triangulate(outer polygon, holes ...polygon) (points []point, triangles [][3]int) {
	points = append(points, outer...)
	ring := make([]int, len(outer))
	for i := range ring {
		ring[i] = i
	}
	for i, h := range holes {
		base := len(points)
		points = append(points, h...)
		ring = bridge(points, ring, base, len(h), holes[i+1:])
	}
	for len(ring) > 3 {
		best := -1
		for i := range ring {
			if isEar(points, ring, i) {
				best = i
				break
			}
		}
		if best < 0 {
			best = 0 // only slivers are left
		}
		n := len(ring)
		triangles = append(triangles, [3]int{ring[(best+n-1)%n], ring[best], ring[(best+1)%n]})
		ring = append(ring[:best], ring[best+1:]...)
	}
	return points, append(triangles, [3]int{ring[0], ring[1], ring[2]})
}

// bridge joins a hole (points base … base+n, anticlockwise) to the ring by a
// double edge between the two points that are nearest to each other and see
// each other, past the holes that are still to come.
func bridge(points []point, ring []int, base, n int, rest []polygon) []int {
	from, best, dist := base, 0, math.Inf(1)
	for k := base; k < base+n; k++ {
		for i, r := range ring {
			d := math.Hypot(points[r][0]-points[k][0], points[r][1]-points[k][1])
			if d < dist && opensTo(points, ring, i, points[k]) && sees(points, ring, base, n, k, i, rest) {
				from, best, dist = k, i, d
			}
		}
	}
	joined := append([]int(nil), ring[:best+1]...)
	for i := range n + 1 { // the hole runs clockwise
		joined = append(joined, base+((from-base-i)%n+n)%n)
	}
	joined = append(joined, ring[best])
	return append(joined, ring[best+1:]...)
}

// opensTo reports whether the inside of the ring at its point i lies towards
// q. A point that an earlier bridge doubled opens to one side only.
func opensTo(points []point, ring []int, i int, q point) bool {
	n := len(ring)
	before, b, after := points[ring[(i+n-1)%n]], points[ring[i]], points[ring[(i+1)%n]]
	in, out := turn(before, b, q) >= 0, turn(b, after, q) >= 0
	if turn(before, b, after) > 0 {
		return in && out
	}
	return in || out
}

// sees reports whether the segment from point k of a hole to ring point i meets
// no edge of the ring, of the hole itself, or of the rest.
func sees(points []point, ring []int, base, n, k, i int, rest []polygon) bool {
	a, b := points[k], points[ring[i]]
	for j := range ring {
		if crosses(a, b, points[ring[j]], points[ring[(j+1)%len(ring)]]) {
			return false
		}
	}
	for _, h := range append([]polygon{points[base : base+n]}, rest...) {
		for j := range h {
			if crosses(a, b, h[j], h[(j+1)%len(h)]) {
				return false
			}
		}
	}
	return true
}

// crosses reports whether the segments ab and cd cross or touch other than at
// a common end.
func crosses(a, b, c, d point) bool {
	if c == b || d == b || c == a || d == a {
		return false
	}
	return turn(a, b, c)*turn(a, b, d) <= 0 && turn(c, d, a)*turn(c, d, b) <= 0
}

func isEar(points []point, ring []int, i int) bool {
	n := len(ring)
	a, b, c := points[ring[(i+n-1)%n]], points[ring[i]], points[ring[(i+1)%n]]
	if turn(a, b, c) <= 1e-12 {
		return false
	}
	for _, r := range ring {
		p := points[r]
		if p == a || p == b || p == c {
			continue
		}
		if turn(a, b, p) >= 0 && turn(b, c, p) >= 0 && turn(c, a, p) >= 0 {
			return false
		}
	}
	return true
}
