package mechanism

import (
	"math"

	"slowreveal/core/assembly"
	"slowreveal/core/space"
)

// coordinate is one freedom of a joint: a turn about a line or a slide along it, or both in step.
type coordinate struct {
	joint int
	axis  space.Vec // of unit length, in the world at rest
	point space.Vec
	turns bool
	// advance is how far it slides in one degree, mm; of what does not turn in one mm.
	advance float64
}

// link is a step from one body to the next: along a coordinate, or against it.
type link struct {
	coordinate int
	sign       float64
}

// motion is the displacement by a coordinate's value.
func (c *coordinate) motion(value float64) space.Rigid {
	m := space.Identity
	if value == 0 {
		return m
	}
	if c.turns {
		m = space.TurnAbout(c.point, c.axis, value)
	}
	if k := c.advance * value; k != 0 {
		m.T = add(m.T, scale(c.axis, k))
	}
	return m
}

// coordinatesOf returns the freedoms of a joint, from its base to its body. at is the body's pose at rest.
func coordinatesOf(index int, j *assembly.Joint, at *space.Rigid) []coordinate {
	axis := at.R.Apply(unit(j.Axis.Vec()))
	point := at.Apply(j.Point.Vec())
	turn := coordinate{joint: index, axis: axis, point: point, turns: true}
	slide := func(along space.Vec) coordinate {
		return coordinate{joint: index, axis: along, point: point, advance: 1}
	}
	switch j.Kind {
	case assembly.Revolute:
		return []coordinate{turn}
	case assembly.Prismatic:
		return []coordinate{slide(axis)}
	case assembly.Helical:
		turn.advance = j.Lead / 360
		return []coordinate{turn}
	case assembly.Cylindrical:
		return []coordinate{turn, slide(axis)}
	case assembly.Planar:
		u, v := across(axis)
		return []coordinate{slide(u), slide(v), turn}
	case assembly.Ball:
		// Turns about three axes of which the second must not lead the third into the first, 90° away.
		if axis == (space.Vec{}) {
			axis = space.Vec{Z: 1}
		}
		u, v := across(axis)
		list := []coordinate{turn, turn, turn}
		list[0].axis, list[1].axis, list[2].axis = axis, u, v
		return list
	case assembly.Universal:
		second := turn
		second.axis = unit(reject(at.R.Apply(j.Second.Vec()), axis))
		return []coordinate{turn, second}
	}
	return nil
}

// value tells which of a joint's coordinates is what it is driven by and known by.
func valueOf(kind assembly.JointKind) int {
	if kind == assembly.Planar {
		return 2
	}
	return 0
}

// across returns two directions that are at right angles to a and to one another.
func across(a space.Vec) (u, v space.Vec) {
	least := space.Vec{X: 1}
	if x, y, z := math.Abs(a.X), math.Abs(a.Y), math.Abs(a.Z); y <= x && y <= z {
		least = space.Vec{Y: 1}
	} else if z <= x && z <= y {
		least = space.Vec{Z: 1}
	}
	u = unit(cross(a, least))
	return u, cross(a, u)
}

func add(a, b space.Vec) space.Vec { return space.Vec{X: a.X + b.X, Y: a.Y + b.Y, Z: a.Z + b.Z} }

func sub(a, b space.Vec) space.Vec { return space.Vec{X: a.X - b.X, Y: a.Y - b.Y, Z: a.Z - b.Z} }

func scale(v space.Vec, k float64) space.Vec { return space.Vec{X: v.X * k, Y: v.Y * k, Z: v.Z * k} }

func dot(a, b space.Vec) float64 { return a.X*b.X + a.Y*b.Y + a.Z*b.Z }

func cross(a, b space.Vec) space.Vec {
	return space.Vec{X: a.Y*b.Z - a.Z*b.Y, Y: a.Z*b.X - a.X*b.Z, Z: a.X*b.Y - a.Y*b.X}
}

func length(v space.Vec) float64 { return math.Sqrt(dot(v, v)) }

func unit(v space.Vec) space.Vec {
	if l := length(v); l > 0 {
		return scale(v, 1/l)
	}
	return space.Vec{}
}

// reject is what of v stands across axis, which has unit length.
func reject(v, axis space.Vec) space.Vec { return sub(v, scale(axis, dot(v, axis))) }
