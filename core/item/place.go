package item

import (
	"cmp"
	"math"
	"slices"

	"slowreveal/core/assignment"
)

// Point is a place on the sheet, mm.
type Point struct{ X, Y float64 }

// Candidate is a place where a leader may begin: on a part, as deep inside what is seen of it as Room says, mm.
type Candidate struct {
	Point
	Room float64
	Node int
}

// Reference is an item reference that has its place.
type Reference struct {
	Item   int   // its index
	Node   int   // the part that its leader begins on
	From   Point // where
	Centre Point // of the balloon
}

// Area is where the references of a drawing go: around Inner, which holds the drawing, inside Outer. Sides are as on a
// page: y down.
type Area struct {
	InnerMin, InnerMax Point
	OuterMin, OuterMax Point
	// Radius is that of a balloon, mm.
	Radius float64
	// Fixed are places that were given by hand, by item.
	Fixed map[int]Point
}

// apartBy is how far apart the middles of neighbouring balloons are at least, in radii.
const apartBy = 2.5

// least is the room that the best place on a part has to have for a leader to begin there, mm; of parts of which less
// is seen the best place counts all the same.
const least = 0.2

// Place finds places for the references of items whose candidates are given by item; those without one are left out
// and returned as missing. Leaders do not cross: of all ways to give the leaders' beginnings to places around the
// drawing the one with the least sum of lengths is taken, in which no two cross (were there two that did, exchanging
// their ends would be shorter: the triangle inequality). Balloons stand on a rectangle around the drawing, in rows.
func Place(candidates [][]Candidate, area Area) (placed []Reference, missing []int) {
	var at []Reference
	for i, list := range candidates {
		if len(list) == 0 {
			missing = append(missing, i)
			continue
		}
		at = append(at, Reference{Item: i, From: list[0].Point, Node: list[0].Node})
	}
	spots := area.spots(len(at))
	for range 4 { // which part of several a leader begins on follows from where its balloon is, and the other way round
		assign(at, spots, area)
		if !area.choose(at, candidates) {
			break
		}
	}
	assign(at, spots, area)
	untangle(at, area)
	area.slide(at)
	return at, missing
}

// Room returns for how many balloons there is room around the drawing: with more they lie on one another.
func (a *Area) Room() int { return len(a.spotsAt(closest * a.Radius)) }

// closest is how near neighbouring balloons come where there are many, in radii.
const closest = 2.2

// Shrink makes balloons smaller until there is room for so many, down to a least radius, mm.
func (a *Area) Shrink(balloons int, least float64) {
	for a.Room() < balloons && a.Radius > least {
		a.Radius *= 0.95
	}
}

// Gather gives each of the items that are wanted the candidates on its parts, those with most room first, as Place
// takes them, and tells how many have some. Only those count that keep lets through; nil keeps all.
func Gather(
	items []Item, wanted []int, anchors map[int][]Candidate, keep func(Candidate) bool,
) (candidates [][]Candidate, some int) {
	candidates = make([][]Candidate, len(items))
	for _, i := range wanted {
		for _, n := range items[i].Nodes {
			for _, c := range anchors[n] {
				if keep == nil || keep(c) {
					candidates[i] = append(candidates[i], c)
				}
			}
		}
		slices.SortStableFunc(candidates[i], func(a, b Candidate) int { return cmp.Compare(b.Room, a.Room) })
		some += min(1, len(candidates[i]))
	}
	return candidates, some
}

// spots are places on a rectangle around the drawing, evenly on each side, so many at least.
func (a *Area) spots(atLeast int) []Point {
	pitch := apartBy * a.Radius
	list := a.spotsAt(pitch)
	for len(list) < atLeast && pitch > a.Radius/2 {
		pitch *= 0.97
		list = a.spotsAt(pitch)
	}
	if len(list) == 0 {
		list = []Point{{a.OuterMin.X + a.Radius, a.OuterMin.Y + a.Radius}}
	}
	for k := 0; len(list) < atLeast; k++ { // there is no room: they lie on one another
		list = append(list, Point{list[k].X + a.Radius/4, list[k].Y + a.Radius/4})
	}
	return list
}

