package film

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/mechanism"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// chain is what is left of the mechanism from a time on, because parts have left it. The first one is the whole.
type chain struct {
	from    float64 // film time, µs
	m       *mechanism.Mechanism
	drivers []int // of m: which of the film's joints that are driven
	held    []mechanism.Held
	// stands says, for each body of the whole mechanism, where it is.
	stands []standing
}

// standing is how a body moves in what is left of a mechanism: as a body of it, against another body of the whole.
type standing struct {
	body int32 // of what is left, −1 where it is none
	on   int32 // of the whole: what it is carried by; 0 for what stands still
	// at is where it stands against that; spin goes on from there.
	at   space.Rigid
	spin spin
}

// spin is how something goes on by itself: about an axis, and along it.
type spin struct {
	pivot, axis space.Vec // in the frame of what carries it, at rest
	rate, slide float64   // degrees and mm in a µs
	from        float64   // film time
	stop        float64   // µs until it stands still; infinite where it goes on
	back        *reversal // runs it back; nil for nothing
}

// leaver is something that leaves the chain for a time.
type leaver struct {
	node     int
	how      reveal.Leaving
	from, to float64 // film times; to is infinite where it does not come back
	coasts   float64 // µs
	back     *reversal
}

// running is what is driven at a moment: Moved is what is seen of the whole mechanism.
type running struct {
	*mechanism.State
	parts  []*mechanism.State // of what is left, by chain; the first is State
	values []float64          // work space
	chain  int
}

func (f *Film) newRunning() *running {
	r := &running{State: f.drive.mechanism.NewState(), values: make([]float64, len(f.drive.joints))}
	r.parts = append(r.parts, r.State)
	for _, c := range f.drive.chains[1:] {
		r.parts = append(r.parts, c.m.NewState())
	}
	return r
}

// copyFrom makes r stand as o does.
func (r *running) copyFrom(o *running) {
	r.chain = o.chain
	for i := range r.parts {
		r.parts[i].Copy(o.parts[i])
	}
}

// part is the state of what is left of the mechanism.
func (r *running) part() *mechanism.State { return r.parts[r.chain] }

// chainAt is which chain holds at a film time.
func (f *Film) chainAt(t float64) int {
	k := len(f.drive.chains) - 1
	for k > 0 && f.drive.chains[k].from > t {
		k--
	}
	return k
}

// findLeavers finds what leaves the mechanism by cues.
func (f *Film) findLeavers(index map[assembly.NodeID]int) (list []leaver) {
	for i := range f.Schedule.Bars {
		b := &f.Schedule.Bars[i]
		if b.Muted || b.Retraced || b.cue.Leaves == "" {
			continue
		}
		l := leaver{
			how:    b.cue.Leaves,
			from:   float64(b.Start),
			to:     math.Inf(1),
			coasts: float64(b.cue.Duration),
			back:   b.back,
		}
		if b.back != nil {
			l.to = b.back.at + (b.back.forward-l.from)/b.back.speed
		}
		for k, t := range b.cue.Targets {
			one := l
			one.node, one.from = index[t], l.from+float64(k)*float64(b.cue.Stagger)
			list = append(list, one)
		}
	}
	return list
}

// findChains works out what is left of the mechanism when parts leave it, and when they have come back.
func (f *Film) findChains() {
	d := &f.drive
	d.chains = []chain{{from: math.Inf(-1), m: d.mechanism}}
	var times []float64
	for _, l := range d.leavers {
		times = append(times, l.from)
		if !math.IsInf(l.to, 1) {
			times = append(times, l.to)
		}
	}
	slices.Sort(times)
	for _, t := range slices.Compact(times) {
		var gone []leaver
		for _, l := range d.leavers {
			if l.from <= t && t < l.to && l.from < l.to {
				gone = append(gone, l)
			}
		}
		d.chains = append(d.chains, f.chainWithout(gone, t))
	}
}

// chainWithout is the mechanism from a time on, without what has left it by then.
func (f *Film) chainWithout(gone []leaver, from float64) chain {
	d := &f.drive
	if len(gone) == 0 {
		return chain{from: from, m: d.mechanism}
	}
	with := f.with(gone)
	a, joints := *f.Assembly, map[assembly.JointID]int{} // by joint: what it is in, −1 where it goes
	index := a.Index()
	a.Joints = slices.DeleteFunc(slices.Clone(a.Joints), func(j assembly.Joint) bool {
		joints[j.ID] = with[index[j.Body]]
		if with[index[j.Base]] != joints[j.ID] {
			joints[j.ID] = -1
		}
		return joints[j.ID] < 0
	})
	a.Couplings = slices.DeleteFunc(slices.Clone(a.Couplings), func(c assembly.Coupling) bool {
		return joints[c.Joint] < 0 || joints[c.Joint] != joints[c.By]
	})
	c := chain{from: from}
	var drivers []mechanism.Driver
	for i, driver := range d.mechanism.Drivers {
		if joints[driver.Joint] >= 0 {
			drivers, c.drivers = append(drivers, driver), append(c.drivers, i)
		}
	}
	c.m = mechanism.New(&a, drivers)
	before, earlier := f.newRunning(), f.newRunning()
	f.runTo(len(d.chains)-1, from, before)
	f.runTo(len(d.chains)-1, from-moment, earlier)
	f.hold(&c, before)
	f.stand(&c, gone, with, before, earlier)
	return c
}

