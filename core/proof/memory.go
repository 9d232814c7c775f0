package proof

import (
	"hash/maphash"
	"slices"
	"sync"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// Memory keeps what was found of pairs of parts, so that after an edit only those are looked at again that move
// otherwise than before. It belongs to one assembly, and keeps what the last look that came to its end needed, and all
// that was found since. It may be used by several goroutines.
type Memory struct {
	mu       sync.Mutex
	seed     maphash.Seed
	now, old map[remembered]answer
	first    *search // what is known of the shapes is used again
}

// search is newSearch with what is known of the shapes.
func (m *Memory) search(f *film.Film, shapes []*solid.Shape, settings Settings) *search {
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.first == nil || m.first.film.Assembly != f.Assembly {
		m.first = newSearch(f, shapes, settings)
		clear(m.now)
		clear(m.old)
	}
	s := *m.first
	if s.film, s.settings = f, settings; s.settings.Tolerance <= 0 {
		s.settings.Tolerance = Tolerance
	}
	return &s
}

// remembered is a pair, and how it moves and is seen.
type remembered struct {
	still, moving int
	way           uint64
}

// answer is what looking at a pair has told.
type answer struct {
	findings []Overlap
	passed   string
	moves    bool
}

// NewMemory returns an empty memory.
func NewMemory() *Memory {
	return &Memory{seed: maphash.MakeSeed(), now: map[remembered]answer{}, old: map[remembered]answer{}}
}

// Len is how many answers are kept.
func (m *Memory) Len() int {
	m.mu.Lock()
	defer m.mu.Unlock()
	return len(m.now) + len(m.old)
}

// turn follows a look that came to its end: what it has not needed is forgotten. Looks that were ended, as each is by
// the next edit, forget nothing.
func (m *Memory) turn() {
	m.mu.Lock()
	defer m.mu.Unlock()
	m.old, m.now = m.now, make(map[remembered]answer, len(m.now))
}

// recall is look with a memory.
func (m *Memory) recall(s *search, still, moving int) answer {
	g := s.film.Against(still, moving)
	if g == nil {
		return answer{}
	}
	var h maphash.Hash
	h.SetSeed(m.seed)
	maphash.WriteComparable(&h, s.settings.Tolerance)
	maphash.WriteComparable(&h, s.settings.SolidOnly)
	g.Write(&h)
	key := remembered{still, moving, h.Sum64()}
	m.mu.Lock()
	a, ok := m.now[key]
	if !ok {
		a, ok = m.old[key]
	}
	m.mu.Unlock()
	if !ok {
		a = s.look(g, still, moving)
	}
	m.mu.Lock()
	m.now[key] = a
	m.mu.Unlock()
	a.findings = slices.Clone(a.findings)
	if ok && len(a.findings) > 0 { // others may move the two in the same way, and both to somewhere else
		fr := s.film.NewFrame()
		for i := range a.findings {
			o := &a.findings[i]
			s.film.At(o.At, fr)
			o.Cues, o.Place = cuesOf(g, o), space.Vec3Of(fr.World[still].Apply(o.where))
		}
	}
	return a
}

func cuesOf(g *film.Against, o *Overlap) []reveal.CueID {
	return g.Cues(float64(o.From)-1, float64(o.To)+1)
}
