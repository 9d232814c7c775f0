package reveal

import (
	"fmt"
	"slices"

	"slowreveal/core/assembly"
)

// Match takes out of a reveal what an assembly does not have, and says what that
// was: a reveal from another product, or from an older state of this one, keeps
// everything that still means something.
func Match(r *Reveal, a *assembly.Assembly) []string {
	m := matcher{known: a.Index(), lines: []string{}}
	m.match(r, a)
	return m.lines
}

// Carry does what Match does, for the next revision of the product that the reveal is of: a cue that has nothing left to
// act on is kept, switched off, and one that was kept so goes on when something of what it acted on is back.
func Carry(r *Reveal, a *assembly.Assembly) []string {
	m := matcher{known: a.Index(), lines: []string{}, keeps: true}
	m.match(r, a)
	return m.lines
}

// Lost reports whether some of a reveal's cues have lost all that they act on.
func (r *Reveal) Lost() bool {
	return slices.ContainsFunc(r.Steps, func(s Step) bool {
		return slices.ContainsFunc(s.Cues, func(c Cue) bool { return c.Lost != "" })
	})
}

func (m *matcher) match(r *Reveal, a *assembly.Assembly) {
	r.Opening.Suppressed = m.keep("the opening leaves out", r.Opening.Suppressed)
	m.opening(&r.Opening)
	for i := range r.Steps {
		s := &r.Steps[i]
		where := fmt.Sprintf("step %d %q", i+1, s.Title)
		for k := range s.Cues {
			c := &s.Cues[k]
			if c.Lost != "" && !m.back(where, c, a) {
				if !m.keeps {
					c.Targets = nil
				}
				continue
			}
			acted := c.Targets
			if _, ok := m.known[c.Of]; c.Of != "" && !ok {
				m.say("%s: a %s along the axes of %s; now along the assembly's", where, c.Kind, c.Of)
				c.LeaveOf()
			}
			if d := c.Drive; d != nil {
				if j := a.FindJoint(d.Joint); j != nil && j.Kind.Turns() != d.Slides {
					c.Targets = []assembly.NodeID{j.Body} // it may move another part by now
				} else {
					m.say("%s: a drive of the joint %s", where, d.Joint)
					c.Targets = nil
					m.lose(where, c, acted)
				}
				continue
			}
			c.Targets = m.keep(fmt.Sprintf("%s: a %s of", where, c.Kind), c.Targets)
			if c.Shot != nil && c.Shot.Follow != nil {
				c.Shot.Follow.Nodes = m.keep(where+": a shot follows", c.Shot.Follow.Nodes)
			}
			m.lose(where, c, acted)
		}
	}
	m.dropIdle(r)
}

// lose keeps a cue that has nothing left to act on, where such are kept: with what it acted on, and switched off.
func (m *matcher) lose(where string, c *Cue, acted []assembly.NodeID) {
	if !m.keeps || !c.Kind.Targeted() || len(c.Targets) > 0 {
		return
	}
	c.Targets, c.Lost = acted, LostOn
	if c.Muted {
		c.Lost = LostOff
	}
	c.Muted = true
	m.say("%s: a %s is kept, switched off: nothing that it acts on is left", where, c.Kind)
}

// back has a cue go on that had lost what it acts on, if something of that is there again.
func (m *matcher) back(where string, c *Cue, a *assembly.Assembly) bool {
	found := slices.DeleteFunc(
		slices.Clone(c.Targets),
		func(id assembly.NodeID) bool { _, there := m.known[id]; return !there },
	)
	if len(found) == 0 || c.Drive != nil && a.FindJoint(c.Drive.Joint) == nil {
		return false
	}
	c.Targets, c.Muted, c.Lost = found, c.Lost == LostOff, ""
	m.say("%s: a %s goes on: what it acts on is back", where, c.Kind)
	return true
}

// opening takes out of the opening what is not there.
func (m *matcher) opening(o *Opening) {
	gone := func(id assembly.NodeID, what string) bool {
		_, ok := m.known[id]
		if !ok {
			m.say("the opening's %s of %s", what, id)
		}
		return !ok
	}
	o.Opacities = slices.DeleteFunc(o.Opacities, func(n NodeOpacity) bool { return gone(n.Node, "opacity") })
	o.Tints = slices.DeleteFunc(o.Tints, func(n NodeTint) bool { return gone(n.Node, "tint") })
	o.Poses = slices.DeleteFunc(o.Poses, func(n NodePose) bool { return gone(n.Node, "pose") })
	o.Surfaces = slices.DeleteFunc(o.Surfaces, func(n NodeSurface) bool { return gone(n.Node, "way of being drawn") })
}

// LeaveOf gives a movement the axes of the assembly instead of another node's.
func (c *Cue) LeaveOf() {
	c.Of = ""
	if m, ok := c.Settings().(Movement); ok {
		*m.axes() = AssemblyAxes
	}
}

// dropIdle takes out cues without any target left. A twin of such a cue keeps its
// settings as its own.
func (m *matcher) dropIdle(r *Reveal) {
	idle := func(c *Cue) bool { return c.Kind.Targeted() && len(c.Targets) == 0 }
	for i := range r.Steps {
		for k := range r.Steps[i].Cues {
			c := &r.Steps[i].Cues[k]
			if o := r.Original(c); o != nil && o != c && idle(o) {
				*c = c.With(o)
				c.Twin = ""
			}
		}
	}
	for i := range r.Steps {
		s := &r.Steps[i]
		if s.Cues = slices.DeleteFunc(s.Cues, func(c Cue) bool { return idle(&c) }); len(s.Cues) == 0 {
			s.Cues = nil
		}
	}
}

// maxLines bounds what Match says.
const maxLines = 200

type matcher struct {
	known map[assembly.NodeID]int
	lines []string
	keeps bool // cues that have nothing left to act on
}

func (m *matcher) say(format string, args ...any) {
	if len(m.lines) < maxLines {
		m.lines = append(m.lines, fmt.Sprintf(format, args...))
	}
}

// keep returns the targets that are there and names the others.
func (m *matcher) keep(where string, targets []assembly.NodeID) []assembly.NodeID {
	var kept []assembly.NodeID
	for _, t := range targets {
		if _, ok := m.known[t]; ok {
			kept = append(kept, t)
		} else {
			m.say("%s %s", where, t)
		}
	}
	return kept
}