// spotsAt are the places at a distance from one another.
func (a *Area) spotsAt(pitch float64) (list []Point) {
	left, right := a.middle(a.OuterMin.X, a.InnerMin.X, 1), a.middle(a.OuterMax.X, a.InnerMax.X, -1)
	top, foot := a.middle(a.OuterMin.Y, a.InnerMin.Y, 1), a.middle(a.OuterMax.Y, a.InnerMax.Y, -1)
	along := func(from, to float64, point func(v float64) Point) {
		n := int((to - from) / pitch)
		for k := 0; k <= n && to >= from; k++ {
			list = append(list, point(from+(to-from-float64(n)*pitch)/2+float64(k)*pitch))
		}
	}
	along(left+pitch, right-pitch, func(v float64) Point { return Point{v, top} })
	along(left+pitch, right-pitch, func(v float64) Point { return Point{v, foot} })
	along(top, foot, func(v float64) Point { return Point{left, v} })
	along(top, foot, func(v float64) Point { return Point{right, v} })
	return list
}

// middle is where a row of balloons stands between the border of the area and the drawing: near the drawing.
func (a *Area) middle(border, drawing, sign float64) float64 {
	near := drawing - sign*2.2*a.Radius
	if sign*(near-border) < a.Radius {
		return border + sign*a.Radius
	}
	return near
}

// assign gives each reference the place that makes the sum of lengths least. Those that have a place by hand keep it.
func assign(list []Reference, spots []Point, area Area) {
	var free []int
	taken := make([]bool, len(spots))
	for i := range list {
		p, fixed := area.Fixed[list[i].Item]
		if !fixed {
			free = append(free, i)
			continue
		}
		list[i].Centre = p
		for k, s := range spots {
			taken[k] = taken[k] || distance(s, p) < 2*area.Radius
		}
	}
	var open []Point
	for k, s := range spots {
		if !taken[k] {
			open = append(open, s)
		}
	}
	for k := 0; len(open) < len(free); k++ { // those that are taken are shared
		open = append(open, spots[k])
	}
	places := assignment.Least(len(free), len(open), func(i, k int) float64 {
		return distance(list[free[i]].From, open[k])
	})
	for i, k := range places {
		list[free[i]].Centre = open[k]
	}
}

// choose begins each leader on the part, and at the place of it, that is best from where its balloon is; it reports
// whether another one is. Longer ways count against places that are seen better.
func (a *Area) choose(list []Reference, candidates [][]Candidate) (changed bool) {
	for i := range list {
		r := &list[i]
		best, cost := r.From, math.Inf(1)
		node := r.Node
		roomiest := candidates[r.Item][0].Room
		for _, c := range candidates[r.Item] {
			if c.Room < least && c.Room < roomiest {
				continue
			}
			if v := distance(c.Point, r.Centre) - 6*min(c.Room, a.Radius); v < cost-1e-9 {
				best, cost, node = c.Point, v, c.Node
			}
		}
		changed = changed || best != r.From
		r.From, r.Node = best, node
	}
	return changed
}

// untangle exchanges the balloons of leaders that cross: each exchange makes the sum of lengths shorter, so that it
// ends. It is needed only where beginnings and places lie on one line.
func untangle(list []Reference, area Area) {
	fixed := func(r *Reference) bool { _, by := area.Fixed[r.Item]; return by }
	for range len(list) * len(list) {
		done := true
		for i := range list {
			for k := i + 1; k < len(list); k++ {
				if Cross(&list[i], &list[k]) && !fixed(&list[i]) && !fixed(&list[k]) {
					list[i].Centre, list[k].Centre = list[k].Centre, list[i].Centre
					done = false
				}
			}
		}
		if done {
			return
		}
	}
}

// Cross reports whether the leaders of two references cross.
func Cross(a, b *Reference) bool {
	side := func(p, q, r Point) float64 { return (q.X-p.X)*(r.Y-p.Y) - (q.Y-p.Y)*(r.X-p.X) }
	return side(a.From, a.Centre, b.From)*side(a.From, a.Centre, b.Centre) < 0 &&
		side(b.From, b.Centre, a.From)*side(b.From, b.Centre, a.Centre) < 0
}

