package match

import (
	"fmt"
	"math"
	"slices"

	"slowreveal/core/assembly"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// ChangeKind is what has become of a node.
type ChangeKind string

// The kinds of change.
const (
	Moved     ChangeKind = "moved"
	Turned    ChangeKind = "turned"
	Renamed   ChangeKind = "renamed"
	Regrouped ChangeKind = "regrouped"
	Reshaped  ChangeKind = "reshaped"
	Mirrored  ChangeKind = "mirrored"
	Refinish  ChangeKind = "finish"
	Divided   ChangeKind = "split"
	United    ChangeKind = "joined"
)

// Change is one thing that is otherwise in the new revision, in words.
type Change struct {
	Kind ChangeKind `json:"kind"`
	Says string     `json:"says"`
}

// tell sorts what was found in the order of the revision before, and says what has changed.
func (m *matcher) tell() {
	slices.SortFunc(m.out.Pairs, func(a, b Pair) int { return a.old - b.old })
	for i := range m.out.Pairs {
		m.compare(&m.out.Pairs[i])
	}
	for i := range m.old.nodes {
		if _, there := m.pairs[i]; !there {
			m.out.Gone = append(m.out.Gone, m.old.nodes[i].id)
		}
	}
	for k := range m.new.nodes {
		if _, there := m.taken[k]; !there {
			m.out.Added = append(m.out.Added, m.new.nodes[k].id)
		}
	}
}

func (m *matcher) compare(p *Pair) {
	o, n := &m.old.nodes[p.old], &m.new.nodes[p.new]
	a, b := &m.old.Assembly.Nodes[p.old], &m.new.Assembly.Nodes[p.new]
	say := func(kind ChangeKind, text string, args ...any) {
		p.Changes = append(p.Changes, Change{kind, fmt.Sprintf(text, args...)})
	}
	if p.old != 0 && a.Name != b.Name {
		say(Renamed, "is called “%s” now, not “%s”", b.Name, a.Name)
	}
	if o.parent >= 0 && n.parent >= 0 {
		if to, matched := m.pairs[o.parent]; !matched || to != n.parent {
			say(
				Regrouped,
				"is in “%s” now, not in “%s”",
				m.new.Assembly.Nodes[n.parent].Name,
				m.old.Assembly.Nodes[o.parent].Name,
			)
		}
	}
	if !o.part || !n.part {
		return
	}
	if !slices.ContainsFunc(p.Changes, func(c Change) bool { return c.Kind == Divided || c.Kind == United }) {
		m.compareBodies(p, o, n, say)
	}
	if look := m.new.lookOf(b); look != m.old.lookOf(a) {
		say(Refinish, "looks otherwise: %s", look)
	}
}

func (m *matcher) compareBodies(p *Pair, o, n *node, say func(ChangeKind, string, ...any)) {
	if far := m.near(p.old, p.new); far >= here {
		say(Moved, "stands %.4g mm elsewhere", far)
	}
	same := m.old.Assembly.Shapes[o.shape].Hash == m.new.Assembly.Shapes[n.shape].Hash
	if same {
		was := m.move.R.Mul(&o.pose.R)
		back := was.Transposed()
		by := n.pose.R.Mul(&back)
		if angle := by.Angle() * 180 / math.Pi; angle > 0.05 {
			say(Turned, "is turned by %.4g°", angle)
		}
		return
	}
	switch m.old.prints[o.shape].Similarity(&m.new.prints[n.shape]) {
	case solid.Same: // written by another program, or triangulated otherwise
		p.same = true
	case solid.Mirrored:
		say(Mirrored, "is its own mirror image")
	default:
		x, y := &m.old.masses[o.shape], &m.new.masses[n.shape]
		size := m.new.Assembly.Shapes[n.shape].Bounds().Size()
		before := m.old.Assembly.Shapes[o.shape].Bounds().Size()
		says := grown(before, size)
		switch more := 100 * (y.Volume/math.Max(math.Abs(x.Volume), 1e-9) - 1); {
		case math.Abs(more) < 0.05:
			says += "; as much volume"
		case more < 0:
			says += fmt.Sprintf("; −%.3g %% of volume", -more)
		default:
			says += fmt.Sprintf("; +%.3g %% of volume", more)
		}
		say(Reshaped, "has another shape: %s", says)
	}
}

// grown says how a box has grown.
func grown(before, after space.Vec) string {
	return fmt.Sprintf(
		"%.4g × %.4g × %.4g mm, it was %.4g × %.4g × %.4g",
		after.X,
		after.Y,
		after.Z,
		before.X,
		before.Y,
		before.Z,
	)
}

// lookOf names the finishes of a part.
func (s *side) lookOf(n *assembly.Node) (names string) {
	for i, f := range n.Finishes {
		if name := s.Assembly.Finishes[f].Name; i == 0 {
			names = name
		} else if name != s.Assembly.Finishes[n.Finishes[i-1]].Name {
			names += ", " + name
		}
	}
	return names
}

// KeepSaid gives a revision that says nothing of joints, of hazards, or of variants, those of the one before, as far as
// it has what they are of.
func KeepSaid(old, kept *assembly.Assembly) {
	index := kept.Index()
	if len(kept.Joints)+len(kept.Couplings) == 0 {
		keepJoints(old, kept, index)
	}
	there := func(id assembly.NodeID) bool { _, there := index[id]; return there }
	if len(kept.Hazards) == 0 {
		kept.Hazards = slices.DeleteFunc(
			slices.Clone(old.Hazards),
			func(h assembly.NodeHazard) bool { return !there(h.Node) },
		)
	}
	if len(kept.Variants) > 0 {
		return
	}
	for _, v := range old.Variants {
		v.Keep(there)
		kept.Variants = append(kept.Variants, v)
	}
}

func keepJoints(old, kept *assembly.Assembly, index map[assembly.NodeID]int) {
	kept.Joints, kept.Couplings = assembly.JointsThat(old.Joints, old.Couplings, func(j *assembly.Joint) bool {
		_, body := index[j.Body]
		_, base := index[j.Base]
		return body && base
	})
}

// Kept returns the new revision with the ids of the one before for all that is matched. Ids of what was added are
// changed where another node has them now.
func (o *Outcome) Kept(a *assembly.Assembly) *assembly.Assembly {
	kept := *a
	kept.Nodes = slices.Clone(a.Nodes)
	ids, used := map[assembly.NodeID]assembly.NodeID{}, map[assembly.NodeID]bool{}
	for i := range o.Pairs {
		ids[o.Pairs[i].New] = o.Pairs[i].Old
		used[o.Pairs[i].Old] = true
	}
	for _, id := range o.Gone { // what was made of them must not be taken for theirs
		used[id] = true
	}
	for i := range kept.Nodes {
		n := &kept.Nodes[i]
		to, matched := ids[n.ID]
		if !matched {
			if to = n.ID; o.known[n.ID] != "" {
				to = o.known[n.ID]
			}
			for k := 2; used[to]; k++ {
				to = assembly.NodeID(fmt.Sprintf("%s~new%d", n.ID, k))
			}
			used[to] = true
			ids[n.ID] = to
		}
		n.ID = to
	}
	kept.Joints = slices.Clone(a.Joints)
	for i := range kept.Joints {
		j := &kept.Joints[i]
		j.Body, j.Base = ids[j.Body], ids[j.Base]
	}
	kept.Hazards = slices.Clone(a.Hazards)
	for i := range kept.Hazards {
		kept.Hazards[i].Node = ids[kept.Hazards[i].Node]
	}
	return &kept
}
