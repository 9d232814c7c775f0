package match

import (
	"fmt"
	"math"
	"slices"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/assignment"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// Side is one revision of an assembly.
type Side struct {
	Assembly *assembly.Assembly
	Shapes   []*solid.Shape
}

// Pair is a node of the revision before and the one of the new revision that it has become.
type Pair struct {
	Old assembly.NodeID `json:"old"`
	// New is the id that the new file's names make.
	New assembly.NodeID `json:"new"`
	// Sure says that it is certain; otherwise Confidence, 0…1, tells how likely.
	Sure       bool    `json:"sure"`
	Confidence float64 `json:"confidence"`
	// Why names what speaks for it.
	Why     string   `json:"why"`
	Changes []Change `json:"changes,omitempty"`

	old, new int
	same     bool // the shape, though it is written otherwise
}

// Outcome is what a new revision is beside the one before.
type Outcome struct {
	Pairs  []Pair            `json:"pairs"`
	Gone   []assembly.NodeID `json:"gone"`  // ids of the revision before
	Added  []assembly.NodeID `json:"added"` // ids that the new file's names make
	Splits []Split           `json:"splits,omitempty"`
	Joins  []Join            `json:"joins,omitempty"`
	// Placed tells how the whole of the new file stands beside the one before; empty where it stands as it did.
	Placed string `json:"placed,omitempty"`

	move  space.Rigid                         // takes the old revision's world to the new one's
	known map[assembly.NodeID]assembly.NodeID // ids that nodes have for good, by those that their names make
}

// The shares of what speaks for a match.
const (
	byShape, byName, byPlace, byPath = 0.45, 0.25, 0.2, 0.1
	// least is the confidence below which two nodes are taken for different ones.
	least = 0.46
	// certain is the confidence, and margin how much more than any other, from which on a match is sure.
	certain, margin = 0.72, 0.12
	here            = 0.02 // mm: the same place
)

// node is what is known of a node.
type node struct {
	id     assembly.NodeID
	name   string // plain
	path   string // the plain names above it
	parent int
	part   bool
	shape  int
	hash   string    // of the shape
	middle space.Vec // of its box, in the world
	pose   space.Rigid
}

type side struct {
	*Side
	nodes  []node
	prints []solid.Fingerprint
	masses []solid.Mass
	copies []int // how many parts have each shape
	size   float64
}

func newSide(s *Side) *side {
	d := &side{Side: s, size: max(r3.Norm(s.Assembly.Bounds().Size()), 1)}
	worlds, boxes := s.Assembly.Worlds(), s.Assembly.BoundsOf()
	d.copies = make([]int, len(s.Shapes))
	for i := range s.Assembly.Nodes {
		n := &s.Assembly.Nodes[i]
		o := node{
			id:     n.ID,
			name:   assembly.Plain(n.Name),
			parent: n.Parent,
			part:   n.IsPart(),
			shape:  n.Shape,
			pose:   worlds[i],
		}
		if n.Parent >= 0 {
			o.path = d.nodes[n.Parent].path + "/" + d.nodes[n.Parent].name
		}
		box := boxes[i].Moved(&worlds[i])
		if o.part {
			d.copies[n.Shape]++
			o.hash = s.Assembly.Shapes[n.Shape].Hash
			box = s.Assembly.Shapes[n.Shape].Bounds().Moved(&worlds[i])
		}
		o.middle = box.Centre()
		d.nodes = append(d.nodes, o)
	}
	for _, shape := range s.Shapes {
		d.prints = append(d.prints, shape.Fingerprint())
		d.masses = append(d.masses, shape.Mass())
	}
	return d
}

type matcher struct {
	old, new *side
	move     space.Rigid // takes the old revision's world to the new one's
	alike    map[[2]int]float64
	pairs    map[int]int // old → new
	taken    map[int]int // new → old
	out      Outcome
	oldHeld  held
	newHeld  held
}

func newMatcher(old, new *Side) *matcher {
	return &matcher{
		old: newSide(old), new: newSide(new), alike: map[[2]int]float64{},
		pairs: map[int]int{}, taken: map[int]int{},
		out: Outcome{Pairs: []Pair{}, Gone: []assembly.NodeID{}, Added: []assembly.NodeID{}},
	}
}

// Of matches the nodes of two revisions.
func Of(old, new Side) Outcome {
	larger := otherUnit(old, new)
	if larger != 1 {
		old = old.scaled(larger)
	}
	m := newMatcher(&old, &new)
	m.register()
	m.pair(0, 0)
	m.out.Pairs[0].Sure, m.out.Pairs[0].Confidence, m.out.Pairs[0].Why = true, 1, "the whole assembly"
	m.matchIdentical()
	m.matchRest(func(n *node) bool { return n.part }, m.score)
	m.findPieces()
	m.matchRest(func(n *node) bool { return !n.part }, m.groupScore)
	m.tell()
	m.out.move = m.move
	if larger != 1 {
		m.out.Placed = unitWords(larger)
	}
	return m.out
}

func (m *matcher) pair(old, new int) *Pair {
	m.pairs[old], m.taken[new] = new, old
	m.out.Pairs = append(m.out.Pairs, Pair{
		Old: m.old.nodes[old].id, New: m.new.nodes[new].id, old: old, new: new,
	})
	return &m.out.Pairs[len(m.out.Pairs)-1]
}

// place is a part's shape, its name and about where it stands.
type place struct {
	hash, name string
	x, y, z    int64
}

func (s *side) placeOf(i int, move *space.Rigid) place {
	p := move.Apply(s.nodes[i].middle)
	grid := func(v float64) int64 { return int64(math.Round(v / (10 * here))) }
	return place{s.nodes[i].hash, s.nodes[i].name, grid(p.X), grid(p.Y), grid(p.Z)}
}

// matchIdentical pairs parts of one shape and name that stand at one place, where only one does on either side.
func (m *matcher) matchIdentical() {
	still := space.Identity
	olds, news := map[place]int{}, map[place][]int{}
	for i := range m.old.nodes {
		if m.old.nodes[i].part {
			olds[m.old.placeOf(i, &m.move)]++
		}
	}
	for k := range m.new.nodes {
		if m.new.nodes[k].part {
			at := m.new.placeOf(k, &still)
			news[at] = append(news[at], k)
		}
	}
	for i := range m.old.nodes {
		if !m.old.nodes[i].part {
			continue
		}
		at := m.old.placeOf(i, &m.move)
		if list := news[at]; olds[at] == 1 && len(list) == 1 {
			p := m.pair(i, list[0])
			p.Sure, p.Confidence, p.Why = true, 1, "the same shape and name at the same place"
		}
	}
}

// mostAtOnce is how many pairs are weighed in one assignment: its time grows with the cube of the nodes, and a thousand of
// them take some seconds.
const mostAtOnce = 1_200 * 1_200

// matchRest assigns what is left of a kind of node, all at once. Where that is too much, nodes that kept their id go
// first, then those of one shape; what is too much even then is told as gone and new.
func (m *matcher) matchRest(kind func(*node) bool, score func(old, new int) (float64, string)) {
	olds, news := m.left(kind)
	if len(olds)*len(news) > mostAtOnce {
		m.matchIDs(olds, news, score)
		for shape := range m.old.Assembly.Shapes {
			hash := m.old.Assembly.Shapes[shape].Hash
			alike, like := m.left(func(n *node) bool { return kind(n) && n.part && n.hash == hash })
			if len(alike)*len(like) <= mostAtOnce {
				m.assign(alike, like, score)
			}
		}
		if olds, news = m.left(kind); len(olds)*len(news) > mostAtOnce {
			return
		}
	}
	m.assign(olds, news, score)
}

// left are the nodes of a kind that are not matched yet.
func (m *matcher) left(kind func(*node) bool) (olds, news []int) {
	for i := range m.old.nodes {
		if _, done := m.pairs[i]; !done && kind(&m.old.nodes[i]) {
			olds = append(olds, i)
		}
	}
	for i := range m.new.nodes {
		if _, done := m.taken[i]; !done && kind(&m.new.nodes[i]) {
			news = append(news, i)
		}
	}
	return olds, news
}

// matchIDs pairs nodes that kept their id and that nothing speaks against.
func (m *matcher) matchIDs(olds, news []int, score func(old, new int) (float64, string)) {
	at := make(map[assembly.NodeID]int, len(news))
	for _, k := range news {
		at[m.new.nodes[k].id] = k
	}
	for _, i := range olds {
		k, there := at[m.old.nodes[i].id]
		if !there {
			continue
		}
		if won, why := score(i, k); won > least {
			p := m.pair(i, k)
			p.Confidence, p.Why, p.Sure = math.Round(100*won)/100, why, m.isSure(i, k, won, 0)
		}
	}
}

// assign gives each of some nodes another one, or none, so that the sum of confidence is greatest.
func (m *matcher) assign(olds, news []int, score func(old, new int) (float64, string)) {
	scores := make([]float64, len(olds)*len(news))
	for i, o := range olds {
		for k, n := range news {
			scores[i*len(news)+k], _ = score(o, n)
		}
	}
	places := assignment.Least(len(olds), len(news)+len(olds), func(i, k int) float64 {
		if k >= len(news) {
			return 1 - least // it is gone
		}
		return 1 - scores[i*len(news)+k]
	})
	for i, k := range places {
		if k >= len(news) || scores[i*len(news)+k] <= least {
			continue
		}
		won := scores[i*len(news)+k]
		other := 0.0 // the best of those that either could have been instead
		for j := range news {
			if j != k && !m.twins(m.new, news[j], news[k]) {
				other = max(other, scores[i*len(news)+j])
			}
		}
		for j := range olds {
			if j != i && !m.twins(m.old, olds[j], olds[i]) {
				other = max(other, scores[j*len(news)+k])
			}
		}
		_, why := score(olds[i], news[k])
		p := m.pair(olds[i], news[k])
		p.Confidence, p.Why = math.Round(100*won)/100, why
		p.Sure = m.isSure(olds[i], news[k], won, other)
	}
}

// isSure reports whether there is no doubt about a match: it has the same path of names and nothing speaks against it,
// or it is much likelier than any other. Likes that cannot be told apart do not count as others, but where several of
// them have moved it is not certain which is which.
func (m *matcher) isSure(old, new int, won, other float64) bool {
	o, n := &m.old.nodes[old], &m.new.nodes[new]
	same := o.name == n.name && o.path == n.path
	switch {
	case won < 0.6:
		return false
	case same && o.id == n.id && won-other > -margin:
		return won >= certain || m.shapes(o, n) > 0.6
	case o.part && m.old.copies[o.shape] > 1 && m.near(old, new) > 10*here:
		return false // one of several alike that has moved: which one cannot be known
	}
	return won >= certain && won-other >= margin
}

// twins reports whether two nodes of a side are alike but for where they stand, which tells them apart.
func (m *matcher) twins(s *side, a, b int) bool {
	x, y := &s.nodes[a], &s.nodes[b]
	return x.part && y.part && x.shape == y.shape && x.name == y.name && x.path == y.path &&
		r3.Norm(r3.Sub(x.middle, y.middle)) > 0.02*s.size
}

// near is how far apart two nodes stand, mm, when the revisions are laid over one another.
func (m *matcher) near(old, new int) float64 {
	return r3.Norm(r3.Sub(m.move.Apply(m.old.nodes[old].middle), m.new.nodes[new].middle))
}

// score is how much speaks for two parts being one, and what.
func (m *matcher) score(old, new int) (float64, string) {
	o, n := &m.old.nodes[old], &m.new.nodes[new]
	shape := m.shapes(o, n)
	name := alikeNames(o.name, n.name)
	path := alikeNames(o.path, n.path)
	far := m.near(old, new)
	place := math.Exp(-far / (0.02 * m.old.size))
	sum := byShape*shape + byName*name + byPlace*place + byPath*path
	why := fmt.Sprintf("shape %.0f %%, name %.0f %%, %.3g mm apart", 100*shape, 100*name, far)
	return sum, why
}

// shapes is how alike the shapes of two parts are, 0…1.
func (m *matcher) shapes(o, n *node) float64 {
	key := [2]int{o.shape, n.shape}
	if v, known := m.alike[key]; known {
		return v
	}
	v := m.compareShapes(o.shape, n.shape)
	m.alike[key] = v
	return v
}

func (m *matcher) compareShapes(a, b int) float64 {
	if m.old.Assembly.Shapes[a].Hash == m.new.Assembly.Shapes[b].Hash {
		return 1
	}
	switch m.old.prints[a].Similarity(&m.new.prints[b]) {
	case solid.Same:
		return 0.98
	case solid.Mirrored:
		return 0.7
	}
	ratio := func(x, y float64) float64 {
		x, y = math.Abs(x)+1e-9, math.Abs(y)+1e-9
		return min(x, y) / max(x, y)
	}
	x, y := &m.old.masses[a], &m.new.masses[b]
	like := ratio(x.Area, y.Area) * ratio(x.Volume, y.Volume)
	sx, sy := sides(m.old.Assembly.Shapes[a].Bounds()), sides(m.new.Assembly.Shapes[b].Bounds())
	for k := range sx {
		like *= ratio(sx[k], sy[k])
	}
	return 0.9 * like
}

// sides are those of a box, the shortest first.
func sides(b space.Box) [3]float64 {
	s := b.Size()
	list := [3]float64{s.X, s.Y, s.Z}
	slices.Sort(list[:])
	return list
}
