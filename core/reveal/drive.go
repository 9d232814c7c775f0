package reveal

import (
	"math"

	"slowreveal/core/assembly"
)

// Drive sets a joint to a value, turns or slides it by an amount, or has it run. What is coupled to the joint, and what
// stands in a loop with it, follows. Its one target is the joint's body. Values are degrees, or mm of what slides.
type Drive struct {
	Joint assembly.JointID `json:"joint"`
	// Exactly one of these is set: the value that the joint comes to, how far it goes from where it is, or how fast it
	// runs, in revolutions a minute or mm in a second.
	To    *float64 `json:"to,omitempty"`
	By    *float64 `json:"by,omitempty"`
	Speed *float64 `json:"speed,omitempty"`
	// Swings is how often it goes by the amount and comes back, as smoothly as a pendulum.
	Swings int `json:"swings,omitempty"`
	// RunUp and RunDown are how long what runs takes to come to its speed and to a stop; the cue's easing has no say.
	RunUp   Micros `json:"runUp,omitempty"`
	RunDown Micros `json:"runDown,omitempty"`
	// Ongoing lets it run beyond the cue's own length, until the joint is driven otherwise or the film ends.
	Ongoing bool `json:"ongoing,omitempty"`
	// Slides says that the joint's values are mm.
	Slides bool `json:"slides,omitempty"`
}

// DriveHow is in which of four ways a joint is driven.
type DriveHow string

// The ways to drive a joint.
const (
	DriveBy     DriveHow = "by"     // on by so much
	DriveTo     DriveHow = "to"     // to a value
	DriveRuns   DriveHow = "runs"   // at a speed
	DriveSwings DriveHow = "swings" // there and back
)

// How says in which way it drives.
func (d *Drive) How() DriveHow {
	switch {
	case d.To != nil:
		return DriveTo
	case d.Speed != nil:
		return DriveRuns
	case d.Swings > 0:
		return DriveSwings
	}
	return DriveBy
}

// Unit is that of the joint's values.
func (d *Drive) Unit() string {
	if d.Slides {
		return " mm"
	}
	return "°"
}

// Rate is how fast what runs goes, degrees or mm in a second.
func (d *Drive) Rate() float64 {
	switch {
	case d.Speed == nil:
		return 0
	case d.Slides:
		return *d.Speed
	}
	return 6 * *d.Speed
}

// Loop is how a drive goes through a period of its mechanism, after which all stands as before.
type Loop struct {
	// Turns are those of the joint in a period.
	Turns float64 `json:"turns"`
	// Takes is how long a period takes at full speed, µs; 0 of what does not run.
	Takes Micros `json:"takes,omitempty"`
	// By is the amount of whole periods, degrees, that is nearest to the one that it goes by; 0 where it goes otherwise.
	By float64 `json:"by,omitempty"`
}

// Loop is how it goes through a period of so many degrees of its joint; nil where there is none.
func (d *Drive) Loop(period float64) *Loop {
	if period <= 0 || d.Slides {
		return nil
	}
	l := &Loop{Turns: period / 360}
	if rate := math.Abs(d.Rate()); rate > 0 {
		l.Takes = Micros(math.Round(period / rate * float64(Second)))
	}
	if d.How() == DriveBy && d.By != nil {
		l.By = math.Copysign(max(1, math.Round(math.Abs(*d.By)/period))*period, *d.By)
	}
	return l
}

// Label is what it does.
func (d *Drive) Label() string {
	switch {
	case d.To != nil:
		return "to " + Number(*d.To) + d.Unit()
	case d.By != nil && d.Swings > 0:
		return Number(float64(d.Swings)) + " × ±" + Number(*d.By) + d.Unit()
	case d.By != nil && !d.Slides && math.Abs(*d.By) >= 720 && math.Mod(*d.By, 360) == 0:
		return Number(*d.By/360) + " turns"
	case d.By != nil:
		return Number(*d.By) + d.Unit()
	case d.Speed == nil:
		return ""
	case *d.Speed == 0:
		return "stop"
	case d.Slides:
		return Number(*d.Speed) + " mm/s"
	}
	return Number(*d.Speed) + " rev/min"
}

func (d *Drive) clone() Settings {
	own := *d
	for _, v := range []**float64{&own.To, &own.By, &own.Speed} {
		if *v != nil {
			copied := **v
			*v = &copied
		}
	}
	return &own
}

// maxDriven bounds values of joints, degrees or mm, and speeds.
const maxDriven = 1e6

func (d *Drive) validate(v *validator, path string) {
	set := 0
	for _, n := range []*float64{d.To, d.By, d.Speed} {
		if n != nil {
			set++
			v.want(math.Abs(*n) <= maxDriven, path, "%g is not a number between ±%g", *n, float64(maxDriven))
		}
	}
	v.want(set == 1, path, "goes to a value, by an amount or at a speed: exactly one of these")
	v.want(d.Swings >= 0 && d.Swings <= 10_000, path+".swings", "%d is not between 0 and 10,000", d.Swings)
	v.want(d.Swings == 0 || d.By != nil, path+".swings", "only what goes by an amount swings")
	for _, t := range []Micros{d.RunUp, d.RunDown} {
		v.want(t >= 0 && t <= MaxDuration, path, "%d µs to run up or down is not between 0 and 4 hours", t)
	}
	v.want(!d.Ongoing || d.Speed != nil, path+".ongoing", "only what runs goes on")
	v.drivesJoint(path, d)
}

// drivesJoint checks that a joint is there and can be driven.
func (v *validator) drivesJoint(path string, d *Drive) {
	if v.joints == nil {
		return // the assembly is not known
	}
	j := v.joints[d.Joint]
	if j == nil {
		v.want(v.muted, path+".joint", "there is no joint %q", d.Joint) // what is switched off drives nothing
		return
	}
	v.want(j.Kind.Driven(), path+".joint", "a %s joint cannot be driven", j.Kind)
	v.want(d.Slides != j.Kind.Turns(), path+".slides", "does not fit a %s joint", j.Kind)
}

// driven checks that the target of a drive is what its joint moves.
func (v *validator) driven(path string, c *Cue) {
	if c.Drive == nil || v.joints == nil || v.joints[c.Drive.Joint] == nil || len(c.Targets) != 1 {
		return
	}
	body := v.joints[c.Drive.Joint].Body
	v.want(c.Targets[0] == body, path+".targets", "%q is not what the joint moves: %q", c.Targets[0], body)
}
