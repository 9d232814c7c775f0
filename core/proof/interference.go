package proof

import (
	"cmp"
	"context"
	"fmt"
	"math"
	"slices"
	"sync/atomic"

	"github.com/sourcegraph/conc/iter"

	"slowreveal/core/assembly"
	"slowreveal/core/clearance"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// Tolerance is how much deeper, mm, than at rest parts may lie in one another.
const Tolerance = clearance.Tolerance

// deepest is how far, mm, two bodies are thinned together to find how deep they lie in one another.
const deepest = 6.4

// Overlap is a time in which two parts are deeper in one another than at rest.
type Overlap struct {
	// Still and Moving are the parts, in the order of the assembly. Which of them moves is for the cues to say.
	Still  assembly.NodeID `json:"still"`
	Moving assembly.NodeID `json:"moving"`
	// From and To are the film times, µs, between which the parts are too deep in one another, At is a moment at
	// which they are deepest.
	From reveal.Micros `json:"from"`
	To   reveal.Micros `json:"to"`
	At   reveal.Micros `json:"at"`
	// Depth is by how much the two have to be thinned together at that moment to lie apart, less than what they are at
	// rest, mm; at most deepest.
	Depth float64 `json:"depth"`
	// Place is where they meet at that moment, in the world, mm.
	Place space.Vec3 `json:"place"`
	// Cues are those that move one against the other in that time.
	Cues []reveal.CueID `json:"cues"`

	where space.Vec // Place in the frame of the still one
}

// Passed is a pair of parts that was not looked at, and why.
type Passed struct {
	Still  assembly.NodeID `json:"still"`
	Moving assembly.NodeID `json:"moving"`
	Why    string          `json:"why"`
}

// Overlaps are where parts go into one another, and what was looked at.
type Overlaps struct {
	List   []Overlap `json:"list"`
	Passed []Passed  `json:"passed,omitempty"`
	// Beyond is how many pairs come near one another beyond mostPairs: they were not looked at.
	Beyond int `json:"beyond,omitempty"`
	// Pairs is how many pairs of parts move against each other and come near, of all that there are.
	Pairs int `json:"pairs"`
	All   int `json:"all"`
	// Duration is the film's, µs.
	Duration  reveal.Micros `json:"duration"`
	Tolerance float64       `json:"tolerance"` // mm
}

// mostPairs is how many pairs of parts are looked at.
const mostPairs = 500_000

// Settings say what counts.
type Settings struct {
	Tolerance float64 // mm; 0 for Tolerance
	// Threads is how many pairs are looked at at once; 0 for all processors.
	Threads int
	// SolidOnly leaves parts out while they are see-through.
	SolidOnly bool

	// Checks are the names of those that are looked at, all without any.
	Checks []string

	// Memory keeps what was found for the next look at the same assembly; nil for none.
	Memory *Memory

	progress func(done float64)  // 0…1, nil for nobody
	only     func(a, b int) bool // which pairs are looked at, nil for all
	// whether there is one is all that is asked: the first ends the search, and is not described
	any bool
}

// search is the proof of one film.
type search struct {
	film     *film.Film
	space    *clearance.Space
	rest     []space.Rigid // in the world, as the assembly was imported
	settings Settings
}

// Interference finds where parts go into one another. They are in the order of time; they are the same on every
// machine. It returns an error only where ctx has ended.
func Interference(ctx context.Context, f *film.Film, shapes []*solid.Shape, settings Settings) (Overlaps, error) {
	if m := settings.Memory; m != nil {
		return m.search(f, shapes, settings).run(ctx)
	}
	return newSearch(f, shapes, settings).run(ctx)
}

func newSearch(f *film.Film, shapes []*solid.Shape, settings Settings) *search {
	if settings.Tolerance <= 0 {
		settings.Tolerance = Tolerance
	}
	return &search{
		film:     f,
		space:    clearance.NewSpace(f.Assembly, shapes),
		rest:     f.Assembly.Worlds(),
		settings: settings,
	}
}

// of is the same search in another film of the assembly.
func (s *search) of(f *film.Film, only func(a, b int) bool) *search {
	o := *s
	o.film, o.settings.only, o.settings.progress = f, only, nil
	return &o
}

func (s *search) run(given context.Context) (Overlaps, error) {
	f, settings := s.film, s.settings
	parts, reach := s.reach()
	report := Overlaps{
		List:      []Overlap{},
		Duration:  f.Duration(),
		Tolerance: settings.Tolerance,
		All:       len(parts) * (len(parts) - 1) / 2,
	}
	near, beyond := meeting(parts, reach)
	if settings.only != nil {
		near = slices.DeleteFunc(near, func(p [2]int) bool { return !settings.only(p[0], p[1]) })
	}
	report.Beyond = beyond
	mapper := iter.Mapper[[2]int, answer]{MaxGoroutines: settings.Threads}
	var done atomic.Int64
	ctx, enough := context.WithCancel(given)
	defer enough()
	answers := mapper.Map(near, func(p *[2]int) (a answer) {
		if ctx.Err() != nil {
			return a
		}
		if settings.Memory != nil && settings.only == nil {
			a = settings.Memory.recall(s, p[0], p[1])
		} else if g := f.Against(p[0], p[1]); g != nil {
			a = s.look(g, p[0], p[1])
		}
		if settings.any && len(a.findings) > 0 {
			enough()
		}
		if settings.progress != nil {
			settings.progress(float64(done.Add(1)) / float64(len(near)))
		}
		return a
	})
	if err := given.Err(); err != nil {
		return Overlaps{}, err
	}
	if settings.Memory != nil && settings.only == nil {
		settings.Memory.turn()
	}
	nodes := f.Assembly.Nodes
	for i, a := range answers {
		if a.moves {
			report.Pairs++
		}
		if a.passed != "" {
			report.Passed = append(report.Passed, Passed{nodes[near[i][0]].ID, nodes[near[i][1]].ID, a.passed})
		}
		report.List = append(report.List, a.findings...)
	}
	slices.SortStableFunc(report.List, func(a, b Overlap) int {
		return cmp.Or(cmp.Compare(a.From, b.From), cmp.Compare(a.Still, b.Still), cmp.Compare(a.Moving, b.Moving))
	})
	return report, nil
}

// reach lists the parts, and where each is at any time of the film, in the frame of the root.
func (s *search) reach() (parts []int, boxes []space.Box) {
	for i := range s.film.Assembly.Nodes {
		if s.film.Assembly.Nodes[i].IsPart() {
			parts = append(parts, i)
		}
	}
	fr := s.film.NewFrame()
	s.film.At(0, fr)
	root := fr.World[0].Inverse()
	boxes = iter.Map(parts, func(node *int) space.Box {
		own := s.film.Assembly.Shapes[s.film.Assembly.Nodes[*node].Shape].Bounds()
		g := s.film.Against(0, *node)
		if g == nil {
			at := root.Mul(&fr.World[*node])
			return own.Moved(&at)
		}
		at := g.At(0)
		all := own.Moved(&at)
		turns := g.Turns()
		for i := 1; i < len(turns); i++ {
			all = all.Union(sweptOver(g, own, turns[i-1], turns[i]))
		}
		return all
	})
	return parts, boxes
}

// sweptOver is a box that holds another one during a piece of time.
func sweptOver(g *film.Against, own space.Box, from, to float64) space.Box {
	arc := g.Arc(from, to)
	if arc.Angle > film.Wide && arc.Helix == nil && to-from > shortest {
		middle := (from + to) / 2
		return sweptOver(g, own, from, middle).Union(sweptOver(g, own, middle, to))
	}
	return sweptBy(&arc, own)
}

// meeting lists the pairs of parts whose boxes meet, by sweeping along X, and counts those beyond mostPairs.
func meeting(parts []int, boxes []space.Box) (pairs [][2]int, beyond int) {
	order := make([]int, len(parts))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(boxes[a].Min.X, boxes[b].Min.X) })
	for i, a := range order {
		for _, b := range order[i+1:] {
			if boxes[b].Min.X > boxes[a].Max.X {
				break
			}
			if separate(boxes[a], boxes[b], 0) {
				continue
			}
			if beyond++; len(pairs) < mostPairs {
				pairs = append(pairs, [2]int{min(parts[a], parts[b]), max(parts[a], parts[b])})
			}
		}
	}
	slices.SortFunc(pairs, func(a, b [2]int) int { return cmp.Or(cmp.Compare(a[0], b[0]), cmp.Compare(a[1], b[1])) })
	return pairs, beyond - len(pairs)
}

