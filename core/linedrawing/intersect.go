package linedrawing

import (
	"context"
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// deepEnough is how far two triangles have to reach through one another for a line to be drawn there, mm: parts that
// touch do not.
const deepEnough = 5e-3

// intersect adds the lines where parts go into one another.
func (s *scene) intersect(ctx context.Context, parts []Part) error {
	boxes := make([]space.Box, len(parts))
	for i := range parts {
		boxes[i] = parts[i].Body.Shape.Bounds.Moved(&parts[i].World)
	}
	for i := range parts {
		if ctx.Err() != nil {
			return ctx.Err()
		}
		for k := i + 1; k < len(parts); k++ {
			p, q := &parts[i], &parts[k]
			if apart(boxes[i], boxes[k]) || p.Clear || q.Clear {
				continue
			}
			inverse := p.World.Inverse()
			place := inverse.Mul(&q.World)
			bp, bq := p.Body.bvh(), q.Body.bvh()
			bp.Near(bq, &place, 0, func(t, u uint32) bool {
				a, b := bp.Triangle(t), bq.Triangle(u)
				b = b.Moved(&place)
				if from, to, meet := crossing(&a, &b); meet {
					s.segment(p.World.Apply(from), p.World.Apply(to), Intersection, int32(p.Node))
				}
				return true
			})
		}
	}
	return nil
}

func apart(a, b space.Box) bool {
	return a.Min.X > b.Max.X || b.Min.X > a.Max.X || a.Min.Y > b.Max.Y || b.Min.Y > a.Max.Y ||
		a.Min.Z > b.Max.Z || b.Min.Z > a.Max.Z
}

// crossing returns the line in which two triangles go through one another (Möller, “A Fast Triangle-Triangle
// Intersection Test”, 1997: the overlap of what either plane cuts out of the other triangle).
func crossing(a, b *solid.Triangle) (from, to space.Vec, meet bool) {
	p0, p1, ok := cutBy(a, b)
	if !ok {
		return from, to, false
	}
	q0, q1, ok := cutBy(b, a)
	if !ok {
		return from, to, false
	}
	way, ok := space.Normalize(r3.Sub(p1, p0))
	if !ok {
		return from, to, false
	}
	at := func(v space.Vec) float64 { return r3.Dot(way, r3.Sub(v, p0)) }
	u0, u1 := math.Min(at(q0), at(q1)), math.Max(at(q0), at(q1))
	u0, u1 = math.Max(u0, 0), math.Min(u1, at(p1))
	if u1-u0 < 1e-6 {
		return from, to, false
	}
	return r3.Add(p0, r3.Scale(u0, way)), r3.Add(p0, r3.Scale(u1, way)), true
}

// cutBy returns the line in which the plane of b cuts the triangle a, if a reaches far enough to both of its sides.
func cutBy(a, b *solid.Triangle) (p, q space.Vec, cut bool) {
	n, area := b.Normal()
	if area == 0 {
		return p, q, false
	}
	var d [3]float64
	least, most := math.Inf(1), math.Inf(-1)
	for k := range 3 {
		d[k] = r3.Dot(n, r3.Sub(a[k], b[0]))
		least, most = math.Min(least, d[k]), math.Max(most, d[k])
	}
	if least > -deepEnough || most < deepEnough {
		return p, q, false
	}
	var ends []space.Vec
	for k := range 3 {
		next := (k + 1) % 3
		if (d[k] < 0) != (d[next] < 0) {
			ends = append(ends, r3.Add(a[k], r3.Scale(d[k]/(d[k]-d[next]), r3.Sub(a[next], a[k]))))
		}
	}
	if len(ends) != 2 {
		return p, q, false
	}
	return ends[0], ends[1], true
}
