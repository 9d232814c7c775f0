package outline

import (
	"cmp"
	"slices"
)

// Hull is the convex hull of points, anticlockwise (the monotone chain: A. Andrew 1979, from memory).
func Hull(points []Point) []Point {
	sorted := slices.Clone(points)
	slices.SortFunc(sorted, func(a, b Point) int { return cmp.Or(cmp.Compare(a[0], b[0]), cmp.Compare(a[1], b[1])) })
	var hull []Point
	for range 2 {
		first := len(hull)
		for _, p := range sorted {
			for len(hull) >= first+2 && turn(hull[len(hull)-2], hull[len(hull)-1], p) <= 0 {
				hull = hull[:len(hull)-1]
			}
			hull = append(hull, p)
		}
		if len(hull) > first {
			hull = hull[:len(hull)-1]
		}
		slices.Reverse(sorted)
	}
	return hull
}

// Common is what two convex polygons, both anticlockwise, have in common (I. Sutherland, G. Hodgman 1974, from memory).
func Common(a, b []Point) []Point {
	for i := range b {
		from, to := b[i], b[(i+1)%len(b)]
		var left []Point
		for k := range a {
			p, q := a[k], a[(k+1)%len(a)]
			s, t := turn(from, to, p), turn(from, to, q)
			if s >= 0 {
				left = append(left, p)
			}
			if s < 0 && t > 0 || s > 0 && t < 0 {
				u := s / (s - t)
				left = append(left, Point{p[0] + u*(q[0]-p[0]), p[1] + u*(q[1]-p[1])})
			}
		}
		if a = left; len(a) == 0 {
			return nil
		}
	}
	return a
}
