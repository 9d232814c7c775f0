package removal

// attempt is a search for a way of a unit that found none.
type attempt struct {
	kind, node, parts int
}

// The kinds of attempt beside those along so many legs.
const (
	byTurning = -iota - 1
	byWandering
)

// hopeless reports whether a search for a way of a unit found none before, and all that it ran into is there still: what
// has left since was in nobody's way, so that it would find none again.
func (s *search) hopeless(kind int, u *unit) bool {
	met, failed := s.failures[attempt{kind, u.node, len(u.parts)}]
	if !failed {
		return false
	}
	for o := range met {
		if !s.there[o] {
			return false
		}
	}
	return true
}

// begins notes from now on what a unit runs into; fails keeps it.
func (s *search) begins() { s.met = map[int]bool{} }

func (s *search) fails(kind int, u *unit) {
	if !s.ended() {
		s.failures[attempt{kind, u.node, len(u.parts)}] = s.met
	}
	s.met = nil
}

// meet notes that a part is in the way.
func (s *search) meet(part int) {
	s.mu.Lock()
	if s.met != nil {
		s.met[part] = true
	}
	s.mu.Unlock()
}
