package solid

import (
	"cmp"
	"math"
	"slices"

	"gonum.org/v1/gonum/spatial/r3"

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
		boxes[t] = space.EmptyBox
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
	all, spread := space.EmptyBox, space.EmptyBox
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
func (b *BVH) Triangle(t uint32) Triangle { return b.Shape.Triangle(t) }

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

// Reaches reports whether the surface comes within a distance of a point.
func (b *BVH) Reaches(p space.Vec, within float64) bool {
	at := space.Box{Min: p, Max: p}
	stack := []int32{0}
	for len(stack) > 0 {
		x := &b.nodes[stack[len(stack)-1]]
		stack = stack[:len(stack)-1]
		if apart(x.box, at, within) {
			continue
		}
		if x.count == 0 {
			stack = append(stack, x.first, x.first+1)
			continue
		}
		for _, t := range b.order[x.first : x.first+x.count] {
			triangle := b.Triangle(t)
			if r3.Norm(r3.Sub(triangle.nearest(p), p)) <= within {
				return true
			}
		}
	}
	return false
}

// Pairs calls found for every pair of a triangle of b and one of c in whose branches keep holds: it is asked for
// pairs of branches, from the roots on.
func (b *BVH) Pairs(c *BVH, keep func(x, y int32) bool, found func(t, u uint32)) {
	type pair struct{ x, y int32 }
	stack := []pair{{0, 0}}
	for len(stack) > 0 {
		p := stack[len(stack)-1]
		stack = stack[:len(stack)-1]
		x, y := &b.nodes[p.x], &c.nodes[p.y]
		if !keep(p.x, p.y) {
			continue
		}
		switch {
		case x.count > 0 && y.count > 0:
			for _, t := range b.order[x.first : x.first+x.count] {
				for _, u := range c.order[y.first : y.first+y.count] {
					found(t, u)
				}
			}
		case y.count > 0 || x.count == 0 && larger(x.box, y.box):
			stack = append(stack, pair{x.first, p.y}, pair{x.first + 1, p.y})
		default:
			stack = append(stack, pair{p.x, y.first}, pair{p.x, y.first + 1})
		}
	}
}

// Branches is how many branches the tree has; Branch is the box of one, in the shape's frame. The root is 0.
func (b *BVH) Branches() int { return len(b.nodes) }

// Branch is described at Branches.
func (b *BVH) Branch(k int32) space.Box { return b.nodes[k].box }

// Box is the box of all triangles.
func (b *BVH) Box() space.Box { return b.nodes[0].box }

func apart(a, b space.Box, within float64) bool {
	return a.Min.X > b.Max.X+within || b.Min.X > a.Max.X+within ||
		a.Min.Y > b.Max.Y+within || b.Min.Y > a.Max.Y+within ||
		a.Min.Z > b.Max.Z+within || b.Min.Z > a.Max.Z+within
}

func larger(a, b space.Box) bool {
	x, y := a.Size(), b.Size()
	return x.X+x.Y+x.Z > y.X+y.Y+y.Z
}

// Sweep calls found for pairs of a triangle of b and one of c that may meet while
// c goes along way (in b's frame; place takes c's frame there), nearest boxes
// first. found returns the way that is still free, as a multiple of way; pairs
// whose boxes meet only behind that are left out.
func (b *BVH) Sweep(c *BVH, place *space.Rigid, way space.Vec, found func(t, u uint32) float64) {
	type pair struct {
		x, y int32
		at   float64
	}
	free := math.Inf(1)
	enter := func(x, y int32) float64 { return Meets(b.nodes[x].box, c.nodes[y].box.Moved(place), way) }
	stack := []pair{{0, 0, enter(0, 0)}}
	for len(stack) > 0 {
		p := stack[len(stack)-1]
		stack = stack[:len(stack)-1]
		if p.at >= free {
			continue
		}
		x, y := &b.nodes[p.x], &c.nodes[p.y]
		if x.count > 0 && y.count > 0 {
			for _, t := range b.order[x.first : x.first+x.count] {
				for _, u := range c.order[y.first : y.first+y.count] {
					free = found(t, u)
				}
			}
			continue
		}
		var first, second pair
		if y.count > 0 || x.count == 0 && larger(x.box, y.box) {
			first, second = pair{x: x.first, y: p.y}, pair{x: x.first + 1, y: p.y}
		} else {
			first, second = pair{x: p.x, y: y.first}, pair{x: p.x, y: y.first + 1}
		}
		first.at, second.at = enter(first.x, first.y), enter(second.x, second.y)
		if first.at < second.at { // the nearer one is looked at first
			first, second = second, first
		}
		stack = append(stack, first, second)
	}
}

// Meets returns when a moving box first overlaps a standing one, as a multiple
// of way: 0 when they do already, infinite when they never will.
func Meets(still, moving space.Box, way space.Vec) float64 {
	from, to := 0.0, math.Inf(1)
	for k := range 3 {
		low, high, d := axis(still.Min, k)-axis(moving.Max, k), axis(still.Max, k)-axis(moving.Min, k), axis(way, k)
		if math.Abs(d) < 1e-12 {
			if low > 0 || high < 0 {
				return math.Inf(1)
			}
			continue
		}
		t0, t1 := low/d, high/d
		if t0 > t1 {
			t0, t1 = t1, t0
		}
		if from, to = max(from, t0), min(to, t1); from > to {
			return math.Inf(1)
		}
	}
	return from
}

func axis(v space.Vec, k int) float64 { return [3]float64{v.X, v.Y, v.Z}[k] }
