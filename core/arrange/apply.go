package arrange

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"slowreveal/core/assembly"
	"slowreveal/core/space"
)

// Arranged is an assembly with its part sets.
type Arranged struct {
	Assembly *assembly.Assembly
	Sets     []PartSet
}

// Apply returns the assembly that the edits make of an imported one, which stays
// as it is. Those that say which node is which come first: what the others say is of
// nodes as they are known by then. The error names the edit at fault.
func Apply(imported *assembly.Assembly, edits []Edit) (Arranged, error) {
	w := &work{sets: []PartSet{}}
	w.take(imported)
	for _, i := range inOrder(edits) {
		if err := w.edit(&edits[i]); err != nil {
			return Arranged{}, fmt.Errorf("edit %d (%s): %w", i+1, edits[i].Label(), err)
		}
	}
	a := w.assembly(imported)
	if err := a.Check(); err != nil {
		return Arranged{}, err
	}
	return Arranged{a, w.sets}, nil
}

// work is an assembly as a linked tree, with the poses in the world: they do not
// change when a node goes into another group.
type work struct {
	root      *node
	byID      map[assembly.NodeID]*node
	shapes    []assembly.ShapeRef
	finishes  []assembly.Finish
	sets      []PartSet
	joints    []assembly.Joint
	couplings []assembly.Coupling
	variants  []assembly.Variant
	hazards   []assembly.NodeHazard
}

type node struct {
	assembly.Node
	world    space.Rigid
	parent   *node
	children []*node
	moved    bool // its pose must be made anew
}

func (w *work) take(a *assembly.Assembly) {
	w.byID = make(map[assembly.NodeID]*node, len(a.Nodes))
	w.joints, w.couplings = slices.Clone(a.Joints), slices.Clone(a.Couplings)
	w.variants, w.hazards = slices.Clone(a.Variants), slices.Clone(a.Hazards)
	w.shapes, w.finishes = slices.Clone(a.Shapes), slices.Clone(a.Finishes)
	worlds := a.Worlds()
	nodes := make([]*node, len(a.Nodes))
	for i := range a.Nodes {
		n := &node{Node: a.Nodes[i], world: worlds[i]}
		nodes[i], w.byID[n.ID] = n, n
		if n.Parent >= 0 {
			n.parent = nodes[n.Parent]
			n.parent.children = append(n.parent.children, n)
		}
	}
	w.root = nodes[0]
}

func (w *work) find(id assembly.NodeID) (*node, error) {
	if n := w.byID[id]; n != nil {
		return n, nil
	}
	return nil, fmt.Errorf("there is no node %q", id)
}

func (w *work) all(ids []assembly.NodeID) ([]*node, error) {
	if len(ids) == 0 {
		return nil, errors.New("no node is named")
	}
	var nodes []*node
	for _, id := range ids {
		n, err := w.find(id)
		if err != nil {
			return nil, err
		}
		nodes = append(nodes, n)
	}
	return nodes, nil
}

func (w *work) edit(s *Edit) error {
	switch s.Do {
	case Rename:
		return w.rename(s)
	case Group:
		return w.group(s)
	case Move:
		return w.move(s)
	case Flatten:
		return w.flatten(s)
	case Split:
		return w.split(s)
	case Wear:
		return w.wear(s)
	case TellApart:
		return w.tellApart(s)
	case AddSet, ChangeSet, RemoveSet:
		return w.set(s)
	case SetJoints:
		return w.join(s)
	case Unjoint:
		return w.unjoint(s)
	case Swap:
		return w.swap(s)
	case Part:
		return w.part(s)
	case Mind:
		return w.mind(s)
	case SetVariants:
		return w.setVariants(s)
	case RemoveVariant:
		return w.removeVariant(s)
	case LeaveOut, PutBack, OnlyIn, StandIn, WearIn, CallIn, PoseIn:
		return w.vary(s)
	}
	return fmt.Errorf("%q is no edit", s.Do)
}

func (w *work) rename(s *Edit) error {
	n, err := w.find(s.Node)
	if err != nil {
		return err
	}
	if strings.TrimSpace(s.Name) == "" {
		return errors.New("a name has at least one character")
	}
	n.Name = s.Name
	return nil
}

