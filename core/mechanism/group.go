package mechanism

import (
	"slices"

	"slowreveal/core/assembly"
)

// group is loops and cams that have unknown coordinates in common: they are solved together.
type group struct {
	cuts, cams []int
	uses       []int // coordinates in their equations
	unknown    []int // coordinates that are to be found, among free
	drivers    []int // those of the mechanism that have a say, by number
	rows       int
	// by, one row for each of uses: how much it grows with each unknown, then with each driver.
	by    []float64
	table table
}

// work is room for evaluating and solving.
type work struct {
	base, body   []twist
	r, rhs, step []float64
	slopes, a    []float64
	order        []int
	start        []float64
}

// group collects the loops and cams that have something to find in common.
func (m *Mechanism) group() {
	m.collect()
	for m.dropContradiction() { // what it drove is to be found now, in every loop that it is in
		m.collect()
	}
	s := m.newWork()
	for i := range m.groups {
		m.follow(&m.groups[i], s)
		m.findLoose(&m.groups[i], s)
	}
}

// collect puts loops and cams together that have something unknown in common.
func (m *Mechanism) collect() {
	given := make([]bool, len(m.coordinates))
	for _, at := range m.drivers {
		if at >= 0 {
			given[at] = true
		}
	}
	var groups []group
	join := func(g group) {
		for _, c := range g.uses {
			for _, t := range m.follows[c] {
				if !given[t.coordinate] && !slices.Contains(g.unknown, t.coordinate) {
					g.unknown = append(g.unknown, t.coordinate)
				}
			}
		}
		shares := func(o group) bool {
			return slices.ContainsFunc(o.unknown, func(c int) bool { return slices.Contains(g.unknown, c) })
		}
		for _, o := range groups {
			if shares(o) {
				g.cuts, g.cams = append(o.cuts, g.cuts...), append(o.cams, g.cams...)
				g.uses, g.unknown = union(o.uses, g.uses), union(o.unknown, g.unknown)
			}
		}
		groups = append(slices.DeleteFunc(groups, shares), g)
	}
	for i := range m.cuts {
		g := group{cuts: []int{i}}
		for _, l := range slices.Concat(m.cuts[i].base, m.cuts[i].body) {
			g.uses = union(g.uses, []int{l.coordinate})
		}
		join(g)
	}
	for i := range m.cams {
		join(group{cams: []int{i}, uses: []int{m.cams[i].by, m.cams[i].of}})
	}
	for i := range groups {
		m.prepare(&groups[i])
	}
	m.groups = groups
}

// dropContradiction lets a driver follow that others of the same loop drive already: as the assembly stands, the loop
// cannot have both move. It reports whether there was one.
func (m *Mechanism) dropContradiction() bool {
	s := m.newWork()
	for i := range m.groups {
		g := &m.groups[i]
		if len(g.drivers) < 2 || m.rank(g, s, len(g.unknown)) == m.rank(g, s, len(g.unknown)+len(g.drivers)) {
			continue
		}
		last := g.drivers[len(g.drivers)-1]
		j := &m.joints[m.coordinates[m.drivers[last]].joint]
		m.problem(
			j.ID,
			true,
			"%s follows already from what else is driven in its loop: it is not driven twice.",
			j.says(),
		)
		m.drivers[last] = -1
		return true
	}
	return false
}

// rank is how many of the first so many unknowns and drivers of a group say something of its loops at rest.
func (m *Mechanism) rank(g *group, s *work, count int) int {
	m.evaluate(g, make([]float64, len(m.coordinates)), s)
	m.derive(g, s, 0, count, s.a)
	clear(s.rhs)
	return leastSquares(s.a, g.rows, count, s.rhs, s.step, s.order)
}

// findLoose tells of joints that a loop leaves free although its drivers have their values.
func (m *Mechanism) findLoose(g *group, s *work) {
	if len(g.drivers) == 0 || len(g.unknown) == 0 {
		return
	}
	rank := m.rank(g, s, len(g.unknown))
	told := map[int]bool{}
	for _, k := range s.order[rank:len(g.unknown)] {
		j := m.coordinates[g.unknown[k]].joint
		if !told[j] {
			m.problem(
				m.joints[j].ID,
				true,
				"Nothing says where %s is in its loop: it stays as near to rest as it can. Drive it, or couple it.",
				m.joints[j].says(),
			)
		}
		told[j] = true
	}
}

func union(a, b []int) []int {
	for _, v := range b {
		if !slices.Contains(a, v) {
			a = append(a, v)
		}
	}
	return a
}

