package match

import "fmt"

// held are the parts below each group that are matched, by their numbers in the new revision.
type held map[int]map[int]bool

// groupScore is how much speaks for two groups being one: what they hold in common, and their names.
func (m *matcher) groupScore(old, new int) (float64, string) {
	if m.oldHeld == nil {
		m.oldHeld, m.newHeld = held{}, held{}
		for i := range m.old.nodes {
			if k, matched := m.pairs[i]; matched && m.old.nodes[i].part {
				m.oldHeld.add(m.old, i, k)
			}
		}
		for k := range m.new.nodes {
			if m.new.nodes[k].part {
				m.newHeld.add(m.new, k, k)
			}
		}
	}
	x, y := m.oldHeld[old], m.newHeld[new]
	both := 0
	for k := range x {
		if y[k] {
			both++
		}
	}
	common := 0.0
	if all := len(x) + len(y) - both; all > 0 {
		common = float64(both) / float64(all)
	}
	o, n := &m.old.nodes[old], &m.new.nodes[new]
	name, path := alikeNames(o.name, n.name), alikeNames(o.path, n.path)
	return 0.7*common + 0.25*name + 0.05*path, fmt.Sprintf("%d parts in common, name %.0f %%", both, 100*name)
}

// add notes a part with all groups above it.
func (h held) add(s *side, part, as int) {
	for i := s.nodes[part].parent; i >= 0; i = s.nodes[i].parent {
		if h[i] == nil {
			h[i] = map[int]bool{}
		}
		h[i][as] = true
	}
}
