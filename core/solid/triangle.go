package solid

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/space"
)

// Triangle is three corners, anticlockwise seen from outside.
type Triangle [3]space.Vec

// Moved returns the triangle after a motion.
func (t Triangle) Moved(m *space.Rigid) Triangle {
	return Triangle{m.Apply(t[0]), m.Apply(t[1]), m.Apply(t[2])}
}

// Triangle returns the corners of triangle t of the shape.
func (s *Shape) Triangle(t uint32) Triangle {
	return Triangle{
		at(s.Positions, s.Triangles[3*t]),
		at(s.Positions, s.Triangles[3*t+1]),
		at(s.Positions, s.Triangles[3*t+2]),
	}
}

// Normal returns the unit normal and the area.
func (t *Triangle) Normal() (space.Vec, float64) {
	n := r3.Cross(r3.Sub(t[1], t[0]), r3.Sub(t[2], t[0]))
	double := r3.Norm(n)
	if double == 0 {
		return space.Vec{}, 0
	}
	return r3.Scale(1/double, n), double / 2
}

// Gap returns the distance between two triangles, 0 where they cross. Apart
// triangles are nearest at a corner of one or along an edge of each.
func Gap(a, b *Triangle) float64 {
	if cross(a, b, 0) || cross(b, a, 0) {
		return 0
	}
	least := math.Inf(1)
	for i := range 3 {
		least = min(least, r3.Norm2(r3.Sub(a[i], b.nearest(a[i]))), r3.Norm2(r3.Sub(b[i], a.nearest(b[i]))))
		for k := range 3 {
			least = min(least, betweenEdges(a[i], a[(i+1)%3], b[k], b[(k+1)%3]))
		}
	}
	return math.Sqrt(least)
}

// Touch reports whether the distance between two triangles is 0. It is Gap's answer, sooner.
func Touch(a, b *Triangle) bool {
	if aside(a, b) || aside(b, a) {
		return false
	}
	return Gap(a, b) == 0
}

// aside reports whether b lies on one side of a's plane.
func aside(a, b *Triangle) bool {
	n := r3.Cross(r3.Sub(a[1], a[0]), r3.Sub(a[2], a[0]))
	x, y, z := r3.Dot(n, r3.Sub(b[0], a[0])), r3.Dot(n, r3.Sub(b[1], a[0])), r3.Dot(n, r3.Sub(b[2], a[0]))
	// What lies in the plane but for the rounding of its numbers is for Gap to tell.
	edge := 1e-9 * r3.Norm2(n)
	return x*x > edge && y*y > edge && z*z > edge && (x > 0) == (y > 0) && (y > 0) == (z > 0)
}

// cross reports whether an edge of a goes through b, at least margin away from
// its sides.
func cross(a, b *Triangle, margin float64) bool {
	n := r3.Cross(r3.Sub(b[1], b[0]), r3.Sub(b[2], b[0]))
	var side [3]float64
	for i := range 3 {
		side[i] = r3.Dot(n, r3.Sub(a[i], b[0]))
	}
	for i := range 3 {
		k := (i + 1) % 3
		if side[i]*side[k] >= 0 {
			continue
		}
		u := side[i] / (side[i] - side[k])
		p := r3.Add(a[i], r3.Scale(u, r3.Sub(a[k], a[i])))
		inside := true
		for e := range 3 {
			side := r3.Sub(b[(e+1)%3], b[e])
			inside = inside && r3.Dot(n, r3.Cross(side, r3.Sub(p, b[e]))) >= margin*r3.Norm(n)*r3.Norm(side)
		}
		if inside {
			return true
		}
	}
	return false
}

// nearest returns the point of the triangle nearest to p. After C. Ericson,
// "Real-Time Collision Detection", 5.1.5 (from memory).
func (t *Triangle) nearest(p space.Vec) space.Vec {
	ab, ac, ap := r3.Sub(t[1], t[0]), r3.Sub(t[2], t[0]), r3.Sub(p, t[0])
	d1, d2 := r3.Dot(ab, ap), r3.Dot(ac, ap)
	if d1 <= 0 && d2 <= 0 {
		return t[0]
	}
	bp := r3.Sub(p, t[1])
	d3, d4 := r3.Dot(ab, bp), r3.Dot(ac, bp)
	if d3 >= 0 && d4 <= d3 {
		return t[1]
	}
	vc := d1*d4 - d3*d2
	if vc <= 0 && d1 >= 0 && d3 <= 0 {
		return r3.Add(t[0], r3.Scale(d1/(d1-d3), ab))
	}
	cp := r3.Sub(p, t[2])
	d5, d6 := r3.Dot(ab, cp), r3.Dot(ac, cp)
	if d6 >= 0 && d5 <= d6 {
		return t[2]
	}
	vb := d5*d2 - d1*d6
	if vb <= 0 && d2 >= 0 && d6 <= 0 {
		return r3.Add(t[0], r3.Scale(d2/(d2-d6), ac))
	}
	va := d3*d6 - d5*d4
	if va <= 0 && d4-d3 >= 0 && d5-d6 >= 0 {
		return r3.Add(t[1], r3.Scale((d4-d3)/((d4-d3)+(d5-d6)), r3.Sub(t[2], t[1])))
	}
	w := 1 / (va + vb + vc)
	return r3.Add(t[0], r3.Add(r3.Scale(vb*w, ab), r3.Scale(vc*w, ac)))
}

