package match

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"slowreveal/core/assembly"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// Configured is one configuration of a product, as a file of its own has it.
type Configured struct {
	Name string
	Side
}

// inCommon is which share of the smaller of two configurations' parts has to be in the other, at least: what has less is
// another product.
const inCommon = 0.3

// Together makes one assembly of several configurations of a product: what they have in common is in it once, and each
// of them is a variant of it. A part that has another shape in one stands in there for the other one. Ids are those of
// the first where it has the node. says tells for each of the others what is otherwise in it.
func Together(list []Configured) (a *assembly.Assembly, shapes []*solid.Shape, says []string, err error) {
	if len(list) < 2 || len(list) > assembly.MaxVariants {
		return nil, nil, nil, fmt.Errorf(
			"between 2 and %d configurations make an assembly with variants; these are %d",
			assembly.MaxVariants,
			len(list),
		)
	}
	first := *list[0].Assembly
	t := &together{whole: &first, shapes: slices.Clone(list[0].Shapes), used: map[assembly.NodeID]bool{}}
	t.whole.Nodes, t.whole.Shapes = slices.Clone(first.Nodes), slices.Clone(first.Shapes)
	t.whole.Finishes, t.whole.Variants = slices.Clone(first.Finishes), nil
	t.whole.AddVariant(list[0].Name)
	for i := range first.Nodes {
		n := &first.Nodes[i]
		if t.used[n.ID] = true; n.Parent >= 0 {
			t.namer.Child(first.Nodes[n.Parent].ID, n.Name)
		}
	}
	for i := range list[1:] {
		if err := t.add(&list[1+i]); err != nil {
			return nil, nil, nil, err
		}
		says = append(says, t.says())
	}
	return t.whole, t.shapes, says, t.whole.Check()
}

// together is an assembly that configurations are added to.
type together struct {
	whole  *assembly.Assembly
	shapes []*solid.Shape
	namer  assembly.Namer
	used   map[assembly.NodeID]bool // ids

	v      *assembly.Variant // the one that is added
	before int               // how many nodes there were without it
	worlds []space.Rigid     // of the whole's nodes, as the variant has them
	back   space.Rigid       // from the configuration's world to the whole's
	kept   *assembly.Assembly
	at     []space.Rigid // the configuration's nodes in its own world
	place  map[int]int   // its nodes' places among those of the whole
}

// add takes a configuration in.
func (t *together) add(c *Configured) error {
	if t.whole.Nodes[0].IsPart() || c.Assembly.Nodes[0].IsPart() {
		return errors.New("one of the files is a single part: variants are made of assemblies")
	}
	if otherUnit(Side{t.whole, t.shapes}, c.Side) != 1 {
		return errors.New(
			"“" + c.Name + "” is in another unit of length than the first. Say the unit, and give both again",
		)
	}
	out := Of(Side{t.whole, t.shapes}, c.Side)
	common := 0
	for i := range out.Pairs {
		if t.whole.Nodes[out.Pairs[i].old].IsPart() {
			common++
		}
	}
	if float64(common) < inCommon*float64(min(t.whole.Parts(), c.Assembly.Parts())) {
		return fmt.Errorf(
			"“%s” and “%s” have hardly a part in common: they are no variants of one product. Give one of them",
			t.whole.Variants[0].Name,
			c.Name,
		)
	}
	t.v, t.before = t.whole.AddVariant(c.Name), len(t.whole.Nodes)
	t.kept, t.at = out.Kept(c.Assembly), c.Assembly.Worlds()
	t.back = out.move.Inverse()
	t.worlds = t.whole.Worlds()
	t.place = map[int]int{}
	there := make([]bool, len(t.whole.Nodes))
	for i := range out.Pairs {
		p := &out.Pairs[i]
		there[p.old], t.place[p.new] = true, p.old
	}
	for i := range t.whole.Nodes {
		if n := &t.whole.Nodes[i]; !there[i] && there[max(0, n.Parent)] {
			t.v.Without = append(t.v.Without, n.ID)
		}
	}
	for i := range out.Pairs { // parents before what is in them, as nodes are
		t.join(&out.Pairs[i], c.Shapes)
	}
	for i := range t.kept.Nodes {
		if _, there := t.place[i]; !there {
			t.place[i] = len(t.whole.Nodes)
			t.put(i, t.place[t.kept.Nodes[i].Parent], c.Shapes)
		}
	}
	return nil
}

// stands is where a node of the configuration stands in a node of the whole.
func (t *together) stands(node, in int) assembly.Pose {
	world := t.back.Mul(&t.at[node])
	parent := t.worlds[in].Inverse()
	return assembly.PoseOf(parent.Mul(&world))
}