// look looks at one pair, in which one moves against the other by g.
func (s *search) look(g *film.Against, still, moving int) (a answer) {
	a.moves = true
	turns := g.Turns()
	c := &course{film: s.film, against: g, nodes: [2]int{still, moving}}
	var e *encounter
	base, ok := 0.0, false
	known := s.settings.Memory.piecesOf(still, moving)
	defer known.keep()
	apart := map[int]bool{} // pieces of a mechanism's period in which they do not touch
	for _, p := range s.stretches(g, still, moving, turns) {
		from, to := p.from, p.to
		name, repeats := g.Place(from, to)
		repeats = repeats && p.whole
		if repeats && apart[name] {
			continue
		}
		if !s.comesNear(c, still, moving, from, to) {
			if repeats {
				apart[name] = true
			}
			continue
		}
		if e == nil {
			if base, ok = s.atRest(still, moving); !ok {
				a.passed = "they lie more than 1.6 mm in one another at rest"
				return a
			}
			e = &encounter{still: s.space.Slim(still, base), moving: s.space.Slim(moving, base), course: c}
			e.swept = lent.Get().(*both)
			defer lent.Put(e.swept)
		}
		if s.settings.any {
			e.left = most
			first, touches := e.first(from, to)
			if touches && s.bothSeen(still, moving, first, to) {
				nodes, at := s.film.Assembly.Nodes, reveal.Micros(first)
				a.findings = []Overlap{{Still: nodes[still].ID, Moving: nodes[moving].ID, From: at, To: at}}
				return a
			}
			if repeats && !touches && e.left >= 0 {
				apart[name] = true
			}
			continue
		}
		met := known.meet(e, s.settings.Tolerance, from, to)
		if met.crowded {
			a.passed = fmt.Sprintf("too much of them lies close together from %.2f to %.2f s", from/1e6, to/1e6)
			continue
		}
		if repeats && len(met.times) == 0 {
			apart[name] = true
		}
		for _, one := range met.times {
			if n := len(a.findings); n > 0 && reveal.Micros(one[0]) <= a.findings[n-1].To+1 {
				a.findings[n-1].To = reveal.Micros(one[1])
			} else {
				a.findings = append(a.findings, Overlap{From: reveal.Micros(math.Round(one[0])), To: reveal.Micros(math.Round(one[1]))})
			}
		}
	}
	a.findings = s.describe(a.findings, g, still, moving, base)
	return a
}

