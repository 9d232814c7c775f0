package contact

import (
	"cmp"
	"context"
	"math"
	"slices"

	"github.com/sourcegraph/conc/iter"
	"github.com/tidwall/rtree"
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// Tolerance is the gap up to which parts count as touching, mm, where nothing
// else is said: the facets of a bore and of the pin in it lie up to about that
// far from each other.
const Tolerance = 0.1

// facingAngle is how far the normals of two surfaces may be from opposite for
// their area to count, rad: facets of round surfaces differ by so much.
const facingAngle = 25 * math.Pi / 180

// Contact is one pair of parts that touch or nearly touch.
type Contact struct {
	A assembly.NodeID `json:"a"`
	B assembly.NodeID `json:"b"`
	// Gap is the least distance between their surfaces, mm; 0 where they cross
	// or lie on each other.
	Gap float64 `json:"gap"`
	// Crossing says that their surfaces go through each other.
	Crossing bool `json:"crossing,omitempty"`
	// Area is how much of their surfaces faces each other within the
	// tolerance, mm².
	Area float64 `json:"area"`
	// Normal is the mean direction from A to B over that area, of unit length;
	// zero where the directions cancel, as around a pin in its bore.
	Normal space.Vec3 `json:"normal"`
}

// Find returns the contacts of an assembly at rest, ordered by node. Each
// shape's tree is built once; pairs are shared among all processors.
func Find(ctx context.Context, a *assembly.Assembly, shapes []*solid.Shape, tolerance float64) ([]Contact, error) {
	worlds := a.Worlds()
	pairs := candidates(a, worlds, tolerance)
	trees := trees(a, shapes, pairs)
	found := make([]*Contact, len(pairs))
	iter.ForEachIdx(pairs, func(i int, p *[2]int) {
		if ctx.Err() == nil {
			found[i] = between(a, trees, worlds, p[0], p[1], tolerance)
		}
	})
	if ctx.Err() != nil {
		return nil, context.Cause(ctx)
	}
	contacts := []Contact{}
	for _, c := range found {
		if c != nil {
			contacts = append(contacts, *c)
		}
	}
	return contacts, nil
}

// candidates returns the pairs of parts whose boxes come within the tolerance,
// in order.
func candidates(a *assembly.Assembly, worlds []space.Rigid, tolerance float64) [][2]int {
	var tree rtree.RTreeG[int]
	var pairs [][2]int
	for i := range a.Nodes {
		s := a.Nodes[i].Shape
		if s < 0 {
			continue
		}
		b := a.Shapes[s].Bounds().Moved(&worlds[i])
		low := [2]float64{b.Min.X - tolerance, b.Min.Y - tolerance}
		high := [2]float64{b.Max.X + tolerance, b.Max.Y + tolerance}
		tree.Search(low, high, func(_, _ [2]float64, k int) bool {
			c := a.Shapes[a.Nodes[k].Shape].Bounds().Moved(&worlds[k])
			if c.Min.Z <= b.Max.Z+tolerance && b.Min.Z <= c.Max.Z+tolerance {
				pairs = append(pairs, [2]int{k, i})
			}
			return true
		})
		tree.Insert([2]float64{b.Min.X, b.Min.Y}, [2]float64{b.Max.X, b.Max.Y}, i)
	}
	slices.SortFunc(pairs, func(x, y [2]int) int { return cmp.Or(cmp.Compare(x[0], y[0]), cmp.Compare(x[1], y[1])) })
	return pairs
}

func trees(a *assembly.Assembly, shapes []*solid.Shape, pairs [][2]int) []*solid.BVH {
	out := make([]*solid.BVH, len(shapes))
	needed := make([]bool, len(shapes))
	for _, p := range pairs {
		for _, node := range p {
			needed[a.Nodes[node].Shape] = true
		}
	}
	iter.ForEachIdx(needed, func(s int, is *bool) {
		if *is {
			out[s] = solid.NewBVH(shapes[s])
		}
	})
	return out
}

// between returns the contact of two parts, nil when they are further apart.
func between(a *assembly.Assembly, trees []*solid.BVH, worlds []space.Rigid, i, k int, tolerance float64) *Contact {
	x, y := trees[a.Nodes[i].Shape], trees[a.Nodes[k].Shape]
	inverse := worlds[i].Inverse()
	place := inverse.Mul(&worlds[k])
	c := &Contact{A: a.Nodes[i].ID, B: a.Nodes[k].ID, Gap: math.Inf(1)}
	cos := math.Cos(facingAngle)
	var normal space.Vec
	x.Near(y, &place, tolerance, func(t, u uint32) bool {
		p, q := x.Triangle(t), y.Triangle(u).Moved(&place)
		area := solid.Facing(&p, &q, tolerance, cos)
		if c.Gap > 0 {
			gap := solid.Gap(&p, &q)
			c.Crossing = c.Crossing || gap == 0 && area == 0 && solid.Pierce(&p, &q, tolerance)
			c.Gap = min(c.Gap, gap)
		} else if !c.Crossing && area == 0 {
			c.Crossing = solid.Pierce(&p, &q, tolerance)
		}
		if area > 0 {
			n, _ := p.Normal()
			c.Area += area
			normal = r3.Add(normal, r3.Scale(area, n))
		}
		return true
	})
	if c.Gap > tolerance {
		return nil
	}
	if c.Gap < 1e-6 {
		c.Gap = 0
	}
	if n := r3.Norm(normal); n > 0.2*c.Area && n > 0 {
		c.Normal = space.Vec3Of(worlds[i].R.Apply(r3.Scale(1/n, normal)))
	}
	return c
}