// betweenEdges returns the square of the distance between two segments.
func betweenEdges(p1, q1, p2, q2 space.Vec) float64 {
	d1, d2, r := r3.Sub(q1, p1), r3.Sub(q2, p2), r3.Sub(p1, p2)
	a, e, f := r3.Dot(d1, d1), r3.Dot(d2, d2), r3.Dot(d2, r)
	clamp := func(v float64) float64 { return max(0, min(v, 1)) }
	s, t := 0.0, 0.0
	switch c := r3.Dot(d1, r); {
	case a == 0 && e == 0:
	case a == 0:
		t = clamp(f / e)
	case e == 0:
		s = clamp(-c / a)
	default:
		b := r3.Dot(d1, d2)
		if den := a*e - b*b; den > 1e-12*a*e {
			s = clamp((b*f - c*e) / den)
		}
		t = (b*s + f) / e
		if t < 0 {
			t, s = 0, clamp(-c/a)
		} else if t > 1 {
			t, s = 1, clamp((b-c)/a)
		}
	}
	return r3.Norm2(r3.Sub(r3.Add(p1, r3.Scale(s, d1)), r3.Add(p2, r3.Scale(t, d2))))
}

// Facing returns the area over which two triangles that face each other lie
// within a distance of each other, seen along a's normal; 0 unless b's normal
// points against a's to within maxAngle (its cosine is given).
func Facing(a, b *Triangle, within, cosAngle float64) float64 {
	na, areaA := a.Normal()
	nb, areaB := b.Normal()
	if areaA == 0 || areaB == 0 || r3.Dot(na, nb) > -cosAngle {
		return 0
	}
	// b is cut by the slab along a's normal and by a's three sides.
	poly := append(make([]space.Vec, 0, 9), b[0], b[1], b[2])
	poly = clip(poly, na, r3.Dot(na, a[0])+within)
	poly = clip(poly, r3.Scale(-1, na), within-r3.Dot(na, a[0]))
	for i := range 3 {
		out := r3.Cross(r3.Sub(a[(i+1)%3], a[i]), na)
		poly = clip(poly, out, r3.Dot(out, a[i]))
	}
	sum := 0.0
	for i := 2; i < len(poly); i++ {
		sum += r3.Dot(na, r3.Cross(r3.Sub(poly[i-1], poly[0]), r3.Sub(poly[i], poly[0])))
	}
	return math.Abs(sum) / 2
}

// clip keeps the part of a convex polygon where n·x ≤ d.
func clip(poly []space.Vec, n space.Vec, d float64) []space.Vec {
	var out []space.Vec
	for i := range poly {
		p, q := poly[i], poly[(i+1)%len(poly)]
		dp, dq := r3.Dot(n, p)-d, r3.Dot(n, q)-d
		if dp <= 0 {
			out = append(out, p)
		}
		if dp < 0 && dq > 0 || dp > 0 && dq < 0 {
			out = append(out, r3.Add(p, r3.Scale(dp/(dp-dq), r3.Sub(q, p))))
		}
	}
	return out
}

// Pierce reports whether one triangle goes through the other by more than a
// depth: an edge has ends further than that on both sides.
func Pierce(a, b *Triangle, depth float64) bool { return pierce(a, b, depth) || pierce(b, a, depth) }

func pierce(a, b *Triangle, depth float64) bool {
	n, area := b.Normal()
	if area == 0 {
		return false
	}
	above, below := false, false
	for i := range 3 {
		d := r3.Dot(n, r3.Sub(a[i], b[0]))
		above, below = above || d > depth, below || d < -depth
	}
	return above && below && cross(a, b, depth/5)
}
