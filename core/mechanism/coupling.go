package mechanism

import (
	"math"
	"slices"

	"slowreveal/core/assembly"
)

// linear is a sum of coordinates, each times a factor.
type linear []term

type term struct {
	coordinate int
	factor     float64
}

func (l linear) plus(o linear, k float64) linear {
	for _, t := range o {
		if at := slices.IndexFunc(l, func(s term) bool { return s.coordinate == t.coordinate }); at >= 0 {
			l[at].factor += k * t.factor
		} else {
			l = append(l, term{t.coordinate, k * t.factor})
		}
	}
	return l
}

func (l linear) at(x []float64) float64 {
	sum := 0.0
	for _, t := range l {
		sum += t.factor * x[t.coordinate]
	}
	return sum
}

// couple finds what couplings say of the coordinates and eliminates those that follow from others.
func (m *Mechanism) couple() {
	m.follows = make([]linear, len(m.coordinates))
	for i := range m.follows {
		m.follows[i] = linear{{i, 1}}
	}
	m.drivers = nil
	given := make([]bool, len(m.coordinates))
	for i, d := range m.Drivers {
		at := -1
		if k := slices.IndexFunc(m.joints, func(j joint) bool { return j.ID == d.Joint }); k >= 0 {
			at = m.joints[k].driven()
		}
		if at >= 0 && given[at] ||
			slices.ContainsFunc(m.Drivers[:i], func(o Driver) bool { return o.Joint == d.Joint }) {
			at = -1
		}
		if at < 0 {
			m.problem(
				d.Joint,
				true,
				"%s cannot be driven: other joints say already where its part is.",
				m.joint(d.Joint),
			)
		} else {
			given[at] = true
		}
		m.drivers = append(m.drivers, at)
	}
	for i := range m.assembly.Couplings {
		c := &m.assembly.Couplings[i]
		if c.Kind == assembly.Cam {
			m.addCam(c)
			continue
		}
		if sum := m.equation(c); sum != nil {
			m.eliminate(c, sum, given)
		}
	}
}

func (m *Mechanism) find(id assembly.JointID) *joint {
	for i := range m.joints {
		if m.joints[i].ID == id {
			return &m.joints[i]
		}
	}
	return nil
}

func (m *Mechanism) joint(id assembly.JointID) string {
	if j := m.find(id); j != nil {
		return j.says()
	}
	return "a joint that is not there"
}

// equation is what a coupling says: a sum that is always 0. It is nil where the coupling says nothing.
func (m *Mechanism) equation(c *assembly.Coupling) linear {
	a, b := m.find(c.Joint), m.find(c.By)
	if c.Kind == assembly.Gear || c.Kind == assembly.Belt {
		return m.wheels(c, a, b)
	}
	x, y := a.driven(), b.driven()
	if x < 0 || y < 0 {
		m.problem(
			c.ID,
			false,
			"“%s” couples a joint that closes a loop or is fixed. Couple another joint of that chain.",
			c.Name,
		)
		return nil
	}
	k := c.Ratio
	switch c.Kind {
	case assembly.Screw:
		k /= 360
	case assembly.Rack:
		// The pinion's teeth move with the rack where they touch.
		rack, pinion := &m.coordinates[x], &m.coordinates[y]
		arm := reject(sub(rack.point, pinion.point), pinion.axis)
		k = math.Pi * c.Sizes[1] / 360
		if dot(cross(pinion.axis, arm), rack.axis) < 0 {
			k = -k
		}
		if c.Ratio < 0 {
			k = -k
		}
	}
	return linear{{x, 1}, {y, -k}}
}

