package mechanism

import "slowreveal/core/assembly"

// Held is a coordinate that stands at a value, degrees or mm from rest, whatever would follow from the drivers.
type Held struct {
	Coordinate int
	Value      float64
}

// AtHolding is At with some coordinates that no driver moves (Free) at other values than at rest.
func (m *Mechanism) AtHolding(values []float64, held []Held, s *State) {
	m.at(values, held, s)
}

// Coordinates are those of a joint, by number; n is 0 where it has none of its own: it closes a loop, or has no effect.
func (m *Mechanism) Coordinates(id assembly.JointID) (first, n int) {
	j := m.find(id)
	if j == nil || j.first < 0 {
		return 0, 0
	}
	for first = j.first; first+n < len(m.coordinates) && m.coordinates[first+n].joint == m.coordinates[first].joint; n++ {
	}
	return first, n
}

// Free reports whether nothing that is driven moves a coordinate.
func (m *Mechanism) Free(coordinate int) bool { return m.driverOf(coordinate) == "" }
