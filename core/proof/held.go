package proof

import (
	"fmt"
	"strings"

	"slowreveal/core/assembly"
	"slowreveal/core/fastener"
)

// told makes a finding of an overlap. Where what is gone into leaves only later, the part leaves too early: that is the
// cause, and said so.
func (s *subject) told(o *Overlap) Finding {
	place := o.Place
	f := Finding{
		Check: "interference",
		Level: Fault,
		Parts: []assembly.NodeID{o.Still, o.Moving},
		Cues:  o.Cues,
		From:  o.From,
		To:    o.To,
		At:    o.At,
		Worse: o.Depth,
		Depth: o.Depth,
		Place: &place,
	}
	deep := fmt.Sprintf("%.1f mm", o.Depth)
	if o.Depth >= deepest {
		deep = fmt.Sprintf("more than %g mm", deepest)
	}
	var by []string
	for _, id := range o.Cues {
		by = append(by, s.cueWords(id))
	}
	f.Says = fmt.Sprintf(
		"%s and %s are %s deeper in each other than at rest, from %.2f to %.2f s: %s.",
		s.label(o.Still),
		s.label(o.Moving),
		deep,
		float64(o.From)/1e6,
		float64(o.To)/1e6,
		strings.Join(by, ", "),
	)
	first, second := s.firstMoved(o)
	if second < 0 {
		return f
	}
	f.Check = "held"
	leaves, stays := s.film.Assembly.Nodes[first].ID, s.film.Assembly.Nodes[second].ID
	held := "which lies in its way,"
	if kind := s.fastener(second); kind != "" {
		held = fmt.Sprintf("the %s that holds it,", kind)
	}
	later := s.pulled[second] - o.From
	f.Says = fmt.Sprintf(
		"%s leaves %.2f s into the film, while %s, %s leaves only %s later: they are %s in each other.",
		s.label(leaves),
		float64(s.pulled[first])/1e6,
		s.label(stays),
		held,
		seconds(later),
		deep,
	)
	return f
}

// firstMoved tells which of two overlapping parts is moved first, where the other one is moved too, but only after they
// meet: then it stands in the way of the first. second is −1 where that is not so.
func (s *subject) firstMoved(o *Overlap) (first, second int) {
	first, second = s.index[o.Still], s.index[o.Moving]
	a, aMoves := s.pulled[first]
	b, bMoves := s.pulled[second]
	if !aMoves || !bMoves || a == b {
		return first, -1
	}
	if b < a {
		first, second, a, b = second, first, b, a
	}
	if a > o.To || b <= o.To {
		return first, -1
	}
	return first, second
}

// fastener is the kind of fastener that a part seems to be, empty for none.
func (s *subject) fastener(part int) fastener.Kind {
	n := &s.film.Assembly.Nodes[part]
	features := s.shapes[n.Shape].Features()
	if g := fastener.Recognise(s.shapes[n.Shape], &features, n.Name); g != nil {
		return g.Kind
	}
	return ""
}
