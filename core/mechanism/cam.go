package mechanism

import (
	"math"
	"sort"

	"slowreveal/core/assembly"
)

// cam is a joint that follows another one by a table.
type cam struct {
	of, by  int // coordinates
	at, to  []float64
	slopes  []float64 // at the table's rows
	turning bool      // it goes on after a revolution
}

// addCam reads a coupling by a table. Between its rows it is a cubic with the rows' mean slopes (Catmull and Rom 1974).
func (m *Mechanism) addCam(c *assembly.Coupling) {
	a, b := m.find(c.Joint), m.find(c.By)
	k := cam{of: a.driven(), by: b.driven()}
	if k.of < 0 || k.by < 0 {
		m.problem(
			c.ID,
			false,
			"“%s” couples a joint that closes a loop or is fixed. Couple another joint of that chain.",
			c.Name,
		)
		return
	}
	for _, row := range c.Table {
		k.at, k.to = append(k.at, row[0]), append(k.to, row[1])
	}
	last := len(k.at) - 1
	k.turning = m.coordinates[k.by].turns && k.at[last]-k.at[0] == 360
	k.slopes = make([]float64, len(k.at))
	for i := range k.at {
		before, after := max(i-1, 0), min(i+1, last)
		k.slopes[i] = (k.to[after] - k.to[before]) / (k.at[after] - k.at[before])
	}
	if k.turning { // the first row and the last are one
		around := (k.to[1] - k.to[0] + k.to[last] - k.to[last-1]) / (k.at[1] - k.at[0] + k.at[last] - k.at[last-1])
		k.slopes[0], k.slopes[last] = around, around
	}
	m.cams = append(m.cams, k)
}

// value is what the table says for a value of what it follows, and how much that grows with it. Before the first row and
// behind the last it keeps still.
func (c *cam) value(v float64) (to, slope float64) {
	last := len(c.at) - 1
	more := 0.0
	if c.turning {
		around := math.Floor((v - c.at[0]) / 360)
		v -= 360 * around
		more = around * (c.to[last] - c.to[0])
	}
	switch {
	case v <= c.at[0]:
		return c.to[0] + more, 0
	case v >= c.at[last]:
		return c.to[last] + more, 0
	}
	i := sort.SearchFloat64s(c.at, v) - 1
	long := c.at[i+1] - c.at[i]
	to, slope = hermite(c.to[i], c.to[i+1], long*c.slopes[i], long*c.slopes[i+1], (v-c.at[i])/long)
	return to + more, slope / long
}

// hermite is the cubic from a to b with slopes there, at u from 0 to 1, and its slope.
func hermite(a, b, atA, atB, u float64) (value, slope float64) {
	d := b - a
	k2, k3 := 3*d-2*atA-atB, atA+atB-2*d
	return a + u*(atA+u*(k2+u*k3)), atA + u*(2*k2+3*u*k3)
}
