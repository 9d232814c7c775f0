package proof

import (
	"context"
	"fmt"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// subject is a film and what several checks need of it.
type subject struct {
	ctx     context.Context
	film    *film.Film
	shapes  []*solid.Shape
	eyes    Eyes
	memory  *Memory // nil for none
	index   map[assembly.NodeID]int
	parts   []int   // nodes
	below   [][]int // by node: the parts at or below it
	corners [][]space.Vec
	frame   *film.Frame // work space
	reads   float64     // how fast one reads, characters a second
	twins   map[string]int
	only    map[reveal.CueID]bool // the cues that are looked at, nil for all
	during  reveal.StepID         // the step at whose end it is looked what is crowded, empty for all
	rest    []space.Rigid         // in the world, as imported; nil until it is asked for
	pulled  map[int]reveal.Micros // by part: when something first moves it
	words   []bool                // by pixel of the eyes' picture: whether words lie on it
}

func newSubject(ctx context.Context, f *film.Film, shapes []*solid.Shape, eyes Eyes) *subject {
	s := &subject{
		ctx:     ctx,
		film:    f,
		shapes:  shapes,
		eyes:    eyes,
		index:   f.Assembly.Index(),
		frame:   f.NewFrame(),
		twins:   map[string]int{},
		below:   make([][]int, len(f.Assembly.Nodes)),
		corners: make([][]space.Vec, len(shapes)),
		pulled:  map[int]reveal.Micros{},
	}
	for i := range f.Assembly.Nodes {
		n := &f.Assembly.Nodes[i]
		s.twins[n.Name]++
		if !n.IsPart() {
			continue
		}
		s.parts = append(s.parts, i)
		for above := i; above >= 0; above = f.Assembly.Nodes[above].Parent {
			s.below[above] = append(s.below[above], i)
		}
	}
	for _, b := range s.bars(func(b *film.Bar) bool { return b.Kind.Moves() && !b.Retraced }) {
		for _, part := range s.of(b.Targets) {
			if t, ok := s.pulled[part]; !ok || b.Start < t {
				s.pulled[part] = b.Start
			}
		}
	}
	return s
}

// bars are the bars that are not muted and of which want is true, in the order of the schedule.
func (s *subject) bars(want func(b *film.Bar) bool) (list []*film.Bar) {
	for i := range s.film.Schedule.Bars {
		if b := &s.film.Schedule.Bars[i]; !b.Muted && (s.only == nil || s.only[b.Cue]) && want(b) {
			list = append(list, b)
		}
	}
	return list
}

// glance is how many times as fast as it came apart something goes together again where that is seen as a whole, and
// none of its movements by itself (common practice, no source).
const glance = 3

// wholly reports whether a bar is of a retrace that is seen as a whole.
func (s *subject) wholly(b *film.Bar) bool {
	if !b.Retraced {
		return false
	}
	for i := range s.film.Schedule.Bars {
		if o := &s.film.Schedule.Bars[i]; o.Cue == b.Cue && !o.Retraced {
			return o.Duration > glance*b.Duration
		}
	}
	return false
}

// of lists the parts at or below nodes.
func (s *subject) of(nodes []assembly.NodeID) (list []int) {
	for _, id := range nodes {
		list = append(list, s.below[s.index[id]]...)
	}
	return list
}

// at is the frame of a moment, which the next call overwrites.
func (s *subject) at(t reveal.Micros) *film.Frame {
	s.film.At(t, s.frame)
	return s.frame
}

func (s *subject) stepNumber(id reveal.StepID) int { return s.film.Reveal.FindStep(id) }

// cornersOf are points of a part in its own frame, mm: as good as all of them to tell where it reaches.
func (s *subject) cornersOf(part int) []space.Vec {
	k := s.film.Assembly.Nodes[part].Shape
	if s.corners[k] == nil {
		s.corners[k] = s.shapes[k].Farthest()
	}
	return s.corners[k]
}

// label names a part or subassembly; with its id where others have the same name.
func (s *subject) label(id assembly.NodeID) string {
	name := s.film.Assembly.Nodes[s.index[id]].Name
	if s.twins[name] > 1 || name == "" {
		return fmt.Sprintf("%s (%s)", name, id)
	}
	return name
}

// labels names some, the first two in full.
func (s *subject) labels(ids []assembly.NodeID) string {
	switch n := len(ids); n {
	case 0:
		return "Nothing"
	case 1:
		return s.label(ids[0])
	case 2:
		return s.label(ids[0]) + " and " + s.label(ids[1])
	default:
		return fmt.Sprintf("%s and %d others", s.label(ids[0]), n-1)
	}
}

// cueWords names a cue and its step.
func (s *subject) cueWords(id reveal.CueID) string {
	step, k := s.film.Reveal.FindCue(id)
	if k < 0 {
		return "a cue that is gone"
	}
	c := &s.film.Reveal.Steps[step].Cues[k]
	return fmt.Sprintf("%s “%s” of step %d", c.Kind, c.Label(), step+1)
}

func (s *subject) ids(parts []int) (list []assembly.NodeID) {
	for _, p := range parts {
		list = append(list, s.film.Assembly.Nodes[p].ID)
	}
	return list
}
