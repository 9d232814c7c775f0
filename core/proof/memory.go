package proof

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"hash/maphash"
	"maps"
	"slices"
	"sync"

	"slowreveal/core/assembly"
	"slowreveal/core/contact"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// Memory keeps what was found of pairs of parts, so that after an edit only those are looked at again that move
// otherwise than before. It belongs to one assembly, or to others that are equal to it (Digest), in however many reveals,
// and keeps what the last look that came to its end needed, all that was found since, and what earlier ones needed as
// far as there is room. It may be used by several goroutines.
type Memory struct {
	mu       sync.Mutex
	seed     maphash.Seed
	assembly *assembly.Assembly // the one that was looked at last
	digest   string             // its
	look     int                // how many have come to their end
	kept     map[remembered]*kept
	met      map[[2]int]map[uint64]met // of pieces
	first    *search                   // what is known of the shapes is used again; nil before the first look
	touching []contact.Contact         // nil before they were asked for
}

// kept is an answer, and the number of the look that needed it last.
type kept struct {
	answer
	look int
}

// leastKept is how many answers are kept at least, whatever the last look needed; each takes some hundred bytes.
const leastKept = 20_000

// Digest names an assembly by all that a look at a film of it can depend on: equal ones have the same.
func Digest(a *assembly.Assembly) string {
	h := sha256.New()
	if err := json.NewEncoder(h).Encode(a); err != nil { // it has come from JSON
		panic("an assembly that is no JSON: " + err.Error())
	}
	return hex.EncodeToString(h.Sum(nil))
}

// belongs has the memory be of an assembly: what it knows of another one is forgotten.
func (m *Memory) belongs(a *assembly.Assembly) {
	if m.assembly == a {
		return
	}
	digest := Digest(a)
	if digest != m.digest {
		m.first, m.touching = nil, nil
		clear(m.kept)
		clear(m.met)
	}
	m.assembly, m.digest = a, digest
}

// contacts are those of the assembly at rest, found once. Without a memory they are found each time.
func (m *Memory) contacts(ctx context.Context, a *assembly.Assembly, shapes []*solid.Shape) ([]contact.Contact, error) {
	if m == nil {
		return contact.Find(ctx, a, shapes, contact.Tolerance)
	}
	m.mu.Lock()
	m.belongs(a)
	known := m.touching
	m.mu.Unlock()
	if known != nil {
		return known, nil
	}
	list, err := contact.Find(ctx, a, shapes, contact.Tolerance)
	if err == nil {
		m.mu.Lock()
		if m.assembly == a {
			m.touching = append([]contact.Contact{}, list...)
		}
		m.mu.Unlock()
	}
	return list, err
}

// search is newSearch with what is known of the shapes.
func (m *Memory) search(f *film.Film, shapes []*solid.Shape, settings Settings) *search {
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.belongs(f.Assembly); m.first == nil {
		m.first = newSearch(f, shapes, settings)
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
	return &Memory{
		seed: maphash.MakeSeed(),
		kept: map[remembered]*kept{},
		met:  map[[2]int]map[uint64]met{},
	}
}

// Len is how many answers are kept.
func (m *Memory) Len() int {
	m.mu.Lock()
	defer m.mu.Unlock()
	return len(m.kept)
}

// turn follows a look that came to its end: of what it has not needed, the oldest is forgotten where there is more than
// three times what it needed. Looks that were ended, as each is by the next edit, forget nothing.
func (m *Memory) turn() {
	m.mu.Lock()
	defer m.mu.Unlock()
	needed := map[int]int{} // how much was needed last by each look
	for _, k := range m.kept {
		needed[k.look]++
	}
	most, gone, last := max(leastKept, 3*needed[m.look]), 0, -1
	for _, look := range slices.Sorted(maps.Keys(needed)) {
		if len(m.kept)-gone <= most {
			break
		}
		gone, last = gone+needed[look], look
	}
	maps.DeleteFunc(m.kept, func(_ remembered, k *kept) bool { return k.look <= last })
	m.look++
}

// pieces are what was found of a pair in pieces of time: it is found again where the two move alike in one, whatever
// they do before and behind. The last look at the pair is what is kept.
type pieces struct {
	memory  *Memory // nil for none
	pair    [2]int
	was, is map[uint64]met
}

func (m *Memory) piecesOf(still, moving int) *pieces {
	if m == nil {
		return &pieces{}
	}
	m.mu.Lock()
	defer m.mu.Unlock()
	pair := [2]int{still, moving}
	return &pieces{m, pair, m.met[pair], map[uint64]met{}}
}

func (p *pieces) keep() {
	if p.memory == nil {
		return
	}
	p.memory.mu.Lock()
	defer p.memory.mu.Unlock()
	if p.memory.met[p.pair] = p.is; len(p.is) == 0 {
		delete(p.memory.met, p.pair)
	}
}

// meet is that of the encounter, or what is known of it.
func (p *pieces) meet(e *encounter, tolerance, from, to float64) met {
	if p.memory == nil {
		return e.meet(from, to)
	}
	var h maphash.Hash
	h.SetSeed(p.memory.seed)
	maphash.WriteComparable(&h, tolerance)
	if !e.course.against.WriteDuring(&h, from, to) {
		return e.meet(from, to)
	}
	key := h.Sum64()
	found, ok := p.was[key]
	if !ok {
		found = e.meet(from, to)
	}
	p.is[key] = found
	return found
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
	a, ok := m.known(key)
	if !ok {
		a = s.look(g, still, moving)
		m.keep(key, a)
	}
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

// known is what was found, if it is kept.
func (m *Memory) known(of remembered) (answer, bool) {
	m.mu.Lock()
	defer m.mu.Unlock()
	k := m.kept[of]
	if k == nil {
		return answer{}, false
	}
	k.look = m.look
	return k.answer, true
}

func (m *Memory) keep(of remembered, a answer) {
	m.mu.Lock()
	defer m.mu.Unlock()
	m.kept[of] = &kept{a, m.look}
}

// cuesOf are the cues at fault: those that move the two meanwhile, or, where they come to be seen in one another, that
// have moved them before.
func cuesOf(g *film.Against, o *Overlap) []reveal.CueID {
	if list := g.Cues(float64(o.From)-1, float64(o.To)+1); len(list) > 0 {
		return list
	}
	return g.Cues(0, float64(o.From))
}
