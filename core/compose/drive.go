package compose

import (
	"cmp"
	"errors"
	"fmt"
	"slices"

	"slowreveal/core/assembly"
	"slowreveal/core/edit"
	"slowreveal/core/reveal"
)

// How a hand begins to drive a joint.
const (
	driveTime  = 3 * reveal.Second
	runUp      = reveal.Second
	driveTurn  = 360.0 // degrees
	driveWay   = 10.0  // mm
	driveRate  = 30.0  // rev/min
	driveSpeed = 10.0  // mm/s
)

// drive makes a cue for the joint that the first of the nodes is on. Where something that is driven moves it already, that
// is driven.
func (c *composer) drive() error {
	nodes, err := c.targets()
	if err != nil {
		return err
	}
	j, err := c.JointOf(nodes[0])
	if err != nil {
		return err
	}
	d := reveal.Drive{Joint: j.ID, Slides: !j.Kind.Turns()}
	cue := reveal.Cue{
		Kind: reveal.KindDrive, Targets: []assembly.NodeID{j.Body}, Duration: driveTime, Easing: reveal.Smooth, Drive: &d,
	}
	pick := func(turning, sliding float64) *float64 {
		if d.Slides {
			return &sliding
		}
		return &turning
	}
	switch c.w.Do {
	case AddRun:
		d.Speed, d.RunUp, d.Ongoing = pick(driveRate, driveSpeed), runUp, true
	case AddHalt:
		d.Speed, d.RunUp, d.Ongoing = pick(0, 0), runUp, true
	default:
		d.By = pick(driveTurn, driveWay)
	}
	if d.Speed != nil {
		cue.Easing = reveal.Linear
	}
	return c.new(cue)
}

// How far a joint swings when it begins to; what slides goes as far as when it is driven by hand.
const swing = 30.0 // degrees

// drives are the cues among the named ones that drive a joint, their settings each once.
func (c *composer) drives() ([]reveal.Cue, error) {
	cues, err := c.sources()
	if err != nil {
		return nil, err
	}
	cues = slices.DeleteFunc(cues, func(cue reveal.Cue) bool { return cue.Drive == nil })
	if len(cues) == 0 {
		return nil, errors.New("none of these drives a joint")
	}
	return cues, nil
}

// driveHow has joints driven in another way; how far they went is kept where the new way has a use for it.
func (c *composer) driveHow() error {
	cues, err := c.drives()
	if err != nil {
		return err
	}
	for _, cue := range cues {
		if cue.Drive.How() == c.w.How {
			continue
		}
		d, err := drivenHow(c.w.How, cue.Drive)
		if err != nil {
			return err
		}
		cue.Drive = &d
		c.set(cue)
	}
	return nil
}

// drivenHow is how the joint of a drive begins to be driven in a way.
func drivenHow(how reveal.DriveHow, old *reveal.Drive) (d reveal.Drive, err error) {
	d = reveal.Drive{Joint: old.Joint, Slides: old.Slides}
	pick := func(kept *float64, turning, sliding float64) *float64 {
		switch {
		case kept != nil:
			return kept
		case d.Slides:
			return &sliding
		}
		return &turning
	}
	switch how {
	case reveal.DriveTo:
		d.To = pick(old.By, driveTurn, driveWay)
	case reveal.DriveRuns:
		d.Speed, d.RunUp, d.Ongoing = pick(nil, driveRate, driveSpeed), runUp, true
	case reveal.DriveSwings:
		d.By, d.Swings = pick(old.By, swing, driveWay), 1
	case reveal.DriveBy:
		d.By = pick(cmp.Or(old.By, old.To), driveTurn, driveWay)
	default:
		return d, fmt.Errorf("a joint is not driven by %q", how)
	}
	return d, nil
}

// driveJoint has another joint driven by the cues: as far, unless one of the two turns and the other slides.
func (c *composer) driveJoint() error {
	j := c.Assembly.FindJoint(c.w.Joint)
	if j == nil || !j.Kind.Driven() {
		return errors.New("that joint cannot be driven")
	}
	cues, err := c.drives()
	if err != nil {
		return err
	}
	for _, cue := range cues {
		d := *cue.Drive
		d.Joint = j.ID
		if slides := !j.Kind.Turns(); slides != d.Slides {
			if d, err = drivenHow(d.How(), &reveal.Drive{Joint: j.ID, Slides: slides}); err != nil {
				return err
			}
		}
		cue.Targets, cue.Drive = []assembly.NodeID{j.Body}, &d
		c.set(cue)
	}
	return nil
}

// endRuns gives those of the cues that run on and on an end, where their bars end and so much later, and returns the
// others.
func (c *composer) endRuns() (others []reveal.CueID) {
	for _, id := range c.w.CueIDs {
		step, k := c.r.FindCue(id)
		if step < 0 || c.Film == nil || c.r.Steps[step].Cues[k].Drive == nil || !c.r.Steps[step].Cues[k].Drive.Ongoing {
			others = append(others, id)
			continue
		}
		ended := c.r.Steps[step].Cues[k].Clone()
		for i := range c.Film.Schedule.Bars {
			if b := &c.Film.Schedule.Bars[i]; b.Cue == id && !b.Retraced {
				ended.Duration = max(edit.ShortestDrag, b.Duration+c.w.By)
			}
		}
		ended.Drive.Ongoing = false
		c.add(edit.Command{Op: edit.SetCue, Cue: &ended})
	}
	return others
}

// JointOf is the joint that moves a node, or that it moves with.
func (s *Subject) JointOf(id assembly.NodeID) (*assembly.Joint, error) {
	if len(s.Assembly.Joints) == 0 {
		return nil, errors.New("The assembly has no joints yet. They are made in Prepare.")
	}
	for i, hops := s.Index[id], 0; i >= 0 && hops < maxHops; hops++ {
		j, on := s.jointOfBody(s.Assembly.Nodes[i].ID)
		switch {
		case j != nil:
			return j, nil
		case on != "":
			i = s.Index[on]
		default:
			i = s.Assembly.Nodes[i].Parent
		}
	}
	name := s.Assembly.Nodes[s.Index[id]].Name
	return nil, fmt.Errorf("“%s” is on no joint that can be driven. Joints are made in Prepare.", name)
}

// maxHops is from how many things that are fixed on one another, or in one another, it is gone on.
const maxHops = 200

// jointOfBody is the joint by which a body is driven: one that drives it already, or one of its own. Of what is fixed on
// something it is told what that is.
func (s *Subject) jointOfBody(body assembly.NodeID) (own *assembly.Joint, on assembly.NodeID) {
	for i := range s.Assembly.Joints {
		j := &s.Assembly.Joints[i]
		if j.Body != body {
			continue
		}
		if s.Film != nil && s.Film.Mechanism() != nil {
			if by := s.Film.Mechanism().DriverOf(j.ID); by != "" {
				return s.Assembly.FindJoint(by), ""
			}
		}
		switch {
		case j.Kind == assembly.Fixed:
			on = j.Base
		case j.Kind != assembly.Ball && own == nil:
			own = j
		}
	}
	return own, on
}