// stretch is a piece of time between two turns in which both parts may be seen; whole says that it is all between them.
type stretch struct {
	from, to float64
	whole    bool
}

// stretches are the pieces of time in which two parts are looked at. Where they come to be seen when nothing moves any
// more, and stand otherwise than at rest, that is one, too.
func (s *search) stretches(g *film.Against, still, moving int, turns []float64) (list []stretch) {
	seen := common(s.film.Seen(still), s.film.Seen(moving))
	for i := 1; i < len(turns); i++ {
		for _, p := range seen {
			from, to := max(turns[i-1], p[0]), min(turns[i], p[1])
			if from < to {
				list = append(list, stretch{from, to, from == turns[i-1] && to == turns[i]})
			}
		}
	}
	if len(seen) == 0 || len(turns) == 0 {
		return list
	}
	if last := seen[len(seen)-1]; last[0] >= turns[len(turns)-1] {
		inverse := s.rest[still].Inverse()
		rest, now := inverse.Mul(&s.rest[moving]), g.At(last[0])
		if rest != now {
			list = append(list, stretch{from: last[0], to: last[1]})
		}
	}
	return list
}

// common are the pieces of time that two lists of them have in common.
func common(a, b [][2]float64) (list [][2]float64) {
	for _, x := range a {
		for _, y := range b {
			if from, to := max(x[0], y[0]), min(x[1], y[1]); from < to {
				list = append(list, [2]float64{from, to})
			}
		}
	}
	return list
}

// comesNear reports whether the boxes of two parts meet within a piece of time.
func (s *search) comesNear(c *course, still, moving int, from, to float64) bool {
	nodes, shapes := s.film.Assembly.Nodes, s.film.Assembly.Shapes
	p := c.over(from, to)
	if p.boxesApart(shapes[nodes[still].Shape].Bounds(), shapes[nodes[moving].Shape].Bounds()) {
		return false
	}
	if p.wide() && to-from > shortest {
		middle := (from + to) / 2
		return s.comesNear(c, still, moving, from, middle) || s.comesNear(c, still, moving, middle, to)
	}
	return true
}

// atRest is by how much a pair is thinned while it is looked at.
func (s *search) atRest(still, moving int) (slack float64, ok bool) {
	inverse := s.rest[still].Inverse()
	place := inverse.Mul(&s.rest[moving])
	return s.space.AtRest(still, moving, &place, s.settings.Tolerance)
}