// join notes what is otherwise with a node that both have.
func (t *together) join(p *Pair, shapes []*solid.Shape) {
	n, now := &t.whole.Nodes[p.old], &t.kept.Nodes[p.new]
	is := map[ChangeKind]bool{}
	for _, c := range p.Changes {
		is[c.Kind] = true
	}
	moved := is[Moved] || is[Turned]
	if p.old > 0 {
		parent := &t.worlds[n.Parent]
		own := n.Pose.Rigid()
		t.worlds[p.old] = parent.Mul(&own)
	}
	other := n.IsPart() && now.IsPart() && t.whole.Shapes[n.Shape].Hash != t.kept.Shapes[now.Shape].Hash
	switch {
	case is[Reshaped] || is[Mirrored] || other && moved:
		by := t.put(p.new, n.Parent, shapes)
		t.v.Instead = append(t.v.Instead, assembly.Exchange{Of: n.ID, By: by})
		return
	case moved:
		pose := t.stands(p.new, n.Parent)
		t.v.Poses = append(t.v.Poses, assembly.NodePose{Node: n.ID, Pose: pose})
		own := pose.Rigid()
		t.worlds[p.old] = t.worlds[n.Parent].Mul(&own)
	}
	if p.old > 0 && n.Name != now.Name {
		t.v.Names = append(t.v.Names, assembly.NodeName{Node: n.ID, Name: now.Name})
	}
	if n.IsPart() {
		t.dress(n, now)
	}
}

// dress notes another finish. One of several on a part is no matter of variants.
func (t *together) dress(n, now *assembly.Node) {
	finish := t.kept.Finishes[now.Finishes[0]]
	for _, f := range now.Finishes {
		if t.kept.Finishes[f] != finish {
			return
		}
	}
	if !slices.ContainsFunc(n.Finishes, func(f int) bool { return t.whole.Finishes[f] != finish }) {
		return
	}
	at := slices.IndexFunc(t.v.Finishes, func(f assembly.NodeFinish) bool { return f.Finish == finish })
	if at < 0 {
		at = len(t.v.Finishes)
		t.v.Finishes = append(t.v.Finishes, assembly.NodeFinish{Finish: finish})
	}
	t.v.Finishes[at].Nodes = append(t.v.Finishes[at].Nodes, n.ID)
}

// put adds a node of the configuration to the whole. The variants before are without it.
// It has the id that a file with all of them gives it.
func (t *together) put(i, parent int, shapes []*solid.Shape) assembly.NodeID {
	n := t.kept.Nodes[i]
	pose := t.stands(i, parent)
	id := t.namer.Child(t.whole.Nodes[parent].ID, n.Name)
	for t.used[id] {
		id = t.namer.Child(t.whole.Nodes[parent].ID, n.Name)
	}
	t.used[id] = true
	out := assembly.Node{ID: id, Name: n.Name, Parent: parent, Shape: -1, Pose: pose}
	if n.IsPart() {
		out.Shape = t.shape(n.Shape, shapes)
		for _, f := range n.Finishes {
			finish := t.kept.Finishes[f]
			at := slices.Index(t.whole.Finishes, finish)
			if at < 0 {
				at = len(t.whole.Finishes)
				t.whole.Finishes = append(t.whole.Finishes, finish)
			}
			out.Finishes = append(out.Finishes, at)
		}
	}
	t.whole.Nodes = append(t.whole.Nodes, out)
	own := pose.Rigid()
	t.worlds = append(t.worlds, t.worlds[parent].Mul(&own))
	for k := range t.whole.Variants {
		if v := &t.whole.Variants[k]; v != t.v && parent < t.before { // else they are without what it is in
			v.Without = append(v.Without, id)
		}
	}
	return id
}

// shape is the index of a shape of the configuration among those of the whole, where it is added if it is not there.
func (t *together) shape(i int, shapes []*solid.Shape) int {
	ref := t.kept.Shapes[i]
	at := slices.IndexFunc(t.whole.Shapes, func(s assembly.ShapeRef) bool { return s.Hash == ref.Hash })
	if at < 0 {
		at = len(t.whole.Shapes)
		t.whole.Shapes, t.shapes = append(t.whole.Shapes, ref), append(t.shapes, shapes[i])
	}
	return at
}

// says tells what is otherwise in the variant that was added last.
func (t *together) says() string {
	own := 0
	for i := t.before; i < len(t.whole.Nodes); i++ {
		if t.whole.Nodes[i].IsPart() {
			own++
		}
	}
	without := 0
	for i, absent := range t.v.Absent(t.whole) {
		if absent && i < t.before && t.whole.Nodes[i].IsPart() {
			without++
		}
	}
	var list []string
	say := func(n int, one, many string) {
		switch {
		case n == 1:
			list = append(list, one)
		case n > 1:
			list = append(list, fmt.Sprintf(many, n))
		}
	}
	say(own-len(t.v.Instead), "one part more", "%d parts more")
	say(without-len(t.v.Instead), "one part fewer", "%d parts fewer")
	say(len(t.v.Instead), "one exchanged", "%d exchanged")
	say(len(t.v.Poses), "one stands elsewhere", "%d stand elsewhere")
	say(dressed(t.v), "one looks otherwise", "%d look otherwise")
	say(len(t.v.Names), "one has another name", "%d have another name")
	if len(list) == 0 {
		list = append(list, "nothing is otherwise")
	}
	return "“" + t.v.Name + "”: " + strings.Join(list, ", ")
}

func dressed(v *assembly.Variant) (n int) {
	for i := range v.Finishes {
		n += len(v.Finishes[i].Nodes)
	}
	return n
}
