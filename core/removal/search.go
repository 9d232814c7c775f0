package removal

import (
	"context"
	"math"
	"slices"
	"sync"

	"github.com/sourcegraph/conc/iter"
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/clearance"
	"slowreveal/core/fastener"
	"slowreveal/core/plan"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// search is a plan that is being made.
type search struct {
	ctx     context.Context
	subject Subject
	choices plan.Choices
	found   func(plan.Plan)

	nodes    []assembly.Node
	index    map[assembly.NodeID]int
	space    *clearance.Space
	world    []space.Rigid
	box      []space.Box // of parts, in the world
	children [][]int
	below    [][]int // the parts at or below each node
	touching [][]touch
	joined   [][]int // of a screw or nut, the parts that it holds together
	size     float64 // the diagonal of all that is there, mm

	there   []bool // by node: the part is in its place
	parked  []int  // parts that have left before, and are seen: they stay where they stand
	kept    []bool // by node: it stays where it is, with all below it
	whole   []bool // by node: it is not taken apart
	stays   int    // the part that all others leave
	relaxed bool   // fasteners need not leave first
	last    space.Vec
	lastWay space.Vec
	freed   []int // what the last fasteners held

	mu       sync.Mutex
	ways     []space.Vec
	pairs    map[pairKey]float64
	slacks   map[[2]int]slack
	blockers map[blockKey][2]int
	tops     map[topKey]space.Box
	features map[int][]solid.Feature
	corners  [][]space.Vec // by shape: the points that tell where it reaches; nil until they are needed
	asked    int
	wandered int // how many places units have been led to, beyond a few legs
	posed    int // in how many poses units have been looked at that were turned on the way

	failures map[attempt]map[int]bool // what was run into
	met      map[int]bool             // in the attempt that is being made

	moves []*removal
	stuck []plan.Stuck
}

// touch is a part that another one touches.
type touch struct {
	node   int
	normal space.Vec // towards it; zero where directions cancel
	area   float64   // mm²
}

type pairKey struct{ moving, still, way int }

type blockKey struct{ node, way int }

// unit is what leaves at once: parts, and the nodes that cues act on.
type unit struct {
	node  int // the highest of its nodes
	nodes []int
	parts []int
}

// removal is a move while the plan is made.
type removal struct {
	units   []unit
	ways    []route
	carried int
	why     []string
	given   bool
	hits    int // what it goes into, −1 for nothing
	swing   *plan.Swing
	others  []plan.Other
	move    plan.Move
}

// route is the legs of a unit.
type route struct {
	legs []leg
}

// leg is a straight way: need is how far it has to go at least, far how far it goes, most how far it may, mm; 0 for as
// far as it likes.
type leg struct {
	along           space.Vec
	need, far, most float64
}

func newSearch(ctx context.Context, subject Subject, choices plan.Choices, found func(plan.Plan)) *search {
	a := subject.Assembly
	n := len(a.Nodes)
	s := &search{
		ctx:      ctx,
		subject:  subject,
		choices:  choices,
		found:    found,
		nodes:    a.Nodes,
		index:    a.Index(),
		space:    clearance.NewSpace(a, subject.Shapes),
		world:    subject.At.World,
		box:      make([]space.Box, n),
		children: make([][]int, n),
		below:    make([][]int, n),
		touching: make([][]touch, n),
		joined:   make([][]int, n),
		there:    make([]bool, n),
		kept:     make([]bool, n),
		whole:    make([]bool, n),
		stays:    -1,
		pairs:    map[pairKey]float64{},
		slacks:   map[[2]int]slack{},
		failures: map[attempt]map[int]bool{},
		blockers: map[blockKey][2]int{},
		tops:     map[topKey]space.Box{},
		features: map[int][]solid.Feature{},
	}
	all := space.EmptyBox
	gone := s.gone()
	for i := n - 1; i >= 0; i-- {
		node := &a.Nodes[i]
		if node.IsPart() {
			s.box[i] = a.Shapes[node.Shape].Bounds().Moved(&s.world[i])
			if s.there[i] = subject.At.Opacity[i] > 0 && !gone[i]; s.there[i] {
				s.below[i] = append(s.below[i], i)
				all = all.Union(s.box[i])
			} else if subject.At.Opacity[i] > 0 {
				s.parked = append(s.parked, i)
			}
		}
		if node.Parent >= 0 {
			s.children[node.Parent] = append(s.children[node.Parent], i)
			s.below[node.Parent] = append(s.below[node.Parent], s.below[i]...)
		}
	}
	for i := range n {
		slices.Reverse(s.children[i])
		slices.Sort(s.below[i])
	}
	s.size = max(r3.Norm(all.Size()), 1)
	s.mark(choices.Whole, s.whole)
	s.mark(choices.Without, s.kept)
	s.mark(choices.Stays, s.kept)
	s.contacts()
	s.choose()
	return s
}

// gone marks what has left its place already: a node that stands otherwise in its parent than at rest, and all below
// it. Whether it is the parent's own move that it takes part in does not count.
func (s *search) gone() []bool {
	gone := make([]bool, len(s.nodes))
	for i := 1; i < len(s.nodes); i++ {
		p := s.nodes[i].Parent
		inverse := s.world[p].Inverse()
		now, rest := inverse.Mul(&s.world[i]), s.nodes[i].Pose.Rigid()
		off := r3.Norm(r3.Sub(now.T, rest.T)) > 0.01 ||
			math.Abs(now.R[0]-rest.R[0])+math.Abs(now.R[4]-rest.R[4])+math.Abs(now.R[8]-rest.R[8]) > 1e-4
		gone[i] = gone[p] || off
	}
	return gone
}

func (s *search) mark(ids []assembly.NodeID, marks []bool) {
	for _, id := range ids {
		if i, ok := s.index[id]; ok {
			marks[i] = true
		}
	}
}

// contacts notes what touches what, and what screws and nuts hold.
func (s *search) contacts() {
	for _, c := range s.subject.Survey.Contacts {
		a, b := s.index[c.A], s.index[c.B]
		if !s.there[a] || !s.there[b] {
			continue
		}
		n := c.Normal.Vec()
		s.touching[a] = append(s.touching[a], touch{b, n, c.Area})
		s.touching[b] = append(s.touching[b], touch{a, r3.Scale(-1, n), c.Area})
	}
	for i := range s.nodes {
		if g := s.fastener(i); g == nil || g.Kind != fastener.Screw && g.Kind != fastener.Nut {
			continue
		}
		for _, t := range s.touching[i] {
			s.joined[i] = append(s.joined[i], t.node)
		}
	}
}

// fastener is what a part seems to be, nil for none.
func (s *search) fastener(node int) *fastener.Guess {
	if !s.nodes[node].IsPart() {
		return nil
	}
	return s.subject.Survey.Shapes[s.nodes[node].Shape].Fastener
}

// choose finds the part that stays: the largest of those that touch most, where the author has not said so.
func (s *search) choose() {
	for i := range s.nodes {
		if s.kept[i] && len(s.below[i]) > 0 && slices.Contains(s.choices.Stays, s.nodes[i].ID) {
			s.stays = s.below[i][0]
			return
		}
	}
	s.stays = s.heaviest(s.below[0])
}

// heaviest is the part of a list that is large and touches most, −1 for an empty list. A body that is open counts by
// its box.
func (s *search) heaviest(parts []int) int {
	best, most := -1, -1.0
	for _, i := range parts {
		facts := &s.subject.Survey.Shapes[s.nodes[i].Shape]
		size := s.box[i].Size()
		weight := facts.Volume
		if !facts.Closed {
			weight = 0.1 * size.X * size.Y * size.Z
		}
		weight = math.Sqrt(weight*size.X*size.Y*size.Z) * math.Sqrt(1+float64(len(s.touching[i])))
		if s.fastener(i) == nil && weight > most || best < 0 {
			best, most = i, weight
		}
	}
	return best
}

// wayOf gives a direction of the world a number; those that differ by less than 0.1° share one.
func (s *search) wayOf(d space.Vec) int {
	s.mu.Lock()
	defer s.mu.Unlock()
	for i, w := range s.ways {
		if r3.Norm(r3.Cross(w, d)) < 2e-3 && r3.Dot(w, d) > 0 {
			return i
		}
	}
	s.ways = append(s.ways, d)
	return len(s.ways) - 1
}

// far is how far a part goes along a way before it touches another one, mm, infinite where it does not. It does not
// depend on what else is there.
func (s *search) far(moving, still, way int) float64 {
	key := pairKey{moving, still, way}
	s.mu.Lock()
	d := s.ways[way]
	free, known := s.pairs[key]
	s.mu.Unlock()
	if known {
		return free
	}
	free = s.between(moving, still, &s.world[moving], d, 3*s.size)
	s.mu.Lock()
	s.pairs[key] = free
	s.mu.Unlock()
	return free
}

// between is how far a part that stands somewhere goes along a direction of the world before it touches another one in
// its place, infinite where that is farther than limit, mm.
func (s *search) between(moving, still int, stands *space.Rigid, d space.Vec, limit float64) float64 {
	own := s.subject.Assembly.Shapes[s.nodes[moving].Shape].Bounds().Moved(stands)
	if solid.Meets(s.box[still], own, r3.Scale(limit, d)) > 1 {
		return math.Inf(1)
	}
	s.mu.Lock()
	s.asked++
	s.mu.Unlock()
	inverse := s.world[still].Inverse()
	slack, ok := s.atRest(still, moving)
	if !ok { // nothing can be said of them
		if s.welded(moving, still, ok) {
			return 0
		}
		return math.Inf(1)
	}
	place := inverse.Mul(stands)
	return s.space.Free(still, moving, &place, s.world[still].R.ApplyInverse(d), limit, slack)
}

// slack is by how much two parts are thinned while they are looked at; ok is false where nothing can be said of them.
type slack struct {
	mm float64
	ok bool
}

// atRest is what clearance.Space.AtRest says of two parts, which stand where they are: it is asked once.
func (s *search) atRest(still, moving int) (mm float64, ok bool) {
	key := [2]int{still, moving}
	s.mu.Lock()
	known, there := s.slacks[key]
	s.mu.Unlock()
	if there {
		return known.mm, known.ok
	}
	inverse := s.world[still].Inverse()
	rest := inverse.Mul(&s.world[moving])
	mm, ok = s.space.AtRest(still, moving, &rest, clearance.Tolerance)
	s.mu.Lock()
	s.slacks[key] = slack{mm, ok}
	s.mu.Unlock()
	return mm, ok
}

// welded reports whether two parts that lie deep in one another (apart is false) are taken as one, as they are drawn:
// parts of one subassembly, none of them a fastener.
func (s *search) welded(a, b int, apart bool) bool {
	return !apart && s.nodes[a].Parent == s.nodes[b].Parent && s.fastener(a) == nil && s.fastener(b) == nil
}

// blocked returns a part of a unit and what keeps it from leaving along a way; ok is false where it is free.
func (s *search) blocked(u *unit, way int) (by [2]int, ok bool) {
	key := blockKey{u.node, way}
	in := s.in(u)
	s.mu.Lock()
	by, ok = s.blockers[key]
	s.mu.Unlock()
	if ok && s.there[by[1]] && in[by[0]] && !in[by[1]] {
		return by, true
	}
	for _, m := range u.parts {
		for o, there := range s.there {
			if !there || in[o] {
				continue
			}
			if !math.IsInf(s.far(m, o, way), 1) {
				by = [2]int{m, o}
				s.mu.Lock()
				s.blockers[key] = by
				s.mu.Unlock()
				return by, true
			}
		}
	}
	return by, false
}

// room is how far a unit goes along a way before it touches what has left before, mm, infinite where it does not.
func (s *search) room(u *unit, way int) float64 {
	far := math.Inf(1)
	for _, o := range s.parked {
		for _, m := range u.parts {
			far = min(far, s.far(m, o, way))
		}
	}
	return far
}

func (s *search) in(u *unit) []bool {
	in := make([]bool, len(s.nodes))
	for _, p := range u.parts {
		in[p] = true
	}
	return in
}

// unitOf is what is still in its place at or below a node.
func (s *search) unitOf(node int) unit {
	u := unit{node: node}
	for _, p := range s.below[node] {
		if s.there[p] {
			u.parts = append(u.parts, p)
		}
	}
	for !s.nodes[u.node].IsPart() && len(u.parts) > 0 { // the lowest node that holds them all
		k := slices.IndexFunc(s.children[u.node], func(c int) bool { return s.holds(c, u.parts) })
		if k < 0 {
			break
		}
		u.node = s.children[u.node][k]
	}
	u.nodes = s.cover(node, len(u.parts), nil)
	return u
}

// cover lists the highest nodes that hold nothing but what is in its place.
func (s *search) cover(node, n int, list []int) []int {
	if n == 0 {
		return list
	}
	if n == len(s.below[node]) {
		return append(list, node)
	}
	for _, c := range s.children[node] {
		k := 0
		for _, p := range s.below[c] {
			if s.there[p] {
				k++
			}
		}
		list = s.cover(c, k, list)
	}
	if s.nodes[node].IsPart() && s.there[node] { // a part that has others below it
		list = append(list, node)
	}
	return list
}

// keeps reports whether a unit may not be moved: the author wants it, or a part of it, to stay, or it is what all
// others leave.
func (s *search) keeps(u *unit, stays int) bool {
	for _, p := range u.parts {
		if p == stays {
			return true
		}
		for i := p; i >= 0; i = s.nodes[i].Parent {
			if s.kept[i] {
				return true
			}
		}
	}
	return false
}

// each asks a question of several things at once, on all processors.
func each[T, R any](list []T, ask func(T) R) []R {
	return iter.Map(list, func(t *T) R { return ask(*t) })
}

func (s *search) ended() bool { return s.ctx.Err() != nil }
