package proof

import "slowreveal/core/fastener"

// firstMoved tells which of two overlapping parts is moved first, where the other one is moved too, but only after they meet: then it
// stands in the way of the first. second is −1 where that is not so.
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
