package match

import "slowreveal/core/assembly"

// Again matches a file that was in a revision before: ids are those that its nodes had then, in their order. All of it is
// sure, and what has come back has its old id.
func Again(old, new Side, ids []assembly.NodeID) Outcome {
	m := newMatcher(&old, &new)
	m.out.known = map[assembly.NodeID]assembly.NodeID{}
	m.register()
	index := old.Assembly.Index()
	for k, id := range ids {
		m.out.known[m.new.nodes[k].id] = id
		i, there := index[id]
		if !there || k > 0 && m.old.nodes[i].part != m.new.nodes[k].part {
			continue
		}
		p := m.pair(i, k)
		p.Sure, p.Confidence, p.Why = true, 1, "it was in a revision before"
	}
	m.findPieces() // what acts on a whole acts on what comes in its place once more
	m.tell()
	m.out.move = m.move
	return m.out
}

// SameFile reports whether an assembly is what another one was when it was read: the same names, tree and shapes. How its
// nodes are identified does not count.
func SameFile(a, b *assembly.Assembly) bool {
	if len(a.Nodes) != len(b.Nodes) {
		return false
	}
	for i := range a.Nodes {
		x, y := &a.Nodes[i], &b.Nodes[i]
		if x.Name != y.Name || x.Parent != y.Parent || x.IsPart() != y.IsPart() || x.Pose != y.Pose ||
			x.IsPart() && a.Shapes[x.Shape].Hash != b.Shapes[y.Shape].Hash {
			return false
		}
	}
	return true
}
