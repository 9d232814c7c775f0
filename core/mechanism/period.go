package mechanism

import "math"

// mostPeriod is after how many turns of a driver at most a mechanism is taken to repeat.
const mostPeriod = 720

// Period is after how many degrees of a driver that turns everything it moves stands as before: the least common
// multiple of all that turns with it. ok is false where that is not within many turns, or never, as where something
// slides on and on.
func (m *Mechanism) Period(driver int) (degrees float64, ok bool) {
	at := m.drivers[driver]
	if at < 0 || !m.coordinates[at].turns {
		return 0, false
	}
	grows := m.growth(driver)
	if grows == nil {
		return 0, false
	}
	for n := 1.0; n <= mostPeriod; n++ {
		if m.repeats(grows, 360*n) {
			return 360 * n, true
		}
	}
	return 0, false
}

// growth is how much each coordinate grows in a degree of a driver, on the whole; nil where a loop does not go around.
func (m *Mechanism) growth(driver int) []float64 {
	in := make([]float64, len(m.coordinates)) // of what is free
	in[m.drivers[driver]] = 1
	for i := range m.groups {
		g := &m.groups[i]
		if len(g.drivers) == 0 || g.drivers[0] != driver {
			continue
		}
		if len(g.drivers) > 1 || len(g.unknown) > 0 && g.table.period == 0 {
			return nil
		}
		for k, c := range g.unknown {
			in[c] = g.table.more[k] / g.table.period
		}
	}
	out := make([]float64, len(m.coordinates))
	for i := range out {
		out[i] = m.follows[i].at(in)
	}
	return out
}

// repeats reports whether everything that grows so in a degree stands as before after some degrees, and every loop has
// come round.
func (m *Mechanism) repeats(grows []float64, degrees float64) bool {
	const near = 1e-6
	for i, g := range grows {
		c := &m.coordinates[i]
		way := g * degrees
		if !c.turns || c.advance != 0 {
			if math.Abs(way) > near {
				return false
			}
			continue
		}
		if math.Abs(math.Remainder(way, 360)) > near {
			return false
		}
	}
	for i := range m.groups {
		if p := m.groups[i].table.period; p > 0 {
			at := m.drivers[m.groups[i].drivers[0]]
			if math.Abs(math.Remainder(grows[at]*degrees, p)) > near {
				return false
			}
		}
	}
	return true
}