// Runs reports whether the leader of a reference runs through a circle about a point.
func (r *Reference) Runs(through Point, radius float64) bool {
	dx, dy := r.Centre.X-r.From.X, r.Centre.Y-r.From.Y
	l := dx*dx + dy*dy
	if l == 0 {
		return false
	}
	u := max(0, min(((through.X-r.From.X)*dx+(through.Y-r.From.Y)*dy)/l, 1))
	return distance(through, Point{r.From.X + u*dx, r.From.Y + u*dy}) < radius
}

// slide moves the balloons of each row along it to where their leaders are straight across, as far as they keep their
// order and their distance.
func (a *Area) slide(list []Reference) {
	type row struct {
		vertical bool
		at       float64
	}
	rows := map[row][]*Reference{}
	var order []row
	for i := range list {
		r := &list[i]
		if _, fixed := a.Fixed[r.Item]; fixed {
			continue
		}
		k := row{true, r.Centre.X}
		if r.Centre.Y < a.InnerMin.Y || r.Centre.Y > a.InnerMax.Y {
			k = row{false, r.Centre.Y}
		}
		if rows[k] == nil {
			order = append(order, k)
		}
		rows[k] = append(rows[k], r)
	}
	for _, k := range order {
		slices.SortFunc(rows[k], func(x, y *Reference) int {
			if k.vertical {
				return cmp.Compare(x.Centre.Y, y.Centre.Y)
			}
			return cmp.Compare(x.Centre.X, y.Centre.X)
		})
		before := make([]Point, len(rows[k]))
		for i, r := range rows[k] {
			before[i] = r.Centre
		}
		a.slideRow(rows[k], k.vertical)
		if a.spoiled(list) {
			for i, r := range rows[k] {
				r.Centre = before[i]
			}
		}
	}
}

// spoiled reports whether leaders cross or run through balloons, or balloons lie on one another.
func (a *Area) spoiled(list []Reference) bool {
	for i := range list {
		for k := range list {
			if i < k && (Cross(&list[i], &list[k]) || distance(list[i].Centre, list[k].Centre) < 2*a.Radius) ||
				i != k && list[i].Runs(list[k].Centre, a.Radius*1.05) {
				return true
			}
		}
	}
	return false
}

// slideRow puts the balloons of a row, in their order, where they want to be: neighbours that want the same place form a block around the
// mean of what they want (pool adjacent violators, Ayer et al. 1955).
func (a *Area) slideRow(row []*Reference, vertical bool) {
	along := func(p Point) float64 {
		if vertical {
			return p.Y
		}
		return p.X
	}
	low, high := a.OuterMin.X+a.Radius, a.OuterMax.X-a.Radius
	if vertical {
		low, high = a.OuterMin.Y+a.Radius, a.OuterMax.Y-a.Radius
	}
	pitch := apartBy * a.Radius
	for i := 1; i < len(row); i++ { // where they stand closer they may stay so
		pitch = min(pitch, along(row[i].Centre)-along(row[i-1].Centre))
	}
	type block struct {
		sum float64 // of where they want the first of the block to be
		n   int
	}
	var blocks []block
	for i, r := range row {
		want := max(low+float64(i)*pitch, min(along(r.From), high-float64(len(row)-1-i)*pitch))
		blocks = append(blocks, block{want - float64(i)*pitch, 1})
		for k := len(blocks) - 1; k > 0 && blocks[k-1].sum/float64(blocks[k-1].n) > blocks[k].sum/float64(blocks[k].n); k-- {
			blocks[k-1].sum, blocks[k-1].n = blocks[k-1].sum+blocks[k].sum, blocks[k-1].n+blocks[k].n
			blocks = blocks[:k]
		}
	}
	i := 0
	for _, b := range blocks {
		for range b.n {
			v := b.sum/float64(b.n) + float64(i)*pitch
			if vertical {
				row[i].Centre.Y = v
			} else {
				row[i].Centre.X = v
			}
			i++
		}
	}
}

func distance(a, b Point) float64 { return math.Hypot(a.X-b.X, a.Y-b.Y) }
