package assembly

import (
	"math"

	"slowreveal/core/space"
)

// How a joint begins to be limited, either way of its value at rest.
const (
	limitTurn = 90.0 // degrees
	limitWay  = 20.0 // mm
)

// Driven reports whether a joint of the kind can be given a value.
func (k JointKind) Driven() bool { return k != Fixed && k != Ball }

// As is the joint as one of another kind: it gets what that needs, a lead of 1 mm or a second axis across the first, and
// loses what belongs to its own, values too where they were degrees and are mm now, or the other way round.
func (j Joint) As(kind JointKind) Joint {
	if j.Kind.Turns() != kind.Turns() {
		j.Min, j.Max, j.Rest = nil, nil, 0
	}
	j.Kind = kind
	switch {
	case kind != Helical:
		j.Lead = 0
	case j.Lead == 0:
		j.Lead = 1
	}
	switch {
	case kind != Universal:
		j.Second = nil
	case j.Second == nil:
		second := acrossOf(j.Axis)
		j.Second = &second
	}
	return j
}

// acrossOf is whichever of the three axes a direction is least along.
func acrossOf(axis space.Vec3) (across space.Vec3) {
	least := 0
	for i := range axis {
		if math.Abs(axis[i]) < math.Abs(axis[least]) {
			least = i
		}
	}
	across[least] = 1
	return across
}

// Moving is the joint with another body. That gives the axis its frame: it begins with the body's own Z, through its
// origin.
func (j Joint) Moving(body NodeID) Joint {
	if body != j.Body {
		j.Body, j.Axis, j.Point = body, space.Vec3{0, 0, 1}, space.Vec3{}
	}
	return j
}

// Limited is the joint with limits about its value at rest, or with none.
func (j Joint) Limited(on bool) Joint {
	j.Min, j.Max = nil, nil
	if on {
		way := limitWay
		if j.Kind.Turns() {
			way = limitTurn
		}
		low, high := j.Rest-way, j.Rest+way
		j.Min, j.Max = &low, &high
	}
	return j
}

// Reversed is the joint with its axis pointing the other way.
func (j Joint) Reversed() Joint {
	for i, v := range j.Axis {
		j.Axis[i] = 0 - v // no negative zero
	}
	return j
}
