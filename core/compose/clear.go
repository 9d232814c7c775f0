package compose

import (
	"errors"
	"fmt"
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// beside is how far into another's column a part has to reach so that this is in its way, mm.
const beside = 1e-3

var errNotStraight = errors.New(
	"only what is pulled straight, by more than nothing, can go until it is clear: select such a pull",
)

// untilClear has pulls go until what they move stands clear, and so much farther; or leaves them as far as they go.
func (c *composer) untilClear() error {
	cues, err := c.sources()
	if err != nil {
		return err
	}
	if c.Film == nil {
		return errNothing
	}
	for _, cue := range cues {
		if cue.Pull == nil || cue.Pull.Distance == 0 || cue.Pull.Secondary != nil {
			return errNotStraight
		}
		pull := *cue.Pull
		pull.Clear = nil
		if c.w.On {
			far, ok := clearOfAll(c.Subject, &cue)
			if !ok {
				return fmt.Errorf(
					"a pull of %s is switched off, or its step is not in this variant: it has no way",
					pull.Label(),
				)
			}
			pull.GoClear(far, c.w.Distance)
		}
		cue.Pull = &pull
		c.set(cue)
	}
	return nil
}

// ClearAgain finds anew how far those pulls go that go until what they move is clear, in an assembly that has changed. It
// writes that into the reveal, and says which go otherwise now.
func ClearAgain(r *reveal.Reveal, a *assembly.Assembly) (says []string) {
	var list []*reveal.Cue
	for i := range r.Steps {
		for k := range r.Steps[i].Cues {
			if cue := &r.Steps[i].Cues[k]; cue.Twin == "" && cue.Pull != nil && cue.Pull.IsClear() {
				list = append(list, cue)
			}
		}
	}
	for _, cue := range list { // one after the other: what has gone farther is out of the way of what follows
		s := &Subject{Reveal: r, Assembly: a, Film: film.Compile(a, r), Index: a.Index(), Boxes: a.BoundsOf()}
		far, ok := clearOfAll(s, cue)
		if !ok {
			continue
		}
		pull := *cue.Pull
		pull.GoClear(far, pull.Clear.Margin)
		if was := cue.Pull.Distance; math.Abs(pull.Distance-was) >= 0.01 {
			cue.Pull = &pull
			name := string(cue.Targets[0])
			if i, there := s.Index[cue.Targets[0]]; there {
				name = a.Nodes[i].Name
			}
			step, _ := r.FindCue(cue.ID)
			says = append(says, fmt.Sprintf("step %d: the pull of “%s” goes %s mm until it is clear, it was %s",
				step+1, name, reveal.Number(pull.Distance), reveal.Number(was)))
		}
	}
	return says
}

// clearOfAll is how far a pull and its twins go: what the farthest of them needs.
func clearOfAll(s *Subject, source *reveal.Cue) (far float64, ok bool) {
	for i := range s.Reveal.Steps {
		for k := range s.Reveal.Steps[i].Cues {
			cue := &s.Reveal.Steps[i].Cues[k]
			if o := s.Reveal.Original(cue); o == nil || o.ID != source.ID {
				continue
			}
			if d, there := clearOf(s, cue); there {
				far, ok = max(far, d), true
			}
		}
	}
	return far, ok
}

// clearOf is how far, mm, a pull takes its targets, from where they are when it begins, until no part that is seen then
// stands beside them on their way any more: by the boxes around the parts, the column over those that move being that of
// the box around all of them.
func clearOf(s *Subject, cue *reveal.Cue) (far float64, ok bool) {
	at, ok := beginsAt(s.Film, cue.ID)
	if !ok {
		return 0, false
	}
	fr := s.Film.NewFrame()
	s.Film.At(at, fr)
	from, to, ok := s.Film.Reach(cue.ID, fr)
	way, long := space.Normalize(space.Vec{X: to.X - from.X, Y: to.Y - from.Y, Z: to.Z - from.Z})
	if !ok || !long {
		return 0, false
	}
	moves := make([]bool, len(s.Assembly.Nodes))
	for _, target := range cue.Targets {
		if i, there := s.Index[target]; there {
			moves[i] = true
		}
	}
	own := space.EmptyBox
	spans := make([]space.Box, len(s.Assembly.Nodes))
	u, v := solid.AxesOf(way)
	for i := range s.Assembly.Nodes {
		n := &s.Assembly.Nodes[i]
		moves[i] = moves[i] || n.Parent >= 0 && moves[n.Parent]
		if !n.IsPart() || fr.Opacity[i] <= 0 {
			spans[i] = space.EmptyBox
			continue
		}
		if spans[i] = spanOf(s.Boxes[i], &fr.World[i], u, v, way); moves[i] {
			own = own.Union(spans[i])
		}
	}
	for i, b := range spans {
		if !moves[i] && !b.Empty() && b.Min.X < own.Max.X-beside && b.Max.X > own.Min.X+beside &&
			b.Min.Y < own.Max.Y-beside && b.Max.Y > own.Min.Y+beside {
			far = max(far, b.Max.Z-own.Min.Z)
		}
	}
	return far, !own.Empty()
}

// beginsAt is when a cue begins, going forwards.
func beginsAt(f *film.Film, id reveal.CueID) (reveal.Micros, bool) {
	for _, b := range f.Schedule.Bars {
		if b.Cue == id && !b.Retraced {
			return b.Start, true
		}
	}
	return 0, false
}

// spanOf is the box around a box that stands somewhere, along three axes of the world.
func spanOf(b space.Box, at *space.Rigid, u, v, w space.Vec) space.Box {
	span := space.EmptyBox
	for i := range 8 {
		p := at.Apply(b.Corner(i))
		span = span.With(space.Vec{X: r3.Dot(p, u), Y: r3.Dot(p, v), Z: r3.Dot(p, w)})
	}
	return span
}