// moment is the time, µs, over which it is measured how fast something is that leaves.
const moment = 1000

// with says of each node with which of those that leave it goes, counted from 1; 0 for none.
func (f *Film) with(gone []leaver) []int {
	with := make([]int, len(f.Assembly.Nodes))
	for i := range with {
		if p := f.Assembly.Nodes[i].Parent; p >= 0 {
			with[i] = with[p]
		}
		for k, l := range gone {
			if l.node == i {
				with[i] = k + 1
			}
		}
	}
	return with
}

// hold keeps joints that nothing drives any more where they stood.
func (f *Film) hold(c *chain, before *running) {
	last := &f.drive.chains[before.chain]
	for i := range f.Assembly.Joints {
		j := &f.Assembly.Joints[i]
		first, n := c.m.Coordinates(j.ID)
		was, m := last.m.Coordinates(j.ID)
		for k := range n {
			if !c.m.Free(first + k) {
				continue
			}
			value := 0.0
			if k < m {
				value = before.part().Coordinate(was + k)
			} else if v, ok := last.m.Value(j.ID, before.part()); ok && n == 1 {
				value = v - j.Rest // it closed a loop
			}
			c.held = append(c.held, mechanism.Held{Coordinate: first + k, Value: value})
		}
	}
}

// stand says of each body of the whole mechanism where it is in what is left.
func (f *Film) stand(c *chain, gone []leaver, with []int, before, earlier *running) {
	whole := f.drive.mechanism
	left := map[int]int32{}
	for body, node := range c.m.Bodies {
		left[node] = int32(body)
	}
	c.stands = make([]standing, len(whole.Bodies))
	for b, node := range whole.Bodies {
		if b == 0 {
			continue
		}
		s := &c.stands[b]
		s.body, s.at = -1, space.Identity
		s.on = int32(whole.Body(f.Assembly.Nodes[node].Parent))
		k := with[node]
		if body, is := left[node]; is && (k == 0 || gone[k-1].node != node) {
			if s.body, s.on = body, 0; k > 0 {
				s.on = int32(whole.Body(gone[k-1].node))
			}
			continue
		}
		leaves := k > 0 && gone[k-1].node == node
		if last := &f.drive.chains[before.chain]; leaves && gone[k-1].from < c.from && last.stands != nil {
			*s = last.stands[b] // it goes on as it did, whatever leaves after it
			continue
		}
		s.at = against(before, s.on, b)
		if leaves && gone[k-1].how != reveal.LeavesStopping {
			l := &gone[k-1]
			s.spin = spinOf(against(earlier, s.on, b), s.at)
			s.spin.from, s.spin.stop, s.spin.back = l.from, math.Inf(1), l.back
			if l.how == reveal.LeavesCoasting {
				s.spin.stop = l.coasts
			}
		}
	}
}

// against is where one body stands against another one, both as displacements from rest.
func against(r *running, on int32, body int) space.Rigid {
	back := r.Moved[on].Inverse()
	return back.Mul(&r.Moved[body])
}

// spinOf is how fast something turns and slides that came from one place to another in a moment.
func spinOf(from, to space.Rigid) (s spin) {
	back := from.Inverse()
	by := to.Mul(&back)
	twist := by.R.Twist()
	sine := r3.Norm(twist) / 2
	if sine < 1e-12 {
		if way := r3.Norm(by.T); way > 0 {
			s.axis, s.slide = r3.Scale(1/way, by.T), way/moment
		}
		return s
	}
	angle := by.R.Angle()
	s.axis = r3.Scale(1/(2*sine), twist)
	pivot, along := by.Screw(s.axis, angle)
	s.pivot, s.rate, s.slide = pivot, angle*180/math.Pi/moment, along/moment
	return s
}

// way is how far it has gone since it left, µs at its first speed; it goes back as what moved it is run backwards.
func (s *spin) way(t float64) float64 {
	if s.back == nil || t <= s.back.at {
		return s.forwards(t)
	}
	shown := s.back.forward - (t-s.back.at)*s.back.speed
	if math.IsInf(s.stop, 1) {
		return s.forwards(s.back.at) * max(0, shown-s.from) / (s.back.forward - s.from)
	}
	return s.forwards(shown)
}

func (s *spin) forwards(t float64) float64 {
	passed := max(0, t-s.from)
	if math.IsInf(s.stop, 1) {
		return passed
	}
	passed = min(passed, s.stop)
	return passed - passed*passed/(2*s.stop)
}

