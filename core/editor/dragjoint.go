package editor

import (
	"errors"
	"fmt"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/space"
)

// Grabbed is a part of the assembly at rest that a hand holds at a point of its own frame, and the line of sight through
// the pointer (its origin and direction, in the world). Joint is what it drives, empty for what the part is on, and Value
// what that stands at.
type Grabbed struct {
	Joint assembly.JointID `json:"joint,omitempty"`
	Value float64          `json:"value"`
	Node  assembly.NodeID  `json:"node"`
	At    space.Vec3       `json:"at"`
	Ray   [2]space.Vec3    `json:"ray"`
}

// Followed is the joint that a hand drives by a part, and the value that brings the part under the pointer.
type Followed struct {
	Joint assembly.JointID `json:"joint"`
	Value float64          `json:"value"`
}

const (
	mostSteps = 12
	mostStep  = 12.0 // degrees or mm that a joint goes at once: it follows the hand, it does not jump
	tinyStep  = 0.01
)

// follow finds the value of a joint at which the grabbed point lies nearest to the line of sight, from the value that it
// has: by Newton's method on the point's way.
func (d *Editor) follow(q Grabbed) (Followed, error) {
	node, ok := d.index[q.Node]
	sight, seen := space.Normalize(q.Ray[1].Vec())
	if !ok || !seen {
		return Followed{}, errors.New("there is nothing to hold")
	}
	out := Followed{q.Joint, q.Value}
	if q.Joint == "" {
		j, err := d.subject().JointOf(q.Node)
		if err != nil {
			return Followed{}, err
		}
		out = Followed{j.ID, j.Rest}
		if d.tried != nil && d.tried.joint == j.ID {
			out.Value, _ = d.tried.film.Joint(j.ID, d.tried.frame)
		}
	}
	j := d.assembly.FindJoint(out.Joint)
	if j == nil {
		return Followed{}, fmt.Errorf("there is no joint %q", out.Joint)
	}
	t, err := d.tries(j)
	if err != nil {
		return Followed{}, err
	}
	fr := t.film.NewFrame()
	// off is how far the point is off the line of sight, across it.
	off := func(value float64) space.Vec {
		t.show(value, fr)
		v := r3.Sub(fr.World[node].Apply(q.At.Vec()), q.Ray[0].Vec())
		return r3.Sub(v, r3.Scale(r3.Dot(v, sight), sight))
	}
	for range mostSteps {
		at := off(out.Value)
		slope := r3.Scale(1/(2*tinyStep), r3.Sub(off(out.Value+tinyStep), off(out.Value-tinyStep)))
		if r3.Norm2(slope) < 1e-12 {
			break // it does not move, or along the line of sight
		}
		step := max(-mostStep, min(-r3.Dot(at, slope)/r3.Norm2(slope), mostStep))
		next := max(t.low, min(out.Value+step, t.high))
		if r3.Norm(off(next)) >= r3.Norm(at) {
			break
		}
		out.Value = next
	}
	return out, nil
}

// OfNode is a point of the world on a node of the assembly at rest.
type OfNode struct {
	Node  assembly.NodeID `json:"node"`
	Point space.Vec3      `json:"point"`
}

// local is the same point in the node's own frame.
func (d *Editor) local(q OfNode) (space.Vec3, error) {
	i, ok := d.index[q.Node]
	if !ok {
		return space.Vec3{}, fmt.Errorf("there is no node %q", q.Node)
	}
	fr := d.rest()
	if d.tried != nil {
		fr = d.tried.frame
	}
	back := fr.World[i].Inverse()
	return space.Vec3Of(back.Apply(q.Point.Vec())), nil
}