// wheels is what two wheels say of one another: as they turn against what carries the one that hangs farther from the
// frame, the products of teeth and angle are alike (Willis).
func (m *Mechanism) wheels(c *assembly.Coupling, a, b *joint) linear {
	refers := a
	if m.depth(b.body) > m.depth(a.body) {
		refers = b
	}
	axis := m.axisOf(refers)
	carrier := m.angle(refers.base, axis)
	one, other := m.angle(a.body, axis), m.angle(b.body, axis)
	if axis == ([3]float64{}) || carrier == nil || one == nil || other == nil {
		if a.base == b.base && a.driven() >= 0 &&
			b.driven() >= 0 { // bevel, worm and crossed wheels: each about its own axis
			k := -c.Sizes[1] / c.Sizes[0]
			if c.Inner != c.Crossed {
				k = -k
			}
			return linear{{a.driven(), 1}, {b.driven(), -k}}
		}
		m.problem(c.ID, false, "The wheels of “%s” do not turn about parallel axes, nor on the same base.", c.Name)
		return nil
	}
	sense := 1.0 // wheels with outer teeth turn against each other
	if c.Kind == assembly.Gear == c.Inner {
		sense = -1
	}
	if c.Kind == assembly.Belt && c.Crossed {
		sense = 1
	}
	sum := linear{}.plus(*one, c.Sizes[0]).plus(*other, sense*c.Sizes[1])
	return sum.plus(*carrier, -c.Sizes[0]-sense*c.Sizes[1])
}

func (m *Mechanism) depth(body int) (n int) {
	for ; m.parents[body] >= 0; body = m.parents[body] {
		n++
	}
	return n
}

func (m *Mechanism) axisOf(j *joint) [3]float64 {
	at := &m.rest[m.index[j.Body]]
	v := at.R.Apply(unit(j.Axis.Vec()))
	return [3]float64{v.X, v.Y, v.Z}
}

// parallel is how far two axes may lean, as the sine of their angle.
const parallel = 1e-4

// angle is how far a body is turned about an axis, nil where joints on its way turn it about others.
func (m *Mechanism) angle(body int, axis [3]float64) *linear {
	sum := linear{}
	for ; m.parents[body] >= 0; body = m.parents[body] {
		for _, l := range m.ways[body] {
			c := &m.coordinates[l.coordinate]
			if !c.turns {
				continue
			}
			along := c.axis.X*axis[0] + c.axis.Y*axis[1] + c.axis.Z*axis[2]
			if math.Abs(along) < 1-parallel*parallel {
				return nil
			}
			sum = sum.plus(linear{{l.coordinate, 1}}, l.sign*math.Copysign(1, along))
		}
	}
	return &sum
}

// eliminate takes a coordinate out of all others by a sum that is always 0: one that is not given, that of the joint which
// follows where there is one.
func (m *Mechanism) eliminate(c *assembly.Coupling, sum linear, given []bool) {
	left := linear{}
	for _, t := range sum {
		left = left.plus(m.follows[t.coordinate], t.factor)
	}
	most := 0.0
	for _, t := range sum {
		most = max(most, math.Abs(t.factor))
	}
	left = slices.DeleteFunc(left, func(t term) bool { return math.Abs(t.factor) <= 1e-9*most })
	if len(left) == 0 {
		return // it says what others have said
	}
	pivot := -1
	for k, t := range left {
		if !given[t.coordinate] && (pivot < 0 || t.coordinate == m.find(c.Joint).driven()) {
			pivot = k
		}
	}
	if pivot < 0 {
		m.problem(c.ID, false, "“%s” contradicts other couplings, or joints that are driven: it is left out.", c.Name)
		return
	}
	out := left[pivot]
	instead := linear{}
	for k, t := range left {
		if k != pivot {
			instead = append(instead, term{t.coordinate, -t.factor / out.factor})
		}
	}
	for i := range m.follows {
		if at := slices.IndexFunc(m.follows[i], func(t term) bool { return t.coordinate == out.coordinate }); at >= 0 {
			k := m.follows[i][at].factor
			m.follows[i] = slices.Delete(m.follows[i], at, at+1).plus(instead, k)
		}
	}
}
