package assembly

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/space"
)

// JointID names a joint or a coupling for good within one assembly.
type JointID string

// JointKind is what a joint lets its body do against its base.
type JointKind string

// The kinds of joint, as mechanism theory has them.
const (
	Revolute    JointKind = "revolute"    // turns about the axis
	Prismatic   JointKind = "prismatic"   // slides along it
	Cylindrical JointKind = "cylindrical" // does both, each by itself
	Helical     JointKind = "helical"     // turns, and advances by the lead in every revolution
	Planar      JointKind = "planar"      // slides in the plane that the axis stands on, and turns in it
	Ball        JointKind = "ball"        // turns any way about the point
	Universal   JointKind = "universal"   // turns about the axis, which stands with the base, and about a second one
	Fixed       JointKind = "fixed"       // nothing
)

// JointKinds lists all kinds of joint.
var JointKinds = []JointKind{Revolute, Prismatic, Helical, Cylindrical, Planar, Ball, Universal, Fixed}

// Turns reports whether the value of such a joint is an angle, in degrees; those of the others are mm.
func (k JointKind) Turns() bool { return k != Prismatic }

// Joint lets one node move against another.
type Joint struct {
	ID   JointID   `json:"id"`
	Name string    `json:"name"`
	Kind JointKind `json:"kind"`
	// Body is what moves, Base what it moves on; the root of the tree for what stands still.
	Body NodeID `json:"body"`
	Base NodeID `json:"base"`
	// Axis is its direction and Point a point of it (mm), at rest, in the body's own frame. Seen against the axis
	// positive angles run anticlockwise.
	Axis  space.Vec3 `json:"axis"`
	Point space.Vec3 `json:"point"`
	// Second is the axis of a universal joint that stands with the body, across the first, in the body's own frame.
	Second *space.Vec3 `json:"second,omitempty"`
	// Lead is the advance of a helical joint along the axis in one revolution, mm; negative for a left-hand thread.
	Lead float64 `json:"lead,omitempty"`
	// Min and Max are the least and greatest value that it can have: degrees, or mm of a prismatic joint.
	Min *float64 `json:"min,omitempty"`
	Max *float64 `json:"max,omitempty"`
	// Rest is its value as the assembly stands.
	Rest float64 `json:"rest,omitempty"`
}

// CouplingKind is by what one joint follows another.
type CouplingKind string

// The kinds of coupling.
const (
	Gear  CouplingKind = "gear"  // two wheels in mesh, by their teeth
	Belt  CouplingKind = "belt"  // two pulleys, or sprockets of a chain, by their diameters or teeth
	Rack  CouplingKind = "rack"  // a rack that a pinion drives, by the pinion's pitch diameter
	Screw CouplingKind = "screw" // a nut that slides as a spindle turns, by the lead
	Cam   CouplingKind = "cam"   // by a table of values
	Ratio CouplingKind = "ratio" // by a ratio
)

// CouplingKinds lists all kinds of coupling.
var CouplingKinds = []CouplingKind{Gear, Belt, Rack, Screw, Cam, Ratio}

// Coupling makes one joint follow another. Gears follow each other whichever is driven.
type Coupling struct {
	ID   JointID      `json:"id"`
	Name string       `json:"name"`
	Kind CouplingKind `json:"kind"`
	// Joint follows By.
	Joint JointID `json:"joint"`
	By    JointID `json:"by"`
	// Sizes are those of the two wheels, of Joint's first: teeth of gears, teeth or diameters of pulleys. A rack has
	// the pitch diameter of its pinion second, mm.
	Sizes [2]float64 `json:"sizes,omitzero"`
	// Inner says that one of two gears has its teeth inside, so that both turn the same way; of a belt that it is
	// crossed, so that they turn against each other.
	Inner   bool `json:"inner,omitempty"`
	Crossed bool `json:"crossed,omitempty"`
	// Ratio is how much Joint's value grows when By's grows by one. Of a screw it is the lead, mm in a revolution.
	Ratio float64 `json:"ratio,omitempty"`
	// Table are By's value and Joint's, By's growing, both less their values at rest. Where By turns and the last is a
	// revolution behind the first it goes on in the same way.
	Table [][2]float64 `json:"table,omitempty"`
}

// Limits on mechanisms.
const (
	MaxJoints = 2_000
	MaxTable  = 3_600
	maxValue  = 1e6 // degrees or mm
)

