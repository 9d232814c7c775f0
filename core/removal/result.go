package removal

import (
	"fmt"
	"slices"
	"strings"

	"slowreveal/core/assembly"
	"slowreveal/core/plan"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// result is what has been found so far.
func (s *search) result() plan.Plan {
	p := plan.Plan{
		Moves:   make([]plan.Move, len(s.moves)),
		Stays:   []assembly.NodeID{},
		Asked:   s.asked,
		Parts:   len(s.below[0]),
		Spacing: s.gap(),
		Stuck:   s.stuck,
		Fade:    s.choices.Fade,
	}
	left := make([]bool, len(s.nodes))
	for i, r := range s.moves {
		p.Moves[i] = s.move(r)
		for _, u := range r.units {
			for _, part := range u.parts {
				left[part] = true
			}
		}
	}
	for _, part := range s.below[0] {
		if !left[part] {
			p.Stays = append(p.Stays, s.nodes[part].ID)
		}
	}
	return p
}

// move is a removal as it is told of.
func (s *search) move(r *removal) plan.Move {
	m := r.move
	m.Nodes, m.Paths, m.Carried, m.Why, m.Others, m.Given, m.Swing = nil, nil, r.carried, r.why, r.others, r.given, r.swing
	for i, u := range r.units {
		path := plan.Path{Legs: []reveal.Leg{}}
		for _, l := range r.ways[i].legs {
			path.Legs = append(
				path.Legs,
				reveal.Leg{Along: space.Vec3Of(s.world[0].R.ApplyInverse(l.along)), Distance: l.far},
			)
		}
		for _, n := range u.nodes {
			m.Nodes = append(m.Nodes, s.nodes[n].ID)
			m.Paths = append(m.Paths, path)
		}
	}
	if r.hits >= 0 {
		m.Collides = s.nodes[r.hits].ID
	}
	if m.Why == nil {
		m.Why = []string{}
	}
	return m
}

// reasons tells why a candidate leaves now, and this way.
func (s *search) reasons(c *candidate, list []candidate) (why []string) {
	if n := len(list); n > 1 {
		why = append(
			why,
			fmt.Sprintf("It is one of %d that can leave now; it is the nearest to what left last, or the smallest.", n),
		)
	} else {
		why = append(why, "It is the only one that can leave now.")
	}
	free := 0
	for _, w := range s.waysFor(&c.unit) {
		if _, blocked := s.blocked(&c.unit, w); !blocked {
			free++
		}
	}
	d := s.label(s.way(c.way))
	switch {
	case free == 1:
		why = append(why, fmt.Sprintf("%s is its only way out: %.0f mm until it is clear.", d, c.out))
	default:
		why = append(
			why,
			fmt.Sprintf(
				"%d ways lead out; %s is the shortest and suits what left before: %.0f mm until it is clear.",
				free,
				strings.ToLower(d[:1])+d[1:],
				c.out,
			),
		)
	}
	return why
}

// mostOthers is how many directions are told of beside the one that was taken.
const mostOthers = 8

// others lists the directions that a unit did not take, and what is in the way there. way is its own, −1 for none.
func (s *search) others(u *unit, way int) (list []plan.Other) {
	for _, w := range s.waysFor(u) {
		if w == way || len(list) == mostOthers {
			continue
		}
		d := s.way(w)
		o := plan.Other{Along: space.Vec3Of(s.world[0].R.ApplyInverse(d)), Label: s.label(d)}
		if by, blocked := s.blocked(u, w); blocked {
			o.Blocked, o.Far = s.nodes[by[1]].ID, s.far(by[0], by[1], w)
		} else {
			o.Out = s.out(u, w)
		}
		list = append(list, o)
	}
	return list
}

// label names a direction of the world: +Y is up, +Z to the front.
func (s *search) label(own space.Vec) string {
	for _, k := range []struct {
		along space.Vec
		name  string
	}{{space.Vec{Y: 1}, "Up"}, {space.Vec{Y: -1}, "Down"}, {space.Vec{Z: 1}, "To the front"}, {space.Vec{Z: -1}, "To the back"}, {space.Vec{X: 1}, "To the right"}, {space.Vec{X: -1}, "To the left"}} {
		if own.X*k.along.X+own.Y*k.along.Y+own.Z*k.along.Z > 0.999 {
			return k.name
		}
	}
	return fmt.Sprintf("Along %.2f, %.2f, %.2f", own.X, own.Y, own.Z)
}

// stay notes what could not leave from below a node, though nothing was said of it that it should stay, and why.
func (s *search) stay(node, stays int) {
	if s.ended() {
		return
	}
	var left []int
	for _, p := range s.below[node] {
		u := unit{node: p, parts: []int{p}}
		if s.there[p] && p != stays && !s.keeps(&u, stays) && !s.inWhole(p, node) {
			left = append(left, p)
		}
	}
	for _, p := range left {
		s.stuck = append(s.stuck, plan.Stuck{Node: s.nodes[p].ID, Says: s.stuckBecause(p)})
	}
}

// inWhole reports whether a part belongs to a subassembly below a node that is not to be taken apart.
func (s *search) inWhole(part, node int) bool {
	for i := part; i >= 0 && i != node; i = s.nodes[i].Parent {
		if s.whole[i] {
			return true
		}
	}
	return s.whole[node]
}

// stuckBecause says what holds a part, by the parts in its way and their directions.
func (s *search) stuckBecause(part int) string {
	u := s.unitOf(part)
	by := map[int][]string{}
	var order []int
	for _, w := range s.waysFor(&u) {
		hit, blocked := s.blocked(&u, w)
		if !blocked {
			continue
		}
		if by[hit[1]] == nil {
			order = append(order, hit[1])
		}
		label := s.label(s.way(w))
		by[hit[1]] = append(by[hit[1]], strings.ToLower(label[:1])+label[1:])
	}
	if len(order) == 1 && s.oneWith(part, order[0]) {
		return fmt.Sprintf("It lies deep in %s: as drawn, they are one part.", s.nodes[order[0]].Name)
	}
	if len(order) == 0 {
		return "It could leave, but a fastener holds it that cannot."
	}
	slices.SortStableFunc(order, func(a, b int) int { return len(by[b]) - len(by[a]) })
	var says []string
	for _, o := range order[:min(len(order), 4)] {
		where := strings.Join(by[o][:min(len(by[o]), 4)], ", ")
		if len(order) == 1 {
			where = "in every direction that was tried"
		}
		says = append(says, fmt.Sprintf("by %s (%s)", s.nodes[o].Name, where))
	}
	return "Held " + strings.Join(says, ", ") + "."
}

// oneWith reports whether a part lies so deep in another one that they are taken as one.
func (s *search) oneWith(part, other int) bool {
	_, apart := s.atRest(other, part)
	return s.welded(part, other, apart)
}

// way is the direction of a number, of unit length, in the world.
func (s *search) way(number int) space.Vec {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.ways[number]
}
