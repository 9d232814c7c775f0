package editor

import (
	"errors"
	"fmt"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/mechanism"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// trying is one joint of the resting assembly at other values than at rest.
type trying struct {
	joint     assembly.JointID
	low, high float64
	film      *film.Film // runs from low to high
	frame     *film.Frame
	length    reveal.Micros
}

// tried is how far a joint without limits is tried out, both ways: two turns, or mm.
const (
	triedTurns = 720
	triedWay   = 100
)

// TryJoint sets a joint of the assembly at rest to a value, degrees or mm, with all that follows it; AtRest shows it so.
// An empty joint puts everything back.
func (d *Editor) TryJoint(id assembly.JointID, value float64) error {
	if d.assembly == nil {
		return errClosed
	}
	if id == "" {
		d.tried = nil
		return nil
	}
	j := d.assembly.FindJoint(id)
	if j == nil {
		return fmt.Errorf("there is no joint %q", id)
	}
	t, err := d.tries(j)
	if err != nil {
		return err
	}
	d.tried = t
	t.show(value, t.frame)
	return nil
}

// tries is what a joint is tried out by: the one that is, where it is of the joint.
func (d *Editor) tries(j *assembly.Joint) (*trying, error) {
	if d.tried != nil && d.tried.joint == j.ID {
		return d.tried, nil
	}
	return d.try(j)
}

// show brings a frame to where the joint has a value.
func (t *trying) show(value float64, fr *film.Frame) {
	share := (max(t.low, min(value, t.high)) - t.low) / (t.high - t.low)
	t.film.At(1+reveal.Micros(share*float64(t.length)+0.5), fr)
}

// try makes a film in which a joint goes through all of its values.
func (d *Editor) try(j *assembly.Joint) (*trying, error) {
	t := &trying{joint: j.ID}
	t.low, t.high = rangeOf(j)
	if t.low >= t.high {
		return nil, errors.New("its limits leave it no way to go")
	}
	t.length = reveal.Micros((t.high - t.low) * float64(reveal.Second))
	t.length = min(t.length, reveal.MaxDuration-1)
	way, slides := t.high-t.low, !j.Kind.Turns()
	r := reveal.New("At rest", reveal.Camera{Orientation: space.NoRotation, Distance: 500, FocalLength: 50})
	cue := func(id reveal.CueID, at, length reveal.Micros, drive reveal.Drive) reveal.Cue {
		drive.Joint, drive.Slides = j.ID, slides
		return reveal.Cue{
			ID: id, Kind: reveal.KindDrive, Targets: []assembly.NodeID{j.Body}, Offset: at, Duration: length,
			Easing: reveal.Linear, Drive: &drive,
		}
	}
	r.Steps = []reveal.Step{{ID: "try", Title: "try", Duration: t.length + 1, Cues: []reveal.Cue{
		cue("low", 0, 1, reveal.Drive{To: &t.low}), cue("way", 1, t.length, reveal.Drive{By: &way}),
	}}}
	if err := reveal.Validate(r, d.assembly); err != nil {
		return nil, fmt.Errorf("it cannot be driven: %w", err)
	}
	t.film = film.Compile(d.assembly, r)
	t.frame = t.film.NewFrame()
	return t, nil
}

// rangeOf is how far a joint is tried out.
func rangeOf(j *assembly.Joint) (low, high float64) {
	way := float64(triedTurns)
	if !j.Kind.Turns() {
		way = triedWay
	}
	low, high = j.Rest-way, j.Rest+way
	if j.Min != nil {
		low = *j.Min
	}
	if j.Max != nil {
		high = *j.Max
	}
	return low, high
}

// JointsNow is what the joints of the assembly stand at while one of them is tried out.
type JointsNow struct {
	Joints []JointNow `json:"joints"`
	// Problems are joints and couplings without effect, Ends where the one that is tried out can go no farther.
	Problems []mechanism.Problem `json:"problems"`
	Ends     []mechanism.End     `json:"ends"`
}

// JointNow is what a joint stands at: degrees, or mm of what slides. Driven says that it can be given a value, from Low
// to High.
type JointNow struct {
	ID     assembly.JointID `json:"id"`
	Value  float64          `json:"value"`
	Low    float64          `json:"low"`
	High   float64          `json:"high"`
	Driven bool             `json:"driven"`
	Slides bool             `json:"slides"`
	// Axis is a piece of its axis, in the world.
	Axis [2]space.Vec3 `json:"axis"`
}

func (d *Editor) joints(nothing) (JointsNow, error) {
	now := JointsNow{Joints: []JointNow{}, Problems: []mechanism.Problem{}, Ends: []mechanism.End{}}
	var m *mechanism.Mechanism
	if d.tried != nil {
		m = d.tried.film.Mechanism()
	} else {
		m = mechanism.New(d.assembly, nil)
	}
	now.Problems, now.Ends = append(now.Problems, m.Problems...), append(now.Ends, m.Ends...)
	for i := range d.assembly.Joints {
		j := &d.assembly.Joints[i]
		n := JointNow{ID: j.ID, Value: j.Rest, Driven: j.Kind.Driven(), Slides: !j.Kind.Turns()}
		n.Low, n.High = rangeOf(j)
		if d.tried != nil {
			if v, ok := d.tried.film.Joint(j.ID, d.tried.frame); ok {
				n.Value = v
			}
		}
		n.Axis = d.axisOf(j)
		now.Joints = append(now.Joints, n)
	}
	return now, nil
}

// axisOf is a piece of a joint's axis, somewhat longer than its body, as that stands on the stage at rest.
func (d *Editor) axisOf(j *assembly.Joint) [2]space.Vec3 {
	fr := d.rest()
	if d.tried != nil {
		fr = d.tried.frame
	}
	i := d.index[j.Body]
	box := d.boxes[i].Size()
	reach := 0.7*max(box.X, box.Y, box.Z, 10) + 5
	at, _ := space.Normalize(j.Axis.Vec())
	end := func(k float64) space.Vec3 {
		return space.Vec3Of(fr.World[i].Apply(r3.Add(j.Point.Vec(), r3.Scale(k*reach, at))))
	}
	return [2]space.Vec3{end(-1), end(1)}
}

// OfJoint asks for a joint's values between two times of the film, so many of them.
type OfJoint struct {
	Joint assembly.JointID `json:"joint"`
	From  reveal.Micros    `json:"from"`
	To    reveal.Micros    `json:"to"`
	Count int              `json:"count"`
	// Cue is a drive of the joint of which it is asked how it goes through a period; none without one.
	Cue reveal.CueID `json:"cue,omitempty"`
}

// Driven is how a joint goes: its values, and how fast, degrees or mm in a second. Problems and Ends are those of the
// whole mechanism.
type Driven struct {
	Values []float64 `json:"values"`
	Speeds []float64 `json:"speeds"`
	// Accelerations are degrees or mm in a second, in a second.
	Accelerations []float64           `json:"accelerations"`
	Problems      []mechanism.Problem `json:"problems"`
	Ends          []mechanism.End     `json:"ends"`
	// Loop is how the cue that is asked of goes through a period of the mechanism.
	Loop *reveal.Loop `json:"loop,omitempty"`
}

// mostSamples bounds how many values of a joint are asked for at once.
const mostSamples = 1000

// periodOf is after how many degrees of a joint everything that it drives stands as before, 0 where it does not.
func periodOf(m *mechanism.Mechanism, joint assembly.JointID) (degrees float64) {
	for i := range m.Drivers {
		if m.Drivers[i].Joint == joint {
			degrees, _ = m.Period(i)
		}
	}
	return degrees
}

// Round is how long, µs, it takes what runs in the film until all stands as before; or, where Whole is false, until what
// is driven has turned once, as the film is too short for all.
type Round struct {
	Takes reveal.Micros `json:"takes"`
	Whole bool          `json:"whole"`
}

// round is that of the first drive that runs and comes round within the film; nil where there is none.
func (d *Editor) round(nothing) (*Round, error) {
	m := d.film.Mechanism()
	if m == nil {
		return nil, nil
	}
	for i := range d.reveal.Steps {
		for k := range d.reveal.Steps[i].Cues {
			drive := d.reveal.Steps[i].Cues[k].Drive
			if drive == nil || drive.Slides || drive.Rate() == 0 {
				continue
			}
			if l := drive.Loop(periodOf(m, drive.Joint)); l != nil && l.Takes <= d.film.Duration() {
				return &Round{l.Takes, true}, nil
			}
			if turn := drive.Loop(360); turn.Takes <= d.film.Duration() {
				return &Round{Takes: turn.Takes}, nil
			}
		}
	}
	return nil, nil
}

// Strip is so many moments that follow one another evenly, µs: from one on, over a length of time.
type Strip struct {
	Count int           `json:"count"`
	From  reveal.Micros `json:"from"`
	Over  reveal.Micros `json:"over"`
}

// strip is a strip to begin with: six moments over one round of the mechanism, or over two seconds, from a moment on as
// far as the film is long enough.
func (d *Editor) strip(q Moment) (Strip, error) {
	over := 2 * reveal.Second
	if r, err := d.round(nothing{}); err != nil {
		return Strip{}, err
	} else if r != nil {
		over = r.Takes
	}
	over = min(over, d.film.Duration())
	return Strip{6, max(0, min(q.Time, d.film.Duration()-over)), over}, nil
}

func (d *Editor) driven(q OfJoint) (Driven, error) {
	out := Driven{
		Values: []float64{}, Speeds: []float64{}, Accelerations: []float64{}, Problems: []mechanism.Problem{}, Ends: []mechanism.End{},
	}
	m := d.film.Mechanism()
	if m == nil || q.To <= q.From {
		return out, nil
	}
	out.Problems, out.Ends = append(out.Problems, m.Problems...), append(out.Ends, m.Ends...)
	if step, k := d.reveal.FindCue(q.Cue); k >= 0 {
		if cue := &d.reveal.Steps[step].Cues[k]; cue.Drive != nil {
			out.Loop = cue.Drive.Loop(periodOf(m, q.Joint))
		}
	}
	n := max(2, min(q.Count, mostSamples))
	fr := d.film.NewFrame()
	at := func(t reveal.Micros) float64 {
		d.film.At(t, fr)
		v, _ := d.film.Joint(q.Joint, fr)
		return v
	}
	const h = reveal.Second / 200
	for i := range n {
		t := q.From + reveal.Micros(float64(q.To-q.From)*float64(i)/float64(n-1))
		before, after := max(t-h, 0), min(t+h, d.film.Duration())
		out.Values = append(out.Values, at(t))
		speed, acceleration := 0.0, 0.0
		if after > before {
			long := float64(after-before) / float64(reveal.Second)
			first, last := at(before), at(after)
			speed = (last - first) / long
			if after-t == t-before {
				acceleration = (first - 2*out.Values[i] + last) / (long * long / 4)
			}
		}
		out.Speeds = append(out.Speeds, speed)
		out.Accelerations = append(out.Accelerations, acceleration)
	}
	return out, nil
}

// NewJoint are the nodes of a joint, what moves first, and the id that it gets.
type NewJoint struct {
	Nodes []assembly.NodeID `json:"nodes"`
	ID    assembly.JointID  `json:"id"`
}

// newJoint is a joint of a node on another one, or on the whole assembly, to begin with: what the shapes offer where they
// offer something, or else about the Z axis of what moves, through its middle.
func (d *Editor) newJoint(q NewJoint) (assembly.Joint, error) {
	if len(q.Nodes) == 0 || len(q.Nodes) > 2 {
		return assembly.Joint{}, errors.New("Pick what moves first, and then what it moves on; or what moves alone.")
	}
	i, ok := d.index[q.Nodes[0]]
	if !ok || i == 0 {
		return assembly.Joint{}, errors.New("The whole assembly stands still. Pick a part or a group in it.")
	}
	j := assembly.Joint{
		ID: q.ID, Name: d.assembly.Nodes[i].Name, Kind: assembly.Revolute, Body: q.Nodes[0], Base: d.assembly.Nodes[0].ID,
		Axis: space.Vec3{0, 0, 1}, Point: space.Vec3Of(d.boxes[i].Centre()),
	}
	if len(q.Nodes) == 2 {
		j.Base = q.Nodes[1]
	}
	if d.survey == nil {
		return j, nil
	}
	for _, f := range d.survey.Mechanism.Joints {
		if f.Body == j.Body && f.Kind != assembly.Fixed {
			j.Kind, j.Axis, j.Point = f.Kind, f.Axis, f.Point
			if f.Base == j.Base || len(q.Nodes) == 1 {
				j.Base = f.Base
				break
			}
		}
	}
	return j, nil
}