// group puts nodes into a new subassembly below what holds them all. Its frame
// is that of its parent.
func (w *work) group(s *Edit) error {
	nodes, err := w.all(s.Nodes)
	if err != nil {
		return err
	}
	if strings.TrimSpace(s.Name) == "" {
		return errors.New("a group has a name")
	}
	nodes = outermost(nodes)
	parent := nodes[0].parent
	for parent != nil {
		if !slices.ContainsFunc(nodes, func(n *node) bool { return !n.within(parent) || n == parent }) {
			break
		}
		parent = parent.parent
	}
	if parent == nil {
		return errors.New("the whole assembly cannot go into a group of itself")
	}
	g := &node{Node: assembly.Node{ID: w.fresh(s.Name), Name: s.Name, Shape: -1}, world: parent.world, moved: true}
	w.byID[g.ID] = g
	g.parent = parent
	at := len(parent.children)
	for i, c := range parent.children {
		if slices.ContainsFunc(nodes, func(n *node) bool { return n.within(c) }) {
			at = i
			break
		}
	}
	parent.children = slices.Insert(parent.children, at, g)
	for _, n := range nodes {
		n.into(g)
	}
	return nil
}

// fresh returns an id that no node has.
func (w *work) fresh(name string) assembly.NodeID {
	var namer assembly.Namer
	for {
		if id := namer.Child("group", name); w.byID[id] == nil {
			return id
		}
	}
}

// outermost drops nodes that lie in others of the list.
func outermost(nodes []*node) []*node {
	return slices.DeleteFunc(slices.Clone(nodes), func(n *node) bool {
		return slices.ContainsFunc(nodes, func(o *node) bool { return o != n && n.within(o) })
	})
}

// within reports whether n is o or lies in it.
func (n *node) within(o *node) bool {
	for ; n != nil; n = n.parent {
		if n == o {
			return true
		}
	}
	return false
}

func (n *node) into(parent *node) {
	n.leave()
	n.parent, n.moved = parent, true
	parent.children = append(parent.children, n)
}

func (n *node) leave() {
	n.parent.children = slices.DeleteFunc(n.parent.children, func(c *node) bool { return c == n })
}

func (w *work) move(s *Edit) error {
	nodes, err := w.all(s.Nodes)
	if err != nil {
		return err
	}
	parent, err := w.find(s.Parent)
	if err != nil {
		return err
	}
	if parent.IsPart() {
		return fmt.Errorf("%q is a part; parts hold nothing", parent.Name)
	}
	for _, n := range outermost(nodes) {
		if n == w.root || parent.within(n) {
			return fmt.Errorf("%q cannot go into itself", n.Name)
		}
		n.into(parent)
	}
	return nil
}

func (w *work) flatten(s *Edit) error {
	n, err := w.find(s.Node)
	if err != nil {
		return err
	}
	if n == w.root || n.IsPart() {
		return fmt.Errorf("%q is no group within the assembly", n.Name)
	}
	if err := w.leaveGroup(n); err != nil {
		return err
	}
	at := slices.Index(n.parent.children, n)
	for _, c := range n.children {
		c.parent, c.moved = n.parent, true
	}
	n.parent.children = slices.Replace(n.parent.children, at, at+1, n.children...)
	w.spread(n)
	delete(w.byID, n.ID)
	return nil
}

// split turns a part into a subassembly of its bodies, in its own frame.
func (w *work) split(s *Edit) error {
	n, err := w.find(s.Node)
	if err != nil {
		return err
	}
	if !n.IsPart() || len(s.Pieces) < 2 {
		return fmt.Errorf("%q is one body; there is nothing to split", n.Name)
	}
	for i, p := range s.Pieces {
		piece := &node{
			Node: assembly.Node{
				ID:   assembly.NodeID(fmt.Sprintf("%s/piece-%d", n.ID, i+1)),
				Name: fmt.Sprintf("%s %d", n.Name, i+1),
			},
			world:  n.world,
			parent: n,
			moved:  true,
		}
		if w.byID[piece.ID] != nil || p.Shape.Submeshes != len(p.Submeshes) {
			return errors.New("its pieces do not fit it")
		}
		for _, from := range p.Submeshes {
			if from < 0 || from >= len(n.Finishes) {
				return errors.New("its pieces do not fit it")
			}
			piece.Finishes = append(piece.Finishes, n.Finishes[from])
		}
		piece.Shape = w.shape(p.Shape)
		w.byID[piece.ID] = piece
		n.children = append(n.children, piece)
	}
	n.Shape, n.Finishes = -1, nil
	return nil
}

