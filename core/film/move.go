package film

import (
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// move is what a pull, turn or unscrew does to one node when it is complete.
// On the way, both the way and the angle are multiplied by the progress, so
// that an unscrewing part advances by the lead in every revolution.
type move struct {
	beat    int
	axes    reveal.Axes
	way     space.Vec // mm
	axis    space.Vec // of unit length
	pivot   space.Vec
	degrees float64
}

func newMove(c *reveal.Cue, beat int) move {
	m := move{beat: beat}
	switch c.Kind {
	case reveal.KindPull:
		m.axes = c.Pull.Axes
		along, _ := space.Unit(c.Pull.Along.Vec())
		m.way = scaled(along, c.Pull.Distance)
	case reveal.KindTurn:
		m.axes, m.pivot, m.degrees = c.Turn.Axes, c.Turn.Pivot.Vec(), c.Turn.Degrees
		m.axis, _ = space.Unit(c.Turn.About.Vec())
	case reveal.KindUnscrew:
		u := c.Unscrew
		m.axes, m.pivot, m.degrees = u.Axes, u.Pivot.Vec(), 360*u.Turns
		m.axis, _ = space.Unit(u.Along.Vec())
		m.way = scaled(m.axis, u.Turns*u.Lead)
		if u.LeftHand {
			m.degrees = -m.degrees
		}
	}
	return m
}

// apply moves local, the node's pose in its parent, by the progress u.
func (m *move) apply(local *space.Rigid, u float64, world []space.Rigid, parent int) {
	way := scaled(m.way, u)
	turn := space.Still
	if m.degrees != 0 {
		turn = space.TurnAbout(m.pivot, m.axis, m.degrees*u)
	}
	switch {
	case m.axes == reveal.Own:
		moved := local.Then(&turn)
		d := local.R.Apply(way)
		moved.T = space.Vec{X: moved.T.X + d.X, Y: moved.T.Y + d.Y, Z: moved.T.Z + d.Z}
		*local = moved
	case m.axes == reveal.Whole && parent > 0:
		inv := world[0].Inverse()
		rel := inv.Then(&world[parent]) // the parent's pose in the assembly
		back := rel.Inverse()
		step := space.Rigid{R: turn.R, T: space.Vec{X: turn.T.X + way.X, Y: turn.T.Y + way.Y, Z: turn.T.Z + way.Z}}
		in := step.Then(&rel)
		in = back.Then(&in)
		*local = in.Then(local)
	default:
		moved := turn.Then(local)
		moved.T = space.Vec{X: moved.T.X + way.X, Y: moved.T.Y + way.Y, Z: moved.T.Z + way.Z}
		*local = moved
	}
}

func scaled(v space.Vec, k float64) space.Vec { return space.Vec{X: v.X * k, Y: v.Y * k, Z: v.Z * k} }
