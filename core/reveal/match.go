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
	r.Opening.LeftOut = m.keep("the opening leaves out", r.Opening.LeftOut)
	r.Opening.Opacities = slices.DeleteFunc(r.Opening.Opacities, func(o NodeOpacity) bool {
		_, ok := m.known[o.Node]
		if !ok {
			m.say("the opening's opacity of %s", o.Node)
		}
		return !ok
	})
	for i := range r.Steps {
		s := &r.Steps[i]
		where := fmt.Sprintf("step %d %q", i+1, s.Title)
		for k := range s.Cues {
			c := &s.Cues[k]
			c.Targets = m.keep(fmt.Sprintf("%s: a %s of", where, c.Kind), c.Targets)
			if c.Shot != nil && c.Shot.Keep != nil {
				c.Shot.Keep.Nodes = m.keep(where+": a shot follows", c.Shot.Keep.Nodes)
			}
		}
		// A cue without any target left goes.
		if s.Cues = slices.DeleteFunc(s.Cues, func(c Cue) bool { return !c.Kind.Camera() && len(c.Targets) == 0 }); len(s.Cues) == 0 {
			s.Cues = nil
		}
	}
	return m.lines
}

// maxLines bounds what Match says.
const maxLines = 200

type matcher struct {
	known map[assembly.NodeID]int
	lines []string
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
