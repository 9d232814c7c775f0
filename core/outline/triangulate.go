// Package outline is about closed polygons in a plane.
package outline

import "math"

// Point is a point of the plane.
type Point = [2]float64

func turn(a, b, c Point) float64 { return (b[0]-a[0])*(c[1]-a[1]) - (b[1]-a[1])*(c[0]-a[0]) }

// Triangulate cuts an outline with holes, all anticlockwise, into triangles by clipping ears (G. Meisters, 1975; holes by
// bridges, D. Eberly, 1998; both from memory). It returns the points, the outline's first, then the holes', and index
// triples.
func Triangulate(outer []Point, holes ...[]Point) (points []Point, triangles [][3]int) {
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
func bridge(points []Point, ring []int, base, n int, rest [][]Point) []int {
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
func opensTo(points []Point, ring []int, i int, q Point) bool {
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
func sees(points []Point, ring []int, base, n, k, i int, rest [][]Point) bool {
	a, b := points[k], points[ring[i]]
	for j := range ring {
		if crosses(a, b, points[ring[j]], points[ring[(j+1)%len(ring)]]) {
			return false
		}
	}
	for _, h := range append([][]Point{points[base : base+n]}, rest...) {
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
func crosses(a, b, c, d Point) bool {
	if c == b || d == b || c == a || d == a {
		return false
	}
	return turn(a, b, c)*turn(a, b, d) <= 0 && turn(c, d, a)*turn(c, d, b) <= 0
}

func isEar(points []Point, ring []int, i int) bool {
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
