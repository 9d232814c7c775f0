package proof

import (
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/clearance"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// describe completes the findings of a pair; those in which one of the two is not there are left out.
func (s *search) describe(findings []Overlap, g *film.Against, still, moving int, base float64) (list []Overlap) {
	const moments = 17
	fr := s.film.NewFrame()
	nodes := s.film.Assembly.Nodes
	d := depths{search: s, nodes: [2]int{still, moving}, base: base}
	for _, f := range findings {
		there := false
		for k := range moments {
			t := f.From + (f.To-f.From)*reveal.Micros(k)/(moments-1)
			s.film.At(t, fr)
			if !s.seen(fr, still) || !s.seen(fr, moving) {
				continue
			}
			place := g.At(float64(t))
			if !there || d.meet(f.Depth, &place) {
				if depth, where := d.at(&place); !there || depth > f.Depth {
					f.At, f.Depth, f.Place, f.where = t, depth, space.Vec3Of(fr.World[still].Apply(where)), where
				}
			}
			there = true
		}
		if !there || f.Depth == 0 { // what only grazes is as deep as at rest
			continue
		}
		f.Still, f.Moving = nodes[still].ID, nodes[moving].ID
		f.Cues = cuesOf(g, &f)
		list = append(list, f)
	}
	return list
}

// bothSeen reports whether two parts are there at some moment of a piece of time.
func (s *search) bothSeen(still, moving int, from, to float64) bool {
	fr := s.film.NewFrame()
	for k := range 9 {
		s.film.At(reveal.Micros(from+(to-from)*float64(k)/8), fr)
		if s.seen(fr, still) && s.seen(fr, moving) {
			return true
		}
	}
	return false
}

func (s *search) seen(fr *film.Frame, node int) bool {
	return fr.Opacity[node] > 0 && (!s.settings.SolidOnly || fr.Opacity[node] == 1)
}

// depths finds how deep two bodies lie in one another at one place after the other.
type depths struct {
	*search
	nodes [2]int // the still one and the moving one
	base  float64

	where space.Vec // in which point they met last, in the still one's frame
	last  *pair     // the triangles that met there: most often they do so again
}

// at is by how much more than base the two have to be thinned at a place to lie apart, and where they meet.
func (d *depths) at(place *space.Rigid) (depth float64, where space.Vec) {
	apart := 0.0 // what is enough
	for more := 0.0; ; more = max(2*more, 0.1) {
		if !d.meet(more, place) {
			apart = more
			break
		}
		if depth, where = more, d.where; more >= deepest {
			return deepest, where
		}
	}
	for apart-depth > 0.1 {
		middle := (depth + apart) / 2
		if d.meet(middle, place) {
			depth, where = middle, d.where
		} else {
			apart = middle
		}
	}
	return depth, where
}

// meet reports whether the two still meet at a place when they have been thinned together by more than base.
func (d *depths) meet(more float64, place *space.Rigid) (found bool) {
	a, b := d.space.Slim(d.nodes[0], d.base+more), d.space.Slim(d.nodes[1], d.base+more)
	look := func(t, u uint32) bool {
		x, y := a.Tree.Triangle(t), b.Tree.Triangle(u).Moved(place)
		if found = solid.Touch(&x, &y); found {
			d.where, d.last = crossing(&x, &y), &pair{t: t, u: u}
		}
		return !found
	}
	if d.last == nil || look(d.last.t, d.last.u) {
		a.Tree.Near(b.Tree, place, 0, look)
	}
	return found
}

// meets reports whether two bodies go through each other.
func meets(a, b *clearance.Slim, place *space.Rigid) (found bool) {
	a.Tree.Near(b.Tree, place, 0, func(t, u uint32) bool {
		x, y := a.Tree.Triangle(t), b.Tree.Triangle(u).Moved(place)
		found = solid.Touch(&x, &y)
		return !found
	})
	return found
}

// crossing is the middle of where two triangles go through each other.
func crossing(x, y *solid.Triangle) space.Vec {
	var sum space.Vec
	n := 0.0
	for _, both := range [2][2]*solid.Triangle{{x, y}, {y, x}} {
		normal, area := both[1].Normal()
		if area == 0 {
			continue
		}
		for i := range 3 {
			p, q := both[0][i], both[0][(i+1)%3]
			above, below := r3.Dot(normal, r3.Sub(p, both[1][0])), r3.Dot(normal, r3.Sub(q, both[1][0]))
			if above*below >= 0 {
				continue
			}
			at := r3.Add(p, r3.Scale(above/(above-below), r3.Sub(q, p)))
			if inside(at, both[1], normal) {
				sum, n = r3.Add(sum, at), n+1
			}
		}
	}
	if n == 0 { // they touch in a corner or along an edge
		return middle(y)
	}
	return r3.Scale(1/n, sum)
}

// inside reports whether a point of a triangle's plane is in the triangle.
func inside(p space.Vec, t *solid.Triangle, normal space.Vec) bool {
	for i := range 3 {
		if r3.Dot(normal, r3.Cross(r3.Sub(t[(i+1)%3], t[i]), r3.Sub(p, t[i]))) < 0 {
			return false
		}
	}
	return true
}
