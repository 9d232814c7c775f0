package editor

import (
	"fmt"

	"slowreveal/core/assembly"
)

// JointKindWords says what a kind of joint is called, and what its body does on its base.
type JointKindWords struct {
	Kind assembly.JointKind `json:"kind"`
	Name string             `json:"name"`
	Does string             `json:"does"`
	// Slides says that its value is mm and not degrees, Driven that it can be given one.
	Slides bool `json:"slides"`
	Driven bool `json:"driven"`
}

// CouplingKindWords says what a kind of coupling is called, and which joints can follow another one by it.
type CouplingKindWords struct {
	Kind   assembly.CouplingKind `json:"kind"`
	Name   string                `json:"name"`
	Slides bool                  `json:"slides"`
	Turns  bool                  `json:"turns"`
}

// MechanismWords are all kinds of joint and of coupling.
type MechanismWords struct {
	Joints    []JointKindWords    `json:"joints"`
	Couplings []CouplingKindWords `json:"couplings"`
}

func mechanismWords() (w MechanismWords) {
	joints := map[assembly.JointKind][2]string{
		assembly.Revolute:    {"Revolute: turns", "turns on"},
		assembly.Prismatic:   {"Prismatic: slides", "slides on"},
		assembly.Helical:     {"Helical: a thread", "screws into"},
		assembly.Cylindrical: {"Cylindrical: turns and slides", "turns and slides on"},
		assembly.Planar:      {"Planar: in a plane", "slides about on"},
		assembly.Ball:        {"Ball: any way about a point", "turns any way in"},
		assembly.Universal:   {"Universal: about two axes", "turns about two axes on"},
		assembly.Fixed:       {"Fixed", "is fixed on"},
	}
	for _, k := range assembly.JointKinds {
		w.Joints = append(w.Joints, JointKindWords{k, joints[k][0], joints[k][1], !k.Turns(), k.Driven()})
	}
	couplings := map[assembly.CouplingKind]string{
		assembly.Gear: "Gears", assembly.Belt: "Belt or chain", assembly.Rack: "Rack and pinion",
		assembly.Screw: "Spindle and nut", assembly.Cam: "A cam, by a table", assembly.Ratio: "A ratio",
	}
	for _, k := range assembly.CouplingKinds {
		w.Couplings = append(w.Couplings, CouplingKindWords{k, couplings[k], k.Fits(true), k.Fits(false)})
	}
	return w
}

// AlteredJoint asks for a joint with one thing about it another one, and all that follows from that.
type AlteredJoint struct {
	Joint    assembly.Joint     `json:"joint"`
	Kind     assembly.JointKind `json:"kind,omitempty"`
	Body     assembly.NodeID    `json:"body,omitempty"`
	Limited  *bool              `json:"limited,omitempty"`
	Reversed bool               `json:"reversed,omitempty"`
}

func (q AlteredJoint) joint() assembly.Joint {
	j := q.Joint
	if q.Kind != "" {
		j = j.As(q.Kind)
	}
	if q.Body != "" {
		j = j.Moving(q.Body)
	}
	if q.Limited != nil {
		j = j.Limited(*q.Limited)
	}
	if q.Reversed {
		j = j.Reversed()
	}
	return j
}

// OneJoint asks about a joint of the assembly.
type OneJoint struct {
	Joint assembly.JointID `json:"joint"`
}

// Tie is a coupling of a joint, as seen from that: the joint at its other end, and how it ties both.
type Tie struct {
	Coupling assembly.JointID `json:"coupling"`
	Other    assembly.JointID `json:"other"`
	Says     string           `json:"says"`
}

func (d *Editor) ties(q OneJoint) ([]Tie, error) {
	ties := []Tie{}
	for i := range d.assembly.Couplings {
		c := &d.assembly.Couplings[i]
		switch q.Joint {
		case c.Joint:
			ties = append(ties, Tie{c.ID, c.By, c.Says(q.Joint)})
		case c.By:
			ties = append(ties, Tie{c.ID, c.Joint, c.Says(q.Joint)})
		}
	}
	return ties, nil
}

// NewCoupling asks for a coupling as the page's fields have it. Of them those count that its kind has a use for.
type NewCoupling struct {
	ID    assembly.JointID      `json:"id"`
	Joint assembly.JointID      `json:"joint"`
	By    assembly.JointID      `json:"by"`
	Kind  assembly.CouplingKind `json:"kind"`
	// Own and Other are the sizes of the two wheels, Joint's first.
	Own   float64 `json:"own"`
	Other float64 `json:"other"`
	Ratio float64 `json:"ratio"`
	// Inner also says that a belt is crossed: both turn the sense of the wheels round.
	Inner bool `json:"inner"`
	// Table has a row of two numbers on each line.
	Table string `json:"table"`
}

func (d *Editor) newCoupling(q NewCoupling) (c assembly.Coupling, err error) {
	joint, by := d.assembly.FindJoint(q.Joint), d.assembly.FindJoint(q.By)
	if joint == nil || by == nil {
		return c, fmt.Errorf("one of the joints is gone; choose another one")
	}
	c = assembly.Coupling{
		ID: q.ID, Name: fmt.Sprintf("%s and %s", joint.Name, by.Name), Kind: q.Kind, Joint: q.Joint, By: q.By,
	}
	switch q.Kind {
	case assembly.Gear:
		c.Sizes, c.Inner = [2]float64{q.Own, q.Other}, q.Inner
	case assembly.Belt:
		c.Sizes, c.Crossed = [2]float64{q.Own, q.Other}, q.Inner
	case assembly.Rack:
		c.Sizes = [2]float64{0, q.Other}
	case assembly.Cam:
		c.Table, err = assembly.ParseTable(q.Table)
	default:
		c.Ratio = q.Ratio
	}
	return c, err
}
