package linedrawing

import (
	"cmp"
	"math"
	"slices"
)

// piece is a straight piece of a line on the picture plane.
type piece struct {
	a, b   Point
	kind   Kind
	node   int32
	hidden bool
	behind [2]bool // whether it goes on behind something that stands clear of it, at a and at b
	clear  bool
}

// end is one end of a piece: 2·piece for a, and one more for b.
type end int32

func (e end) piece() int32 { return int32(e / 2) }
func (e end) other() end   { return e ^ 1 }

func (p *piece) at(e end) Point {
	if e&1 == 0 {
		return p.a
	}
	return p.b
}

// sharpest is the largest turn, rad, at which two pieces are one line still: joints of lines are drawn better than
// two ends that lie on one another.
const sharpest = 110 * math.Pi / 180

// join makes long lines of pieces that meet: at each place those go on in one another that turn least.
func join(pieces []piece, grain float64) []Line {
	next := links(pieces, grain)
	used := make([]bool, len(pieces))
	var lines []Line
	for i := range pieces {
		if used[i] {
			continue
		}
		first := end(2 * i)
		for next[first] >= 0 { // back to where the line begins
			if first = next[first].other(); first.piece() == int32(i) {
				break // it is closed
			}
		}
		lines = append(lines, follow(pieces, next, used, first))
	}
	return lines
}

// follow walks a line from an end of its first piece.
func follow(pieces []piece, next []end, used []bool, first end) Line {
	p := &pieces[first.piece()]
	l := Line{Kind: p.kind, Node: int(p.node), Hidden: p.hidden, Clear: p.clear, Points: []Point{p.at(first)}}
	l.Behind[0] = p.behind[first&1]
	for e := first; ; {
		p, far := &pieces[e.piece()], e.other()
		used[e.piece()] = true
		l.Points = append(l.Points, p.at(far))
		l.Behind[1] = p.behind[far&1]
		e = next[far]
		if e < 0 || used[e.piece()] {
			if e == first { // it is closed
				l.Points[len(l.Points)-1] = l.Points[0]
			}
			return l
		}
	}
}

// links finds for each end of each piece the end of another one in which it goes on, −1 for none.
func links(pieces []piece, grain float64) []end {
	type place struct{ x, y int64 }
	keyOf := func(p Point) place {
		return place{int64(math.Round(p.X / grain)), int64(math.Round(p.Y / grain))}
	}
	next := make([]end, 2*len(pieces))
	order := make([]end, len(next))
	keys := make([]place, len(next))
	for e := range next {
		next[e], order[e] = -1, end(e)
		keys[e] = keyOf(pieces[e/2].at(end(e)))
	}
	compare := func(a, b end) int {
		p, q := &pieces[a.piece()], &pieces[b.piece()]
		hidden := func(p *piece) int {
			if p.hidden {
				return 1
			}
			return 0
		}
		return cmp.Or(cmp.Compare(keys[a].x, keys[b].x), cmp.Compare(keys[a].y, keys[b].y),
			cmp.Compare(p.node, q.node), cmp.Compare(p.kind, q.kind), cmp.Compare(hidden(p), hidden(q)))
	}
	slices.SortFunc(order, func(a, b end) int { return cmp.Or(compare(a, b), cmp.Compare(a, b)) })
	for from := 0; from < len(order); {
		to := from + 1
		for to < len(order) && compare(order[from], order[to]) == 0 {
			to++
		}
		if to-from > 1 {
			pair(pieces, order[from:to], next)
		}
		from = to
	}
	return next
}

// pair links ends that are at one place, those first that turn least.
func pair(pieces []piece, ends []end, next []end) {
	type turn struct {
		a, b  end
		angle float64
	}
	const crowd = 24 // ends at a place beyond which lines are too many to be told apart
	if len(ends) > crowd {
		ends = ends[:crowd]
	}
	var turns []turn
	for i, a := range ends {
		for _, b := range ends[i+1:] {
			if a.piece() == b.piece() {
				continue
			}
			if angle := turnOf(pieces[a.piece()].at(a.other()), pieces[a.piece()].at(a), pieces[b.piece()].at(b.other())); angle < sharpest {
				turns = append(turns, turn{a, b, angle})
			}
		}
	}
	slices.SortFunc(turns, func(x, y turn) int {
		return cmp.Or(cmp.Compare(x.angle, y.angle), cmp.Compare(x.a, y.a), cmp.Compare(x.b, y.b))
	})
	for _, t := range turns {
		if next[t.a] < 0 && next[t.b] < 0 {
			next[t.a], next[t.b] = t.b, t.a
		}
	}
}

// turnOf is by how much the way from a over b to c turns, 0…π.
func turnOf(a, b, c Point) float64 {
	ux, uy, vx, vy := b.X-a.X, b.Y-a.Y, c.X-b.X, c.Y-b.Y
	return math.Abs(math.Atan2(ux*vy-uy*vx, ux*vx+uy*vy))
}
