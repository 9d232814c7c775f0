package match

import (
	"fmt"
	"math"
	"slices"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// mostAnchors is how many parts are looked at to find how the whole stands.
const mostAnchors = 60

// register finds how the new revision as a whole stands beside the one before: turned by right angles, as when another
// axis points up, and shifted. Parts whose shape is there once in either tell; where most of them agree on none, nothing
// is moved.
func (m *matcher) register() {
	m.move = space.Identity
	anchors, within := m.anchors(), 0.002
	if len(anchors) == 0 { // it was modelled anew: what is called alike and is about as large, is about there
		anchors, within = m.namesakes(), 0.01
	}
	if len(anchors) == 0 {
		return
	}
	best, agree := space.Identity, m.agree(anchors, &space.Identity, within)
	for _, r := range rightAngles() {
		turned := space.Rigid{R: r}
		var x, y, z []float64
		for _, a := range anchors {
			d := r3.Sub(m.new.nodes[a[1]].middle, turned.Apply(m.old.nodes[a[0]].middle))
			x, y, z = append(x, d.X), append(y, d.Y), append(z, d.Z)
		}
		turned.T = space.Vec{X: median(x), Y: median(y), Z: median(z)}
		if n := m.agree(anchors, &turned, within); n > agree {
			best, agree = turned, n
		}
	}
	if 2*agree <= len(anchors) || best == space.Identity {
		return
	}
	m.move = best
	switch shift := r3.Norm(best.T); {
	case best.R != space.Identity3:
		m.out.Placed = "The whole is turned: another axis points up, or to the front."
	default:
		m.out.Placed = fmt.Sprintf("The whole stands %.4g mm elsewhere.", shift)
	}
}

// anchors are pairs of parts whose shapes are the same, and there once.
func (m *matcher) anchors() (list [][2]int) {
	once := func(s *side) map[int]int {
		at, count := map[int]int{}, map[int]int{}
		for i := range s.nodes {
			if s.nodes[i].part {
				at[s.nodes[i].shape] = i
				count[s.nodes[i].shape]++
			}
		}
		for shape, n := range count {
			if n > 1 {
				delete(at, shape)
			}
		}
		return at
	}
	olds, news := once(m.old), once(m.new)
	for a := range m.old.prints {
		i, single := olds[a]
		if !single || len(list) == mostAnchors {
			continue
		}
		for b := range m.new.prints {
			if k, there := news[b]; there && m.old.prints[a].Similarity(&m.new.prints[b]) == solid.Same {
				list = append(list, [2]int{i, k})
				break
			}
		}
	}
	return list
}

// namesakes are pairs of parts of one name that is there once in either, and of about one size.
func (m *matcher) namesakes() (list [][2]int) {
	once := func(s *side) map[string]int {
		at := map[string]int{}
		for i := range s.nodes {
			if !s.nodes[i].part {
				continue
			}
			name := joined(s.nodes[i].name)
			if _, twice := at[name]; twice {
				i = -1
			}
			at[name] = i
		}
		return at
	}
	news := once(m.new)
	for name, i := range once(m.old) {
		if k, there := news[name]; there && i >= 0 && k >= 0 && m.shapes(&m.old.nodes[i], &m.new.nodes[k]) > 0.5 {
			list = append(list, [2]int{i, k})
		}
	}
	slices.SortFunc(list, func(a, b [2]int) int { return a[0] - b[0] })
	return list[:min(len(list), mostAnchors)]
}

// agree is how many anchors lie over each other, to a share of the size.
func (m *matcher) agree(anchors [][2]int, move *space.Rigid, within float64) (n int) {
	for _, a := range anchors {
		if r3.Norm(r3.Sub(move.Apply(m.old.nodes[a[0]].middle), m.new.nodes[a[1]].middle)) < within*m.old.size {
			n++
		}
	}
	return n
}

func median(list []float64) float64 {
	slices.Sort(list)
	return list[len(list)/2]
}

// rightAngles are the 24 rotations that take axes to axes; the first changes nothing.
func rightAngles() (list []space.Mat3) {
	list = append(list, space.Identity3)
	for _, p := range [][3]int{{0, 1, 2}, {0, 2, 1}, {1, 0, 2}, {1, 2, 0}, {2, 0, 1}, {2, 1, 0}} {
		for signs := range 8 {
			var r space.Mat3
			for row := range 3 {
				r[3*row+p[row]] = 1 - 2*float64(signs>>row&1)
			}
			if math.Abs(r.Det()-1) < 1e-9 && r != space.Identity3 {
				list = append(list, r)
			}
		}
	}
	return list
}
