package mechanism

import (
	"slices"

	"slowreveal/core/assembly"
)

// Between lists the coordinates that move one body against another: empty where they are fixed on one another.
func (m *Mechanism) Between(a, b int) (list []int) {
	above := m.carries(a, b)
	for _, l := range slices.Concat(m.chain(above, a), m.chain(above, b)) {
		list = append(list, l.coordinate)
	}
	return list
}

// Turning reports whether a coordinate is an angle.
func (m *Mechanism) Turning(coordinate int) bool { return m.coordinates[coordinate].turns }

// Meshing reports whether two bodies have teeth that mesh, or the like: they are made to go into one another.
func (m *Mechanism) Meshing(a, b int) bool {
	for i := range m.assembly.Couplings {
		c := &m.assembly.Couplings[i]
		if c.Kind == assembly.Ratio {
			continue
		}
		x, y := m.find(c.Joint), m.find(c.By)
		if x.body == a && y.body == b || x.body == b && y.body == a {
			return true
		}
	}
	return false
}

// Coordinate is what a coordinate stands at: degrees or mm from rest.
func (s *State) Coordinate(k int) float64 { return s.x[k] }

// Set gives one coordinate another value, whatever follows from it, and brings the bodies there.
func (m *Mechanism) Set(s *State, k int, value float64) {
	s.x[k] = value
	m.pose(s)
}

// Copy makes s stand as o does.
func (s *State) Copy(o *State) {
	copy(s.Moved, o.Moved)
	copy(s.x, o.x)
}
