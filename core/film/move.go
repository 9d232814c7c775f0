package film

import (
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// motion is what a pull, turn, unscrew or route does to a node when it is
// complete. On the way, both the way and the angle are multiplied by the progress,
// so that an unscrewing part advances by the lead in every revolution.
type motion struct {
	track   int
	axes    reveal.Axes
	way     space.Vec // mm
	route   *route    // instead of way, where it is not straight
	axis    space.Vec // of unit length
	pivot   space.Vec
	degrees float64
}

// motionState is a motion at one moment.
type motionState struct {
	moves, turns bool
	way          space.Vec
	turn         space.Rigid // set when turns
}

func newMotion(c *reveal.Cue, track int) motion {
	of := c.Settings().(reveal.Movement).Motion()
	m := motion{track: track, axes: of.Axes, way: of.Way, axis: of.Axis, pivot: of.Pivot, degrees: of.Degrees}
	if of.Route != nil {
		m.route = newRoute(of.Route)
	}
	return m
}

// at fills s with the motion after the progress u.
func (m *motion) at(u float64, s *motionState) {
	s.moves, s.turns = u != 0, u != 0 && m.degrees != 0
	if !s.moves {
		return
	}
	if m.route != nil {
		s.way = m.route.at(u)
	} else {
		s.way = scaled(m.way, u)
	}
	if s.turns {
		s.turn = space.TurnAbout(m.pivot, m.axis, m.degrees*u)
	}
}

// apply moves local, the node's pose in its parent.
func (s *motionState) apply(axes reveal.Axes, local *space.Rigid, world []space.Rigid, parent int) {
	switch {
	case axes == reveal.OwnAxes:
		d := local.R.Apply(s.way)
		if s.turns {
			*local = local.Mul(&s.turn)
		}
		local.T = added(local.T, d)
	case axes == reveal.AssemblyAxes && parent > 0:
		inv := world[0].Inverse()
		rel := inv.Mul(&world[parent]) // the parent's pose in the assembly
		if s.turns {
			back := rel.Inverse()
			in := s.turn.Mul(&rel)
			in = back.Mul(&in)
			*local = in.Mul(local)
		}
		local.T = added(local.T, rel.R.ApplyInverse(s.way))
	default:
		if s.turns {
			*local = s.turn.Mul(local)
		}
		local.T = added(local.T, s.way)
	}
}

func added(a, b space.Vec) space.Vec { return space.Vec{X: a.X + b.X, Y: a.Y + b.Y, Z: a.Z + b.Z} }

func scaled(v space.Vec, k float64) space.Vec { return space.Vec{X: v.X * k, Y: v.Y * k, Z: v.Z * k} }