func (w *work) shape(ref assembly.ShapeRef) int {
	if at := slices.IndexFunc(w.shapes, func(s assembly.ShapeRef) bool { return s.Hash == ref.Hash }); at >= 0 {
		return at
	}
	w.shapes = append(w.shapes, ref)
	return len(w.shapes) - 1
}

func (w *work) wear(s *Edit) error {
	nodes, err := w.all(s.Nodes)
	if err != nil {
		return err
	}
	if s.Finish == nil {
		return errors.New("no finish is named")
	}
	finish := w.finish(*s.Finish)
	for _, n := range nodes {
		n.each(func(p *node) { p.dress(finish) })
	}
	return nil
}

func (w *work) finish(f assembly.Finish) int {
	if at := slices.Index(w.finishes, f); at >= 0 {
		return at
	}
	w.finishes = append(w.finishes, f)
	return len(w.finishes) - 1
}

func (n *node) each(do func(*node)) {
	do(n)
	for _, c := range n.children {
		c.each(do)
	}
}

// dress gives all patches of a part one finish.
func (n *node) dress(finish int) {
	worn := make([]int, len(n.Finishes)) // the imported list stays as it is
	for i := range worn {
		worn[i] = finish
	}
	if n.IsPart() {
		n.Finishes = worn
	}
}

func (w *work) tellApart(s *Edit) error {
	for id, colour := range s.Colours {
		n, err := w.find(id)
		if err != nil {
			return err
		}
		if colour < 0 || colour >= len(Palette) {
			return fmt.Errorf("there is no colour %d", colour)
		}
		n.dress(w.finish(Palette[colour]))
	}
	return nil
}

func (w *work) set(s *Edit) error {
	id := s.SetID
	if s.Set != nil {
		id = s.Set.ID
	}
	at := slices.IndexFunc(w.sets, func(p PartSet) bool { return p.ID == id })
	switch {
	case id == "":
		return errors.New("the set has no id")
	case s.Do == AddSet && at >= 0:
		return fmt.Errorf("there is a set with the id %q already", id)
	case s.Do != AddSet && at < 0:
		return fmt.Errorf("there is no set %q", id)
	case s.Do == RemoveSet:
		w.sets = slices.Delete(w.sets, at, at+1)
		return nil
	case s.Set == nil || strings.TrimSpace(s.Set.Name) == "":
		return errors.New("a set has a name")
	}
	if _, err := w.all(s.Set.Nodes); err != nil {
		return err
	}
	if s.Do == AddSet {
		w.sets = append(w.sets, *s.Set)
	} else {
		w.sets[at] = *s.Set
	}
	return nil
}

// assembly writes the tree down again, every parent before its children. Sets
// lose nodes that went.
func (w *work) assembly(imported *assembly.Assembly) *assembly.Assembly {
	a := &assembly.Assembly{
		Name: imported.Name, Shapes: w.shapes, Finishes: w.finishes, Joints: w.joints, Couplings: w.couplings,
		Variants: w.variants, Hazards: w.mindedStill(),
	}
	var write func(n *node, parent int)
	write = func(n *node, parent int) {
		n.Parent = parent
		if n.moved && n.parent != nil {
			inverse := n.parent.world.Inverse()
			n.Pose = assembly.PoseOf(inverse.Mul(&n.world))
		}
		at := len(a.Nodes)
		a.Nodes = append(a.Nodes, n.Node)
		for _, c := range n.children {
			write(c, at)
		}
	}
	write(w.root, -1)
	for i := range w.sets {
		w.sets[i].Nodes = slices.DeleteFunc(
			slices.Clone(w.sets[i].Nodes),
			func(id assembly.NodeID) bool { return w.byID[id] == nil },
		)
	}
	for i := range a.Variants {
		a.Variants[i].Keep(func(id assembly.NodeID) bool { return w.byID[id] != nil })
	}
	return a
}
