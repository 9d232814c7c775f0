package mechanism

import (
	"math"
	"slices"

	"slowreveal/core/assembly"
	"slowreveal/core/space"
)

// State is a mechanism with its drivers at some values. It is not safe for use by several goroutines.
type State struct {
	// Moved are the displacements of the bodies from where they stand at rest, in the world at rest.
	Moved []space.Rigid

	x    []float64 // by coordinate
	work *work
}

// NewState returns a state at rest.
func (m *Mechanism) NewState() *State {
	s := &State{Moved: make([]space.Rigid, len(m.Bodies)), x: make([]float64, len(m.coordinates)), work: m.newWork()}
	for i := range s.Moved {
		s.Moved[i] = space.Identity
	}
	return s
}

// At brings s to where the drivers have the values, one for each of Drivers: degrees, or mm of what slides. Values that
// cannot be reached (Ends) are taken for the last that can. It does not allocate.
func (m *Mechanism) At(values []float64, s *State) { m.at(values, nil, s) }

func (m *Mechanism) at(values []float64, held []Held, s *State) {
	x := s.x
	clear(x)
	for _, h := range held {
		x[h.Coordinate] = h.Value
	}
	for i, at := range m.drivers {
		if at >= 0 {
			v := values[i] - m.joints[m.coordinates[at].joint].Rest
			x[at] = max(m.reach[i][0], min(v, m.reach[i][1]))
		}
	}
	for i := range m.groups {
		m.close(&m.groups[i], s)
	}
	for i := range m.coordinates {
		if f := m.follows[i]; len(f) != 1 || f[0].coordinate != i {
			x[i] = f.at(x)
		}
	}
	m.pose(s)
}

// pose brings the bodies to where the coordinates have them.
func (m *Mechanism) pose(s *State) {
	for _, body := range m.order[1:] {
		at := s.Moved[m.parents[body]]
		for _, l := range m.ways[body] {
			move := m.coordinates[l.coordinate].motion(l.sign * s.x[l.coordinate])
			at = at.Mul(&move)
		}
		s.Moved[body] = at
	}
}

// close finds what closes a group's loops.
func (m *Mechanism) close(g *group, s *State) {
	switch {
	case len(g.drivers) == 0 || len(g.unknown) == 0:
	case len(g.table.at) > 0:
		g.guess(s.x[m.drivers[g.drivers[0]]], s.x)
		m.solve(g, s.x, s.work)
	default:
		m.along(g, s)
	}
}

// along follows a group with several drivers from rest to where they are, all of them at the same share of their ways.
func (m *Mechanism) along(g *group, s *State) {
	x, to := s.x, s.work.start[:len(g.drivers)]
	most := 0.0
	for k, d := range g.drivers {
		at := m.drivers[d]
		to[k] = x[at]
		most = max(most, math.Abs(to[k])/m.unit(at))
	}
	steps := min(math.Ceil(most/firstStep), mostRows)
	for i := 1.0; i <= steps; i++ {
		for k, d := range g.drivers {
			x[m.drivers[d]] = to[k] * (i / steps)
		}
		if !m.solve(g, x, s.work) {
			break
		}
	}
}

// Value returns what a joint stands at: degrees, or mm of what slides. Of one that closes a loop the angle lies between
// −180° and 180°.
func (m *Mechanism) Value(id assembly.JointID, s *State) (value float64, ok bool) {
	j := m.find(id)
	if j == nil {
		return 0, false
	}
	if at := j.driven(); at >= 0 {
		return j.Rest + s.x[at], true
	}
	for i := range m.cuts {
		c := &m.cuts[i]
		if &m.joints[c.joint] != j || !j.Kind.Driven() {
			continue
		}
		f, g := c.frame.moved(&s.Moved[j.base]), c.frame.moved(&s.Moved[j.body])
		if !j.Kind.Turns() {
			return j.Rest + dot(sub(g.point, f.point), f.axes[0]), true
		}
		return j.Rest + math.Atan2(dot(g.axes[1], f.axes[2]), dot(g.axes[1], f.axes[1]))*(180/math.Pi), true
	}
	return 0, false
}

// Open returns how far loops are from being closed, mm: the farthest of them.
func (m *Mechanism) Open(s *State) (most float64) {
	for i := range m.groups {
		g := &m.groups[i]
		m.evaluate(g, s.x, s.work)
		most = max(most, m.open(g, s.work))
	}
	return most
}

// Body returns which of Bodies a node moves with.
func (m *Mechanism) Body(node int) int { return m.bodyOf[node] }

// DriverOf returns a driver that a joint follows, or that it is; empty where nothing that is driven moves it.
func (m *Mechanism) DriverOf(id assembly.JointID) assembly.JointID {
	j := m.find(id)
	if j == nil {
		return ""
	}
	if at := j.driven(); at >= 0 {
		return m.driverOf(at)
	}
	for _, l := range m.chain(m.carries(j.base, j.body), j.body) {
		if by := m.driverOf(l.coordinate); by != "" {
			return by
		}
	}
	return ""
}

// Follows reports whether a body moves when the drivers do.
func (m *Mechanism) Follows(body int) bool {
	return slices.ContainsFunc(m.chain(0, body), func(l link) bool { return m.driverOf(l.coordinate) != "" })
}

func (m *Mechanism) driverOf(coordinate int) assembly.JointID {
	for _, t := range m.follows[coordinate] {
		for i, at := range m.drivers {
			if at == t.coordinate {
				return m.Drivers[i].Joint
			}
		}
		for i := range m.groups {
			if g := &m.groups[i]; len(g.drivers) > 0 && slices.Contains(g.unknown, t.coordinate) {
				return m.Drivers[g.drivers[0]].Joint
			}
		}
	}
	return ""
}
