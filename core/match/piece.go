package match

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// Split is a part of the revision before whose body several parts of the new one make up: the first of them is the part
// that it has become, the others were part of it.
type Split struct {
	Old assembly.NodeID   `json:"old"`
	New []assembly.NodeID `json:"new"`

	pieces []int // New, by their numbers
}

// Join is a part of the new revision that is made up by the bodies of several of the one before: it is taken for the
// first of them, and the others are one with it.
type Join struct {
	Old []assembly.NodeID `json:"old"`
	New assembly.NodeID   `json:"new"`
}

const (
	ofWhole = 0.5  // so much of a piece's surface is the whole's: the rest is where it was cut
	covered = 0.98 // so much of the whole's surface is that of its pieces
	samples = 400  // triangles of a surface that are looked at
)

// body is a part as it stands in the new revision's world.
type body struct {
	node  int
	shape *solid.Shape
	tree  *solid.BVH
	at    space.Rigid
	box   space.Box
}

func (m *matcher) bodyOf(s *side, i int) *body {
	b := &body{node: i, shape: s.Shapes[s.nodes[i].shape], at: s.nodes[i].pose}
	if s == m.old {
		b.at = m.move.Mul(&b.at)
	}
	b.box = b.shape.Bounds.Moved(&b.at)
	return b
}

// findPieces finds parts that were split into several, and parts that are made of several of before. Where very many
// are matched with nothing it does not look: that is another product.
func (m *matcher) findPieces() {
	olds, news := m.left(func(n *node) bool { return n.part })
	if len(olds)*len(news) > mostAtOnce {
		return
	}
	for i := range m.old.nodes {
		if list := m.piecesOf(m.old, i, m.new); list != nil {
			m.split(i, list)
		}
	}
	for k := range m.new.nodes {
		if list := m.piecesOf(m.new, k, m.old); list != nil {
			m.joinTo(k, list)
		}
	}
}

// partnerOf is the node that one is taken for; −1 without one.
func (m *matcher) partnerOf(s *side, i int) int {
	pairs := m.taken
	if s == m.old {
		pairs = m.pairs
	}
	if to, matched := pairs[i]; matched {
		return to
	}
	return -1
}

// piecesOf are the parts of the other side that together make up one that is not there as it was, what it is taken for
// already or is called like it first, then the largest; nil where there are no two.
func (m *matcher) piecesOf(s *side, i int, other *side) []int {
	n := &s.nodes[i]
	if !n.part || n.shape < 0 {
		return nil
	}
	partner := m.partnerOf(s, i)
	if partner >= 0 && m.sameBody(s, i, partner) {
		return nil
	}
	whole := m.bodyOf(s, i)
	within := max(here, 0.002*r3.Norm(whole.box.Size()))
	grow := space.Vec{X: within, Y: within, Z: within}
	around := space.Box{Min: r3.Sub(whole.box.Min, grow), Max: r3.Add(whole.box.Max, grow)}
	var list []*body
	for k := range other.nodes {
		o := &other.nodes[k]
		if !o.part || k != partner && m.partnerOf(other, k) >= 0 {
			continue
		}
		if b := m.bodyOf(other, k); around.Union(b.box) == around {
			list = append(list, b)
		}
	}
	if len(list) < 2 {
		return nil
	}
	whole.tree = solid.NewBVH(whole.shape)
	list = slices.DeleteFunc(list, func(b *body) bool { return b.on([]*body{whole}, within) < ofWhole })
	for _, b := range list {
		b.tree = solid.NewBVH(b.shape)
	}
	if len(list) < 2 || whole.on(list, within) < covered {
		return nil
	}
	slices.SortStableFunc(list, func(a, b *body) int {
		is := func(x bool) int {
			if x {
				return 0
			}
			return 1
		}
		area := func(x *body) float64 { return other.masses[other.nodes[x.node].shape].Area }
		return cmp.Or(is(a.node == partner)-is(b.node == partner),
			is(other.nodes[a.node].name == n.name)-is(other.nodes[b.node].name == n.name),
			cmp.Compare(area(b), area(a)))
	})
	pieces := make([]int, len(list))
	for k, b := range list {
		pieces[k] = b.node
	}
	return pieces
}

// sameBody reports whether two nodes have one body, be it written otherwise.
func (m *matcher) sameBody(s *side, i, partner int) bool {
	old, new := i, partner
	if s == m.new {
		old, new = partner, i
	}
	return m.shapes(&m.old.nodes[old], &m.new.nodes[new]) > 0.95
}

// on is the share of a body's surface that lies on that of others.
func (b *body) on(others []*body, within float64) float64 {
	all, on := 0.0, 0.0
	count := len(b.shape.Triangles) / 3
	for k := range min(count, samples) {
		t := b.shape.Triangle(uint32(k * count / min(count, samples)))
		t = t.Moved(&b.at)
		middle := r3.Scale(1.0/3, r3.Add(t[0], r3.Add(t[1], t[2])))
		_, area := t.Normal()
		all += area
		for _, o := range others {
			back := o.at.Inverse()
			if o.tree.Reaches(back.Apply(middle), within) {
				on += area
				break
			}
		}
	}
	if all == 0 {
		return 0
	}
	return on / all
}

// split notes that an old part has become several: it is the first of them.
func (m *matcher) split(old int, pieces []int) {
	m.unpair(old)
	p := m.pair(old, pieces[0])
	names := make([]string, len(pieces))
	s := Split{Old: p.Old, pieces: pieces}
	for k, n := range pieces {
		names[k] = "“" + m.new.Assembly.Nodes[n].Name + "”"
		s.New = append(s.New, m.new.nodes[n].id)
	}
	p.Sure, p.Confidence = true, 0.95
	p.Why = "its surface is that of " + enumerated(names)
	p.Changes = append(p.Changes, Change{Divided, "is in several parts now: " + enumerated(names)})
	m.out.Splits = append(m.out.Splits, s)
}

// joinTo notes that a new part is made of several of before: it is the first of them.
func (m *matcher) joinTo(new int, pieces []int) {
	if old, matched := m.taken[new]; matched {
		m.unpair(old)
	}
	p := m.pair(pieces[0], new)
	var names []string
	j := Join{New: p.New}
	for k, o := range pieces {
		if k > 0 {
			names = append(names, "“"+m.old.Assembly.Nodes[o].Name+"”")
		}
		j.Old = append(j.Old, m.old.nodes[o].id)
	}
	p.Sure, p.Confidence = true, 0.95
	p.Why = "its surface is that of it and " + enumerated(names)
	p.Changes = append(p.Changes, Change{United, "is one part with " + enumerated(names) + " now"})
	m.out.Joins = append(m.out.Joins, j)
}

// unpair takes back for what an old node was taken.
func (m *matcher) unpair(old int) {
	if to, matched := m.pairs[old]; matched {
		delete(m.pairs, old)
		delete(m.taken, to)
		m.out.Pairs = slices.DeleteFunc(m.out.Pairs, func(p Pair) bool { return p.old == old })
	}
}

// enumerated lists names in words; of many, the first ones.
func enumerated(names []string) string {
	const most = 4
	switch n := len(names); {
	case n > most:
		return fmt.Sprintf("%s and %d more", strings.Join(names[:most-1], ", "), n-most+1)
	case n > 1:
		return strings.Join(names[:n-1], ", ") + " and " + names[n-1]
	}
	return strings.Join(names, "")
}
