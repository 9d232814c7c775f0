package mechanism

import (
	"math"
	"slices"
	"sort"
)

// table is a group's solutions along the values of its only driver, the one that is continuous with rest.
type table struct {
	at     []float64 // values, growing
	to     []float64 // the unknowns at each
	slopes []float64 // and how they grow
	// period is after how many degrees it goes on in the same way, each unknown greater by more; 0 where it does not.
	period float64
	more   []float64
}

const (
	firstStep = 3.7 // degrees: no divisor of a revolution, so that dead centres are not met exactly
	leastStep = 1e-7
	mostRows  = 40_000
	strays    = 0.06 // how far a solution may be off the tangent, as a share of the way
	turnsOver = 24   // revolutions after which a mechanism is tried to go on in the same way
)

// follow finds a group's solutions over the values of its driver.
func (m *Mechanism) follow(g *group, s *work) {
	if len(g.drivers) != 1 || len(g.unknown) == 0 {
		return
	}
	d := m.Drivers[g.drivers[0]]
	at := m.drivers[g.drivers[0]]
	rest := m.joints[m.coordinates[at].joint].Rest
	low, high := min(d.From-rest, d.To-rest, 0), max(d.From-rest, d.To-rest, 0)
	t := &g.table
	if m.coordinates[at].turns && high-low > 360 && m.around(g, s) {
		return
	}
	*t = table{}
	x := make([]float64, len(m.coordinates))
	down, ended := m.trace(g, x, s, low)
	if ended {
		m.end(g, down, false)
	}
	for i := len(down) - 1; i > 0; i-- { // rest comes with the way up
		t.add(&down[i])
	}
	clear(x)
	up, ended := m.trace(g, x, s, high)
	if ended {
		m.end(g, up, true)
	}
	for i := range up {
		t.add(&up[i])
	}
}

// end notes that a group's driver cannot go farther than the last of its solutions.
func (m *Mechanism) end(g *group, rows []tableRow, beyond bool) {
	number, last := g.drivers[0], &rows[len(rows)-1]
	at := &m.reach[number]
	if beyond && last.at >= at[1] || !beyond && last.at <= at[0] {
		return // another loop ends before
	}
	if beyond {
		at[1] = last.at
	} else {
		at[0] = last.at
	}
	driver := &m.joints[m.coordinates[m.drivers[number]].joint]
	if len(rows) >= mostRows {
		m.problem(
			driver.ID,
			true,
			"%s goes on for longer than its loop can be followed: it stands still from %.0f on.",
			driver.says(),
			driver.Rest+last.at,
		)
		return
	}
	e := End{Joint: driver.ID, Value: driver.Rest + last.at, Beyond: beyond}
	if len(g.cuts) > 0 {
		e.At = m.joints[m.cuts[g.cuts[0]].joint].ID
	}
	m.Ends = slices.DeleteFunc(m.Ends, func(o End) bool { return o.Joint == e.Joint && o.Beyond == beyond })
	m.Ends = append(m.Ends, e)
}

// tableRow is one solution.
type tableRow struct {
	at         float64
	to, slopes []float64
}

func (t *table) add(r *tableRow) {
	t.at = append(t.at, r.at)
	t.to = append(t.to, r.to...)
	t.slopes = append(t.slopes, r.slopes...)
}

// around makes a table of one period, and reports whether there is one.
func (m *Mechanism) around(g *group, s *work) bool {
	x := make([]float64, len(m.coordinates))
	rows, ended := m.trace(g, x, s, 360)
	for turn := 1; turn <= turnsOver && !ended; turn++ {
		last := &rows[len(rows)-1]
		if more := m.again(g, last); more != nil {
			t := &g.table
			*t = table{period: last.at, more: more}
			for i := range rows {
				t.add(&rows[i])
			}
			return true
		}
		var next []tableRow
		next, ended = m.trace(g, x, s, last.at+360)
		rows = append(rows, next[1:]...)
	}
	return false
}

// again returns by how much the unknowns have grown where everything stands as at rest, nil where it does not.
func (m *Mechanism) again(g *group, r *tableRow) []float64 {
	more := make([]float64, len(g.unknown))
	for k, c := range g.unknown {
		if m.coordinates[c].turns {
			more[k] = 360 * math.Round(r.to[k]/360)
		}
		if math.Abs(r.to[k]-more[k]) > 1e-6*m.unit(c) {
			return nil
		}
	}
	return more
}

// trace follows a group's solution from the one in x to a value of its driver. It returns the solutions on the way, that
// it began with first, and whether it came to an end before; x holds the last.
func (m *Mechanism) trace(g *group, x []float64, s *work, to float64) (rows []tableRow, ended bool) {
	driver := m.drivers[g.drivers[0]]
	unit := m.unit(driver)
	rows = append(rows, m.row(g, x, s))
	step := firstStep * unit
	for x[driver] != to {
		last := &rows[len(rows)-1]
		h := math.Copysign(min(step, math.Abs(to-last.at)), to-last.at)
		x[driver] = last.at + h
		if math.Abs(to-last.at) <= step {
			x[driver] = to
		}
		for k, c := range g.unknown {
			x[c] = last.to[k] + last.slopes[k]*h
		}
		if m.solve(g, x, s) && m.near(g, last, x, h) {
			rows = append(rows, m.row(g, x, s))
			step = min(step*1.6, firstStep*unit)
			if len(rows) < mostRows {
				continue
			}
		} else if step /= 2; step > leastStep*unit {
			continue
		}
		x[driver] = last.at
		for k, c := range g.unknown {
			x[c] = last.to[k]
		}
		m.spread(g, x)
		return rows, true
	}
	return rows, false
}

// near reports whether a solution is close to where the tangent led.
func (m *Mechanism) near(g *group, last *tableRow, x []float64, h float64) bool {
	for k, c := range g.unknown {
		way := math.Abs(last.slopes[k]*h) / m.unit(c)
		if off := math.Abs(x[c]-last.to[k]-last.slopes[k]*h) / m.unit(c); off > strays*(way+firstStep) {
			return false
		}
	}
	return true
}

// row is the solution in x, and how it grows with the driver.
func (m *Mechanism) row(g *group, x []float64, s *work) tableRow {
	n := len(g.unknown)
	r := tableRow{at: x[m.drivers[g.drivers[0]]], to: make([]float64, n), slopes: make([]float64, n)}
	m.spread(g, x)
	m.evaluate(g, x, s)
	m.derive(g, s, n, 1, s.rhs)
	m.derive(g, s, 0, n, s.a)
	leastSquares(s.a, g.rows, n, s.rhs, r.slopes, s.order)
	for k, c := range g.unknown {
		r.to[k] = x[c]
		r.slopes[k] = -r.slopes[k]
	}
	return r
}

// guess puts what the table says of the unknowns into x.
func (g *group) guess(value float64, x []float64) {
	t := &g.table
	n, last := len(g.unknown), len(t.at)-1
	around := 0.0
	if t.period > 0 {
		around = math.Floor(value / t.period)
	}
	v := max(t.at[0], min(value-around*t.period, t.at[last]))
	i := max(sort.SearchFloat64s(t.at, v)-1, 0)
	next := min(i+1, last)
	long := max(t.at[next]-t.at[i], math.SmallestNonzeroFloat64)
	for k, c := range g.unknown {
		a, b := i*n+k, next*n+k
		x[c], _ = hermite(t.to[a], t.to[b], long*t.slopes[a], long*t.slopes[b], (v-t.at[i])/long)
		if t.period > 0 {
			x[c] += around * t.more[k]
		}
	}
}