// prepare finds which drivers a group has, and how its coordinates grow with what is unknown and given.
func (m *Mechanism) prepare(g *group) {
	slices.Sort(g.unknown)
	slices.Sort(g.uses)
	g.drivers, g.rows = nil, 0
	for i, at := range m.drivers {
		if at >= 0 && slices.ContainsFunc(g.uses, func(c int) bool { return m.follows[c].has(at) }) {
			g.drivers = append(g.drivers, i)
		}
	}
	for _, i := range g.cuts {
		g.rows += len(m.cuts[i].rows)
	}
	g.rows += len(g.cams)
	columns := len(g.unknown) + len(g.drivers)
	g.by = make([]float64, len(g.uses)*columns)
	for i, c := range g.uses {
		for _, t := range m.follows[c] {
			if k := slices.Index(g.unknown, t.coordinate); k >= 0 {
				g.by[i*columns+k] = t.factor
			}
			for k, d := range g.drivers {
				if m.drivers[d] == t.coordinate {
					g.by[i*columns+len(g.unknown)+k] = t.factor
				}
			}
		}
	}
}

func (l linear) has(coordinate int) bool {
	return slices.ContainsFunc(l, func(t term) bool { return t.coordinate == coordinate })
}

func (m *Mechanism) newWork() *work {
	chain, rows, columns, uses := 0, 0, 0, 0
	for i := range m.cuts {
		chain = max(chain, len(m.cuts[i].base), len(m.cuts[i].body))
	}
	for i := range m.groups {
		g := &m.groups[i]
		rows, columns = max(rows, g.rows), max(columns, len(g.unknown)+len(g.drivers))
		uses = max(uses, len(g.uses))
	}
	numbers := func(n int) []float64 { return make([]float64, n) }
	return &work{
		base: make([]twist, chain), body: make([]twist, chain), r: numbers(rows), rhs: numbers(rows),
		step: numbers(columns), slopes: numbers(rows * uses), a: numbers(rows * columns), order: make([]int, columns),
		start: numbers(columns),
	}
}

// evaluate fills s.r with how far the group's loops are from being closed, and s.slopes with how that grows with each of
// the coordinates that it uses. Those must be in x.
func (m *Mechanism) evaluate(g *group, x []float64, s *work) {
	clear(s.slopes[:g.rows*len(g.uses)])
	from := 0
	slopes := func(row, coordinate int) *float64 {
		k, _ := slices.BinarySearch(g.uses, coordinate)
		return &s.slopes[(from+row)*len(g.uses)+k]
	}
	for _, i := range g.cuts {
		c := &m.cuts[i]
		c.evaluate(m, x, s, s.r[from:], slopes)
		from += len(c.rows)
	}
	for _, i := range g.cams {
		c := &m.cams[i]
		to, slope := c.value(x[c.by])
		s.r[from] = x[c.of] - to
		*slopes(0, c.of) += 1
		*slopes(0, c.by) -= slope
		from++
	}
}

// spread brings the group's coordinates to what its unknowns and drivers make of them, in x.
func (m *Mechanism) spread(g *group, x []float64) {
	for _, c := range g.uses {
		if len(m.follows[c]) == 1 && m.follows[c][0].coordinate == c {
			continue
		}
		x[c] = m.follows[c].at(x)
	}
}

// derive fills s.a with how the equations grow with the unknowns, or with one driver.
func (m *Mechanism) derive(g *group, s *work, first, count int, into []float64) {
	columns, uses := len(g.unknown)+len(g.drivers), len(g.uses)
	for i := range g.rows {
		for k := range count {
			sum := 0.0
			for u := range uses {
				sum += s.slopes[i*uses+u] * g.by[u*columns+first+k]
			}
			into[i*count+k] = sum
		}
	}
}

// solve finds the unknowns in x that close the group's loops, from those that are there, by Newton's method.
func (m *Mechanism) solve(g *group, x []float64, s *work) (closed bool) {
	n := len(g.unknown)
	for range 12 {
		m.spread(g, x)
		m.evaluate(g, x, s)
		copy(s.rhs[:g.rows], s.r)
		m.derive(g, s, 0, n, s.a)
		leastSquares(s.a, g.rows, n, s.rhs, s.step, s.order)
		most := 0.0
		for k, c := range g.unknown {
			x[c] -= s.step[k]
			most = max(most, max(s.step[k], -s.step[k])/m.unit(c))
		}
		if !(most < 1e6) {
			return false
		}
		if most < 1e-11 {
			break
		}
	}
	m.spread(g, x)
	m.evaluate(g, x, s)
	return m.open(g, s) <= closing*m.size
}

// closing is how far a loop may be from being closed, as a share of the mechanism's size.
const closing = 1e-9

func (m *Mechanism) open(g *group, s *work) (most float64) {
	for _, r := range s.r[:g.rows] {
		most = max(most, max(r, -r))
	}
	return most
}

// unit is what counts as one degree of a coordinate.
func (m *Mechanism) unit(coordinate int) float64 {
	if m.coordinates[coordinate].turns {
		return 1
	}
	return m.size / 60
}

// End is a driver that cannot be driven over all values that were asked for.
type End struct {
	Joint assembly.JointID `json:"joint"`
	// Value is where it ends, as the joint counts; Beyond says that greater values cannot be reached, otherwise
	// smaller ones.
	Value  float64 `json:"value"`
	Beyond bool    `json:"beyond"`
	// At is a joint of the loop that cannot be closed beyond.
	At assembly.JointID `json:"at"`
}