// FindJoint returns the joint with an id, nil where there is none.
func (a *Assembly) FindJoint(id JointID) *Joint {
	for i := range a.Joints {
		if a.Joints[i].ID == id {
			return &a.Joints[i]
		}
	}
	return nil
}

// JointsThat returns those of some joints that are to stay, and the couplings that both joints are left of.
func JointsThat(joints []Joint, couplings []Coupling, stays func(*Joint) bool) (left []Joint, coupled []Coupling) {
	there := make(map[JointID]bool, len(joints))
	for i := range joints {
		if j := &joints[i]; stays(j) {
			left, there[j.ID] = append(left, *j), true
		}
	}
	for _, c := range couplings {
		if there[c.Joint] && there[c.By] {
			coupled = append(coupled, c)
		}
	}
	return left, coupled
}

// Check returns an error for a joint that says nothing sensible by itself.
func (j *Joint) Check() error {
	axis, second := j.Axis.Vec(), space.Vec{}
	if j.Second != nil {
		second = j.Second.Vec()
	}
	switch {
	case j.ID == "":
		return errors.New("the joint has no id")
	case !slices.Contains(JointKinds, j.Kind):
		return fmt.Errorf("%q is no kind of joint", j.Kind)
	case j.Body == "" || j.Base == "":
		return errors.New("a joint stands between a body and a base; the base of what moves on nothing is the assembly")
	case j.Body == j.Base:
		return errors.New("a joint stands between two different nodes")
	case !finite(j.Axis[:]) || !finite(j.Point[:]) || !finite([]float64{j.Lead, j.Rest}) ||
		math.Abs(j.Rest) > maxValue || math.Abs(j.Lead) > maxValue:
		return errors.New("its numbers are not finite, or far too large")
	case j.Kind != Ball && j.Kind != Fixed && !(r3.Norm(axis) > 1e-9):
		return errors.New("its axis has no direction")
	case j.Kind == Universal && !(r3.Norm(r3.Cross(axis, second)) > 1e-6*r3.Norm(axis)*r3.Norm(second)):
		return errors.New("a universal joint has two axes that lie across one another")
	case j.Kind == Helical && j.Lead == 0:
		return errors.New("the lead of a helical joint is not 0")
	}
	return j.checkLimits()
}

func (j *Joint) checkLimits() error {
	for _, v := range []*float64{j.Min, j.Max} {
		if v != nil && (math.IsNaN(*v) || math.Abs(*v) > maxValue) {
			return errors.New("a limit is not finite, or far too large")
		}
	}
	if j.Min != nil && j.Max != nil && *j.Min > *j.Max {
		return fmt.Errorf("its limits are inside out: %g is more than %g", *j.Min, *j.Max)
	}
	return nil
}

// Check returns an error for a coupling that says nothing sensible by itself.
func (c *Coupling) Check() error {
	switch {
	case c.ID == "":
		return errors.New("the coupling has no id")
	case !slices.Contains(CouplingKinds, c.Kind):
		return fmt.Errorf("%q is no kind of coupling", c.Kind)
	case c.Joint == "" || c.By == "" || c.Joint == c.By:
		return errors.New("a coupling stands between two different joints")
	case !finite(c.Sizes[:]) || math.IsNaN(c.Ratio) || math.Abs(c.Ratio) > maxValue:
		return errors.New("its numbers are not finite, or far too large")
	case (c.Kind == Gear || c.Kind == Belt) && !(c.Sizes[0] > 0 && c.Sizes[1] > 0):
		return errors.New("the sizes of both wheels are more than 0")
	case c.Kind == Rack && !(c.Sizes[1] > 0):
		return errors.New("the pinion's diameter is more than 0")
	case (c.Kind == Ratio || c.Kind == Screw) && c.Ratio == 0:
		return errors.New("a ratio of 0 means that nothing follows")
	case c.Kind == Cam:
		return c.checkTable()
	}
	return nil
}

func (c *Coupling) checkTable() error {
	if len(c.Table) < 3 || len(c.Table) > MaxTable {
		return fmt.Errorf("a cam's table has between 3 and %d rows", MaxTable)
	}
	for i, row := range c.Table {
		if !finite(row[:]) || math.Abs(row[0]) > maxValue || math.Abs(row[1]) > maxValue {
			return fmt.Errorf("row %d of the table is not finite, or far too large", i+1)
		}
		if i > 0 && row[0] <= c.Table[i-1][0] {
			return fmt.Errorf("row %d of the table does not come behind the one before", i+1)
		}
	}
	return nil
}