// moved is what it has done by a film time.
func (s *spin) moved(t float64) space.Rigid {
	way := s.way(t)
	r := space.Rigid{R: space.AxisAngle(s.axis, s.rate*way)}
	r.T = r3.Add(r3.Sub(s.pivot, r.Apply(s.pivot)), r3.Scale(s.slide*way, s.axis))
	return r
}

// spinning are the bodies of the whole mechanism that go on by themselves and move one of two others against the other.
func (c *chain) spinning(a, b int) (list []int32) {
	if c.stands == nil {
		return nil
	}
	for _, body := range []int32{int32(a), int32(b)} {
		for ; body > 0; body = c.stands[body].on {
			if c.stands[body].spin.still() {
				continue
			}
			if at := slices.Index(list, body); at >= 0 {
				list = slices.Delete(list, at, at+1) // it carries both
			} else {
				list = append(list, body)
			}
		}
	}
	return list
}

func (s *spin) still() bool { return s.rate == 0 && s.slide == 0 }

// runIn brings what a chain leaves to where the drivers have their values, and shows it.
func (f *Film) runIn(k int, t float64, values []float64, r *running) {
	r.chain = k
	c := &f.drive.chains[k]
	if c.stands == nil {
		f.drive.mechanism.At(values, r.State)
		r.parts[k].Copy(r.State)
		return
	}
	for i, d := range c.drivers {
		r.values[i] = values[d]
	}
	c.m.AtHolding(r.values[:len(c.drivers)], c.held, r.parts[k])
	f.show(t, r)
}

// show puts what is left of the mechanism into what is seen of the whole.
func (f *Film) show(t float64, r *running) {
	c := &f.drive.chains[r.chain]
	for b := 1; b < len(c.stands); b++ {
		s := &c.stands[b]
		on := &r.Moved[s.on]
		if s.body >= 0 {
			r.Moved[b] = on.Mul(&r.part().Moved[s.body])
			continue
		}
		at := s.at
		if !s.spin.still() {
			by := s.spin.moved(t)
			at = by.Mul(&at)
		}
		r.Moved[b] = on.Mul(&at)
	}
}

// runTo brings what is driven to a film time, as a chain has it.
func (f *Film) runTo(k int, t float64, r *running) {
	progress := make([]float64, len(f.tracks))
	for i := range f.tracks {
		progress[i] = f.tracks[i].progress(t)
	}
	values := make([]float64, len(f.drive.joints))
	f.driverValues(progress, values)
	f.runIn(k, t, values, r)
}

// Stopped are the nodes that stand still from a movement on because what it moves leaves what drives them; those that
// leave are not among them.
func (f *Film) Stopped(cue reveal.CueID) (list []assembly.NodeID) {
	at, there := f.bars[cue]
	if !there || f.drive.mechanism == nil || f.Schedule.Bars[at].cue.Leaves == "" {
		return nil
	}
	bar := &f.Schedule.Bars[at]
	k := f.chainAt(float64(bar.Start))
	if k == 0 {
		return nil
	}
	c, before := &f.drive.chains[k], &f.drive.chains[k-1]
	index := f.Assembly.Index()
	out := make([]bool, len(f.Assembly.Nodes))
	for _, t := range bar.cue.Targets {
		out[index[t]] = true
	}
	for b, node := range f.drive.mechanism.Bodies {
		if p := f.Assembly.Nodes[node].Parent; p >= 0 && out[p] {
			out[node] = true
		}
		if b > 0 && !out[node] && f.drivenIn(before, b) && !f.drivenIn(c, b) {
			list = append(list, f.Assembly.Nodes[node].ID)
		}
	}
	return list
}

// InChain reports whether nodes, or what is in them, are driven, or drive something.
func (f *Film) InChain(nodes []assembly.NodeID) bool {
	if f.drive.mechanism == nil {
		return false
	}
	gone := make([]leaver, len(nodes))
	index := f.Assembly.Index()
	for i, id := range nodes {
		gone[i].node = index[id]
	}
	with := f.with(gone)
	follows := func(id assembly.NodeID) bool {
		body := f.drive.mechanism.Body(index[id])
		return body > 0 && f.drive.mechanism.Follows(body)
	}
	return slices.ContainsFunc(f.Assembly.Joints, func(j assembly.Joint) bool {
		return (with[index[j.Body]] > 0 || with[index[j.Base]] > 0) && (follows(j.Body) || follows(j.Base))
	})
}

// drivenIn reports whether a body of the whole mechanism moves in a chain.
func (f *Film) drivenIn(c *chain, body int) bool {
	if c.stands == nil {
		return c.m.Follows(body)
	}
	s := &c.stands[body]
	return s.body >= 0 && c.m.Follows(int(s.body)) || s.on > 0 && f.drivenIn(c, int(s.on))
}
