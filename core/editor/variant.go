package editor

import (
	"fmt"
	"slices"

	"slowreveal/core/assembly"
	"slowreveal/core/reveal"
	"slowreveal/core/variant"
)

// Dressed is what pages show otherwise in a variant than in the whole product.
type Dressed struct {
	// Variant is the one that is shown; empty for the whole product.
	Variant assembly.VariantID `json:"variant"`
	// Absent are all nodes that are not in it.
	Absent []assembly.NodeID `json:"absent"`
	// Finishes are all there are in it; Nodes are those with another name, look or pose. Their parents and shapes are
	// those that they always have.
	Finishes []assembly.Finish `json:"finishes"`
	Nodes    []assembly.Node   `json:"nodes"`
}

// Variant shows the product as a variant has it, or all of it where the variant is "" or not there. The open reveal
// stays as it is.
func (d *Editor) Variant(id assembly.VariantID) (State, error) {
	if d.product == nil {
		return State{}, errClosed
	}
	dressed := d.dress(id)
	var s State
	if d.reveal != nil {
		d.settle()
		d.compile()
		s = d.state()
	}
	s.Dressed = dressed
	return s, nil
}

// dress puts the assembly on as a variant has it; nil where it has been that one before.
func (d *Editor) dress(id assembly.VariantID) *Dressed {
	if d.product.FindVariant(id) == nil {
		id = ""
	}
	if id == d.variant {
		return nil
	}
	shown := variant.Of(d.product, nil, id)
	d.variant, d.assembly, d.boxes = id, shown.Assembly, shown.Assembly.BoundsOf()
	d.resting, d.tried = nil, nil
	out := &Dressed{Variant: id, Absent: []assembly.NodeID{}, Finishes: d.assembly.Finishes, Nodes: []assembly.Node{}}
	for i := range d.product.Nodes {
		was, now := &d.product.Nodes[i], &d.assembly.Nodes[i]
		if shown.Absent[i] {
			out.Absent = append(out.Absent, was.ID)
		} else if was.Name != now.Name || was.Pose != now.Pose || !slices.Equal(was.Finishes, now.Finishes) {
			out.Nodes = append(out.Nodes, *now)
		}
	}
	return out
}

// Differences are the nodes of the product that some variant says something of, in the order of the tree, against all
// variants.
type Differences struct {
	// Fewer is, by variant, how many parts it has fewer than the whole product.
	Fewer []int        `json:"fewer"`
	Rows  []Difference `json:"rows"`
}

// Difference is one node; In says of each variant whether it is in it.
type Difference struct {
	Node assembly.NodeID `json:"node"`
	In   []bool          `json:"in"`
}

func (d *Editor) differences(nothing) (Differences, error) {
	out := Differences{Fewer: []int{}, Rows: []Difference{}}
	said, absent := map[assembly.NodeID]bool{}, make([][]bool, len(d.product.Variants))
	for k := range d.product.Variants {
		v := &d.product.Variants[k]
		for _, id := range v.Nodes() {
			said[id] = true
		}
		absent[k] = v.Absent(d.product)
		fewer := 0
		for i := range d.product.Nodes {
			if absent[k][i] && d.product.Nodes[i].IsPart() {
				fewer++
			}
		}
		out.Fewer = append(out.Fewer, fewer)
	}
	for i := range d.product.Nodes {
		if id := d.product.Nodes[i].ID; said[id] {
			row := Difference{Node: id}
			for k := range absent {
				row.In = append(row.In, !absent[k][i])
			}
			out.Rows = append(out.Rows, row)
		}
	}
	return out, nil
}

// Posed is where nodes stand at a moment.
type Posed struct {
	Nodes []assembly.NodeID `json:"nodes"`
	Time  reveal.Micros     `json:"time"`
}

// posed returns where nodes stand in their parents at a moment of the film.
func (d *Editor) posed(q Posed) (out []assembly.NodePose, err error) {
	fr := d.evaluate(q.Time)
	for _, id := range q.Nodes {
		i, there := d.index[id]
		if !there || i == 0 {
			return nil, fmt.Errorf("there is no node %q that stands in another one", id)
		}
		under := fr.World[d.assembly.Nodes[i].Parent].Inverse()
		out = append(out, assembly.NodePose{Node: id, Pose: assembly.PoseOf(under.Mul(&fr.World[i]))})
	}
	return out, nil
}
