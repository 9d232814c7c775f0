package film

import (
	"cmp"
	"slices"
	"sync"

	"slowreveal/core/assembly"
	"slowreveal/core/mechanism"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// drives are the joints that a reveal drives, and what follows from them.
type drives struct {
	mechanism *mechanism.Mechanism
	joints    []driven
	leavers   []leaver // what leaves it by cues
	chains    []chain  // what is left of it, by the time from which it holds
	// bodies are, by node, the bodies of the mechanism; 0 for a node that moves with what holds it.
	bodies []int32
	under  []space.Rigid // by node: the pose at rest of what holds a body, in the world
	// pieces are those of the period of the only driver, followed first when a proof asks: an edit need not wait for it.
	pieces func() pieces
}

// driven is a joint and what cues do to it, in document order.
type driven struct {
	joint assembly.JointID
	rest  float64
	acts  []drivenBy
}

// drivenBy is what one cue does to a joint: its track's progress is in the joint's own units unless it comes to a value.
type drivenBy struct {
	track int
	to    *float64
}

// addDrive gives a cue's joint to what is driven. It changes the track, whose progress is then a way.
func (f *Film) addDrive(d *reveal.Drive, bar *Bar, t *track) {
	drive := &f.drive
	at := slices.IndexFunc(drive.joints, func(j driven) bool { return j.joint == d.Joint })
	if at < 0 {
		j := f.Assembly.FindJoint(d.Joint)
		if j == nil {
			return
		}
		at = len(drive.joints)
		drive.joints = append(drive.joints, driven{joint: d.Joint, rest: j.Rest})
	}
	if d.To == nil {
		t.curve.profile = newProfile(d, t.duration)
		if t.curve.profile.before = bar.before; bar.handsOver {
			t.curve.profile.down = 0
		}
	}
	drive.joints[at].acts = append(drive.joints[at].acts, drivenBy{track: len(f.tracks) - 1, to: d.To})
}

// goOn gives what runs on and on its length: until its joint is driven otherwise, or to the end. What is run backwards
// later keeps the length that it has, and one that another speed follows hands its own over.
func (f *Film) goOn() {
	var runs []*Bar
	for i := range f.Schedule.Bars {
		if b := &f.Schedule.Bars[i]; b.Kind == reveal.KindDrive && !b.Retraced && !b.Muted {
			runs = append(runs, b)
		}
	}
	slices.SortStableFunc(runs, func(a, b *Bar) int { return cmp.Compare(a.Start, b.Start) })
	for i, b := range runs {
		if !b.cue.Drive.Ongoing || b.back != nil {
			continue
		}
		end := f.Schedule.Duration
		for _, o := range runs[i+1:] {
			if o.cue.Drive.Joint == b.cue.Drive.Joint {
				end = o.Start
				if o.cue.Drive.Speed != nil {
					o.before = b.cue.Drive.Rate()
					b.handsOver = true
				}
				break
			}
		}
		b.Duration = max(end-b.Start, reveal.MinCueDuration)
	}
}

// findDriven makes the mechanism of what is driven.
func (f *Film) findDriven(index map[assembly.NodeID]int) {
	d := &f.drive
	if len(d.joints) == 0 {
		return
	}
	var drivers []mechanism.Driver
	for i := range d.joints {
		low, high := f.driverRange(&d.joints[i])
		drivers = append(drivers, mechanism.Driver{Joint: d.joints[i].joint, From: low, To: high})
	}
	d.mechanism = mechanism.New(f.Assembly, drivers)
	d.leavers = f.findLeavers(index)
	f.findChains()
	d.pieces = sync.OnceValue(f.findPieces)
	nodes := f.Assembly.Nodes
	d.bodies, d.under = make([]int32, len(nodes)), make([]space.Rigid, len(nodes))
	worlds := f.Assembly.Worlds()
	for body, node := range d.mechanism.Bodies {
		if body > 0 {
			d.bodies[node] = int32(body)
			d.under[node] = worlds[nodes[node].Parent]
		}
	}
}

// driverRange bounds the values that cues can give a joint.
func (f *Film) driverRange(j *driven) (low, high float64) {
	low, high = j.rest, j.rest
	for _, a := range j.acts {
		if a.to != nil {
			low, high = min(low, *a.to), max(high, *a.to)
			if f.tracks[a.track].curve.overshoots() {
				way := high - low
				low, high = low-way, high+way
			}
			continue
		}
		least, most := f.tracks[a.track].curve.bounds()
		low, high = low+min(least, 0), high+max(most, 0)
	}
	return low, high
}

// driverValues are what the cues' progress has the drivers at.
func (f *Film) driverValues(progress, values []float64) {
	for i := range f.drive.joints {
		j := &f.drive.joints[i]
		v := j.rest
		for _, a := range j.acts {
			if u := progress[a.track]; a.to != nil {
				v = mix(v, *a.to, u)
			} else {
				v += u
			}
		}
		values[i] = v
	}
}

// driveTo brings the mechanism to where the cues' progress at a film time, µs, has its drivers.
func (f *Film) driveTo(t float64, progress, values []float64, r *running) {
	f.driverValues(progress, values)
	f.runIn(f.chainAt(t), t, values, r)
}

// seat is the pose of a node in its parent before its own cues act: at rest, or where what is driven has brought it.
func (f *Film) seat(i int, s *running) space.Rigid {
	if s == nil || f.drive.bodies[i] == 0 {
		return f.rest[i]
	}
	moved, carried := &s.Moved[f.drive.bodies[i]], &s.Moved[f.drive.mechanism.Body(f.Assembly.Nodes[i].Parent)]
	if *moved == *carried {
		return f.rest[i]
	}
	// In the parent's axes: under⁻¹ · carried⁻¹ · moved · under.
	under := &f.drive.under[i]
	at := carried.Mul(under)
	back := at.Inverse()
	there := moved.Mul(under)
	by := back.Mul(&there)
	return by.Mul(&f.rest[i])
}

// drivenAt reports whether a mechanism moves a node against what holds it.
func (f *Film) drivenAt(i int) bool { return f.drive.mechanism != nil && f.drive.bodies[i] != 0 }

// DrivenNodes are the nodes that move because joints are driven, with what is in them.
func (f *Film) DrivenNodes() (list []assembly.NodeID) {
	m := f.drive.mechanism
	if m == nil {
		return nil
	}
	for body, node := range m.Bodies {
		if body > 0 && m.Follows(body) {
			list = append(list, f.Assembly.Nodes[node].ID)
		}
	}
	return list
}

// Mechanism is what the reveal drives, nil where it drives nothing.
func (f *Film) Mechanism() *mechanism.Mechanism { return f.drive.mechanism }

// Joint returns what a joint stands at in a frame: degrees, or mm of what slides. ok is false where nothing drives it.
func (f *Film) Joint(id assembly.JointID, fr *Frame) (value float64, ok bool) {
	if f.drive.mechanism == nil {
		return 0, false
	}
	return f.drive.chains[fr.driven.chain].m.Value(id, fr.driven.part())
}
