package solid

import (
	"cmp"
	"slices"

	"slowreveal/core/space"
)

// leafSize is the most triangles in a leaf of a BVH.
const leafSize = 4

// BVH is a tree of boxes over a shape's triangles. Node 0 is the root.
type BVH struct {
	Shape *Shape
	nodes []branch
	order []uint32 // triangles, leaf by leaf
}

// branch is a box with its two children, at first and first+1, or, in a leaf,
// with its run of order.
type branch struct {
	box          space.Box
	first, count int32 // count 0 for an inner node
}

// NewBVH builds the tree by halving at the median along the longest side.
func NewBVH(s *Shape) *BVH {
	n := len(s.Triangles) / 3
	b := &BVH{Shape: s, order: make([]uint32, n), nodes: make([]branch, 1, n)}
	boxes, middles := make([]space.Box, n), make([]space.Vec, n)
	for t := range n {
		b.order[t] = uint32(t)
		boxes[t] = space.Nothing
		for k := range 3 {
			boxes[t] = boxes[t].With(at(s.Positions, s.Triangles[3*t+k]))
		}
		middles[t] = boxes[t].Centre()
	}
	b.split(0, 0, n, boxes, middles)
	return b
}

func (b *BVH) split(node, from, to int, boxes []space.Box, middles []space.Vec) {
	run := b.order[from:to]
	all, spread := space.Nothing, space.Nothing
	for _, t := range run {
		all, spread = all.Union(boxes[t]), spread.With(middles[t])
	}
	b.nodes[node].box = all
	if len(run) <= leafSize {
		b.nodes[node].first, b.nodes[node].count = int32(from), int32(len(run))
		return
	}
	size := spread.Size()
	along := func(v space.Vec) float64 { return v.X }
	switch {
	case size.Y >= size.X && size.Y >= size.Z:
		along = func(v space.Vec) float64 { return v.Y }
	case size.Z >= size.X:
		along = func(v space.Vec) float64 { return v.Z }
	}
	slices.SortFunc(run, func(x, y uint32) int {
		return cmp.Or(cmp.Compare(along(middles[x]), along(middles[y])), cmp.Compare(x, y))
	})
	first := len(b.nodes)
	b.nodes = append(b.nodes, branch{}, branch{})
	b.nodes[node].first = int32(first)
	middle := (from + to) / 2
	b.split(first, from, middle, boxes, middles)
	b.split(first+1, middle, to, boxes, middles)
}

// Triangle returns the corners of triangle t.
func (b *BVH) Triangle(t uint32) Triangle {
	s := b.Shape
	return Triangle{at(s.Positions, s.Triangles[3*t]), at(s.Positions, s.Triangles[3*t+1]), at(s.Positions, s.Triangles[3*t+2])}
}

// Near calls found for every pair of a triangle of b and one of c whose boxes
// come within a distance; place takes c's frame to b's. found returns false to
// stop.
func (b *BVH) Near(c *BVH, place *space.Rigid, within float64, found func(t, u uint32) bool) {
	type pair struct{ x, y int32 }
	inverse := place.Inverse()
	stack := []pair{{0, 0}}
	for len(stack) > 0 {
		p := stack[len(stack)-1]
		stack = stack[:len(stack)-1]
		x, y := &b.nodes[p.x], &c.nodes[p.y]
		// Each box against the other's frame: two tests of the axes for one.
		if apart(x.box, y.box.Moved(place), within) || apart(x.box.Moved(&inverse), y.box, within) {
			continue
		}
		switch {
		case x.count > 0 && y.count > 0:
			for _, t := range b.order[x.first : x.first+x.count] {
				for _, u := range c.order[y.first : y.first+y.count] {
					if !found(t, u) {
						return
					}
				}
			}
		case y.count > 0 || x.count == 0 && larger(x.box, y.box):
			stack = append(stack, pair{x.first, p.y}, pair{x.first + 1, p.y})
		default:
			stack = append(stack, pair{p.x, y.first}, pair{p.x, y.first + 1})
		}
	}
}

func apart(a, b space.Box, within float64) bool {
	return a.Min.X > b.Max.X+within || b.Min.X > a.Max.X+within ||
		a.Min.Y > b.Max.Y+within || b.Min.Y > a.Max.Y+within ||
		a.Min.Z > b.Max.Z+within || b.Min.Z > a.Max.Z+within
}

func larger(a, b space.Box) bool {
	x, y := a.Size(), b.Size()
	return x.X+x.Y+x.Z > y.X+y.Y+y.Z
}
