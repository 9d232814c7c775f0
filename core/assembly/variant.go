package assembly

import (
	"errors"
	"fmt"
	"slices"
	"strings"
)

// VariantID names a variant for good within one assembly.
type VariantID string

// Variant is one configuration of the product: what is otherwise in it than in the whole assembly, which holds the parts
// of all variants.
type Variant struct {
	ID   VariantID `json:"id"`
	Name string    `json:"name"`
	// Without are nodes that are not in it, each with all that is in it, also with what comes into it later.
	Without []NodeID `json:"without,omitempty"`
	// Instead are nodes that stand in for others: what is directed for the other is directed for them.
	Instead []Exchange `json:"instead,omitempty"`
	// Finishes are what nodes look like, with all parts in them; the last that names a node counts.
	Finishes []NodeFinish `json:"finishes,omitempty"`
	// Poses are where nodes stand in their parents.
	Poses []NodePose `json:"poses,omitempty"`
	Names []NodeName `json:"names,omitempty"`
}

// Exchange puts one node in the place of another one, which is not in the variant.
type Exchange struct {
	Of NodeID `json:"of"`
	By NodeID `json:"by"`
}

// NodeFinish gives nodes a finish.
type NodeFinish struct {
	Nodes  []NodeID `json:"nodes"`
	Finish Finish   `json:"finish"`
}

// NodePose puts a node somewhere in its parent.
type NodePose struct {
	Node NodeID `json:"node"`
	Pose Pose   `json:"pose"`
}

// NodeName gives a node a name.
type NodeName struct {
	Node NodeID `json:"node"`
	Name string `json:"name"`
}

// MaxVariants bounds the variants of one assembly.
const MaxVariants = 100

// AddVariant adds a variant of a name, or, where that is empty or another one has it, of one like it. It returns it as it
// stands in the list, until another one is added.
func (a *Assembly) AddVariant(name string) *Variant {
	number := len(a.Variants) + 1
	if name = strings.TrimSpace(name); name == "" {
		name = fmt.Sprintf("Variant %d", number)
	}
	for k, plain := 2, name; a.CalledVariant(name) != nil; k++ {
		name = fmt.Sprintf("%s %d", plain, k)
	}
	a.Variants = append(a.Variants, Variant{ID: VariantID(fmt.Sprintf("variant-%d", number)), Name: name})
	return &a.Variants[number-1]
}

// FindVariant returns the variant with an id, nil where there is none.
func (a *Assembly) FindVariant(id VariantID) *Variant {
	for i := range a.Variants {
		if a.Variants[i].ID == id {
			return &a.Variants[i]
		}
	}
	return nil
}

// CalledVariant returns the variant with an id or else a name, in any case of letters; nil where there is none.
func (a *Assembly) CalledVariant(name string) *Variant {
	if v := a.FindVariant(VariantID(name)); v != nil {
		return v
	}
	for i := range a.Variants {
		if strings.EqualFold(a.Variants[i].Name, strings.TrimSpace(name)) {
			return &a.Variants[i]
		}
	}
	return nil
}

// Absent tells, for each node, whether the variant is without it.
func (v *Variant) Absent(a *Assembly) []bool {
	named := make(map[NodeID]bool, len(v.Without)+len(v.Instead))
	for _, id := range v.Without {
		named[id] = true
	}
	for _, e := range v.Instead {
		named[e.Of] = true
	}
	absent := make([]bool, len(a.Nodes))
	for i := range a.Nodes {
		n := &a.Nodes[i]
		absent[i] = i > 0 && (named[n.ID] || absent[n.Parent])
	}
	return absent
}

// Nodes are all that the variant names, one after the other.
func (v *Variant) Nodes() (list []NodeID) {
	list = slices.Clone(v.Without)
	for _, e := range v.Instead {
		list = append(list, e.Of, e.By)
	}
	for _, f := range v.Finishes {
		list = append(list, f.Nodes...)
	}
	for _, p := range v.Poses {
		list = append(list, p.Node)
	}
	for _, n := range v.Names {
		list = append(list, n.Node)
	}
	return list
}

// Check returns an error for a variant that says nothing sensible by itself.
func (v *Variant) Check() error {
	switch {
	case v.ID == "":
		return errors.New("the variant has no id")
	case strings.TrimSpace(v.Name) == "":
		return errors.New("a variant has a name")
	}
	stands := map[NodeID]NodeID{}
	for _, e := range v.Instead {
		if e.Of == e.By {
			return fmt.Errorf("%q cannot stand in for itself", e.Of)
		}
		if _, twice := stands[e.Of]; twice {
			return fmt.Errorf("two nodes stand in for %q", e.Of)
		}
		stands[e.Of] = e.By
	}
	for _, e := range v.Instead {
		if _, gone := stands[e.By]; gone || slices.Contains(v.Without, e.By) {
			return fmt.Errorf("%q stands in for another one, and is not there itself", e.By)
		}
	}
	for _, f := range v.Finishes {
		c := f.Finish
		for _, value := range []float64{c.Colour[0], c.Colour[1], c.Colour[2], c.Opacity, c.Metalness, c.Roughness} {
			if !(value >= 0 && value <= 1) {
				return errors.New("the values of a finish lie between 0 and 1")
			}
		}
	}
	for _, p := range v.Poses {
		if l := p.Pose.Turn.Norm(); !finite(p.Pose.Move[:]) || !(l > 0.99 && l < 1.01) {
			return fmt.Errorf("the pose of %q is not finite, or its turn no rotation", p.Node)
		}
	}
	for _, n := range v.Names {
		if strings.TrimSpace(n.Name) == "" {
			return errors.New("a name has at least one character")
		}
	}
	return nil
}

// Keep takes nodes that are not there out of the variant and returns them, each once.
func (v *Variant) Keep(there func(NodeID) bool) (gone []NodeID) {
	for _, id := range v.Nodes() {
		if !there(id) && !slices.Contains(gone, id) {
			gone = append(gone, id)
		}
	}
	left := func(id NodeID) bool { return !there(id) }
	v.Without = slices.DeleteFunc(slices.Clone(v.Without), left)
	v.Instead = slices.DeleteFunc(slices.Clone(v.Instead), func(e Exchange) bool { return left(e.Of) || left(e.By) })
	v.Poses = slices.DeleteFunc(slices.Clone(v.Poses), func(p NodePose) bool { return left(p.Node) })
	v.Names = slices.DeleteFunc(slices.Clone(v.Names), func(n NodeName) bool { return left(n.Node) })
	finishes := slices.Clone(v.Finishes)
	for i := range finishes {
		finishes[i].Nodes = slices.DeleteFunc(slices.Clone(finishes[i].Nodes), left)
	}
	v.Finishes = slices.DeleteFunc(finishes, func(f NodeFinish) bool { return len(f.Nodes) == 0 })
	return gone
}

func (a *Assembly) checkVariants(index map[NodeID]int) error {
	if len(a.Variants) > MaxVariants {
		return fmt.Errorf("the assembly has %d variants; the limit is %d", len(a.Variants), MaxVariants)
	}
	for i := range a.Variants {
		v := &a.Variants[i]
		err := v.Check()
		for _, id := range v.Nodes() {
			if at, there := index[id]; err == nil && !there {
				err = fmt.Errorf("there is no node %q", id)
			} else if err == nil && at == 0 && slices.Contains(v.Without, id) {
				err = errors.New("it is without the whole assembly")
			}
		}
		if err == nil && a.FindVariant(v.ID) != v {
			err = errors.New("its id is used twice")
		}
		if err != nil {
			return fmt.Errorf("variant %q: %w", v.Name, err)
		}
	}
	return nil
}
