package assembly

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"slowreveal/core/space"
)

// Limits on one assembly.
const (
	MaxNodes = 50_000
	MaxDepth = 64
)

// NodeID names a node for good within one assembly: the path of names from
// the root, as plain lower-case words, for example "pump-head/door/hinge-pin".
type NodeID string

// Assembly is a tree in depth-first order: every parent stands before its
// children, and Nodes[0] is the root.
type Assembly struct {
	Name     string     `json:"name"`
	Nodes    []Node     `json:"nodes"`
	Shapes   []ShapeRef `json:"shapes"`
	Finishes []Finish   `json:"finishes"`
	// Joints say what moves against what when the product runs, Couplings which of them follow others.
	Joints    []Joint    `json:"joints,omitempty"`
	Couplings []Coupling `json:"couplings,omitempty"`
	// Variants are the configurations in which the product is sold, where there are several.
	Variants []Variant `json:"variants,omitempty"`
	// Hazards say what has to be minded when parts are taken off.
	Hazards []NodeHazard `json:"hazards,omitempty"`
}

// Node is the whole assembly, a subassembly or, when it has a shape, a part.
type Node struct {
	ID   NodeID `json:"id"`
	Name string `json:"name"`
	// Parent is the index of the parent in Nodes, −1 for the root.
	Parent int `json:"parent"`
	// Shape is an index into Shapes, −1 for a node without a body.
	Shape int `json:"shape"`
	// Finishes gives each patch of the shape an index into Assembly.Finishes.
	Finishes []int `json:"finishes,omitempty"`
	// Pose takes the node's own frame to its parent's.
	Pose Pose `json:"pose"`
}

// IsPart reports whether the node has a body of its own.
func (n *Node) IsPart() bool { return n.Shape >= 0 }

// Pose is a rigid motion as documents write it: first the turn, then the move
// in millimetres.
type Pose struct {
	Move space.Vec3 `json:"move"`
	Turn space.Quat `json:"turn"`
}

// Rigid returns the pose as a motion.
func (p *Pose) Rigid() space.Rigid {
	return space.Rigid{R: p.Turn.Normalized().Matrix(), T: p.Move.Vec()}
}

// PoseOf returns the motion as documents write it.
func PoseOf(m space.Rigid) Pose {
	return Pose{Move: space.Vec3Of(m.T), Turn: m.R.Quat()}
}

// ShapeRef names a stored shape and says what is needed of it without its
// mesh.
type ShapeRef struct {
	Hash      string `json:"hash"`
	Triangles int    `json:"triangles"`
	Submeshes int    `json:"submeshes"`
	// Min and Max are the corners of its box in its own frame, mm.
	Min space.Vec3 `json:"min"`
	Max space.Vec3 `json:"max"`
	// Heart is where lines lead to it (solid.Heart), in its own frame, mm; nil for the middle of its box.
	Heart *space.Vec3 `json:"heart,omitempty"`
}

// Middle returns the point of the shape where lines lead to it, in its own frame.
func (s *ShapeRef) Middle() space.Vec {
	if s.Heart != nil {
		return s.Heart.Vec()
	}
	return s.Bounds().Centre()
}

// Bounds returns the box of the shape in its own frame.
func (s *ShapeRef) Bounds() space.Box { return space.Box{Min: s.Min.Vec(), Max: s.Max.Vec()} }

// Finish is how a surface looks, in the terms of glTF 2.0's metallic-roughness
// material. Colour is linear RGB, all values 0…1.
type Finish struct {
	Name      string     `json:"name"`
	Colour    space.Vec3 `json:"colour"`
	Opacity   float64    `json:"opacity"`
	Metalness float64    `json:"metalness"`
	Roughness float64    `json:"roughness"`
}

// SeenThrough reports whether all faces of a part are see-through: it hides nothing.
func (a *Assembly) SeenThrough(node int) bool {
	return !slices.ContainsFunc(a.Nodes[node].Finishes, func(k int) bool { return a.Finishes[k].Opacity == 1 })
}

// Parts counts the nodes that have a body.
func (a *Assembly) Parts() int {
	n := 0
	for i := range a.Nodes {
		if a.Nodes[i].IsPart() {
			n++
		}
	}
	return n
}

// Index returns where each id stands in Nodes.
func (a *Assembly) Index() map[NodeID]int {
	m := make(map[NodeID]int, len(a.Nodes))
	for i := range a.Nodes {
		m[a.Nodes[i].ID] = i
	}
	return m
}

// Worlds returns the pose of every node at rest in the frame of the root.
func (a *Assembly) Worlds() []space.Rigid {
	w := make([]space.Rigid, len(a.Nodes))
	for i := range a.Nodes {
		n := &a.Nodes[i]
		w[i] = n.Pose.Rigid()
		if n.Parent >= 0 {
			w[i] = w[n.Parent].Mul(&w[i])
		}
	}
	return w
}

// Bounds returns the box of all parts at rest, in the world.
func (a *Assembly) Bounds() space.Box {
	b := space.EmptyBox
	for i, w := range a.Worlds() {
		if s := a.Nodes[i].Shape; s >= 0 {
			b = b.Union(a.Shapes[s].Bounds().Moved(&w))
		}
	}
	return b
}

// BoundsOf returns, for every node, the box of all parts at or below it in the
// node's own frame at rest. It is empty where there is no part.
func (a *Assembly) BoundsOf() []space.Box {
	boxes := make([]space.Box, len(a.Nodes))
	for i := range boxes {
		boxes[i] = space.EmptyBox
		if s := a.Nodes[i].Shape; s >= 0 {
			boxes[i] = a.Shapes[s].Bounds()
		}
	}
	for i := len(a.Nodes) - 1; i > 0; i-- { // children stand behind their parents
		n := &a.Nodes[i]
		pose := n.Pose.Rigid()
		boxes[n.Parent] = boxes[n.Parent].Union(boxes[i].Moved(&pose))
	}
	return boxes
}

// Check returns an error that names the first node which breaks the rules of
// this package, or nil.
func (a *Assembly) Check() error {
	_, err := a.CheckedIndex()
	return err
}

// CheckedIndex does what Check does; of an assembly that breaks no rule it returns the Index, which it needs anyway.
func (a *Assembly) CheckedIndex() (map[NodeID]int, error) {
	switch {
	case len(a.Nodes) == 0:
		return nil, errors.New("the assembly has no nodes")
	case len(a.Nodes) > MaxNodes:
		return nil, fmt.Errorf("the assembly has %d nodes; the limit is %d", len(a.Nodes), MaxNodes)
	}
	depth := make([]int, len(a.Nodes))
	index := make(map[NodeID]int, len(a.Nodes))
	for i := range a.Nodes {
		n := &a.Nodes[i]
		if err := a.checkNode(i, n); err != nil {
			return nil, fmt.Errorf("node %q: %w", n.ID, err)
		}
		if index[n.ID] = i; len(index) != i+1 || n.ID == "" {
			return nil, fmt.Errorf("node %q: its id is empty or used twice", n.ID)
		}
		if i > 0 {
			depth[i] = depth[n.Parent] + 1
		}
		if depth[i] > MaxDepth {
			return nil, fmt.Errorf("node %q lies %d levels deep; the limit is %d", n.ID, depth[i], MaxDepth)
		}
	}
	if err := a.checkMechanism(index); err != nil {
		return nil, err
	}
	if err := a.checkHazards(index); err != nil {
		return nil, err
	}
	return index, a.checkVariants(index)
}

func (a *Assembly) checkMechanism(index map[NodeID]int) error {
	if len(a.Joints) > MaxJoints || len(a.Couplings) > MaxJoints {
		return fmt.Errorf("the assembly has more than %d joints or couplings", MaxJoints)
	}
	joints := make(map[JointID]bool, len(a.Joints))
	for i := range a.Joints {
		j := &a.Joints[i]
		err := j.Check()
		for _, id := range []NodeID{j.Body, j.Base} {
			if _, there := index[id]; err == nil && !there {
				err = fmt.Errorf("there is no node %q", id)
			}
		}
		if err == nil && joints[j.ID] {
			err = errors.New("its id is used twice")
		}
		if joints[j.ID] = true; err != nil {
			return fmt.Errorf("joint %q: %w", j.Name, err)
		}
	}
	for i := range a.Couplings {
		c := &a.Couplings[i]
		err := c.Check()
		for _, id := range []JointID{c.Joint, c.By} {
			if err == nil && !joints[id] {
				err = fmt.Errorf("there is no joint %q", id)
			}
		}
		if err != nil {
			return fmt.Errorf("coupling %q: %w", c.Name, err)
		}
	}
	return nil
}

func (a *Assembly) checkNode(i int, n *Node) error {
	switch {
	case (i == 0) != (n.Parent == -1) || n.Parent >= i || n.Parent < -1:
		return errors.New("its parent does not stand before it")
	case n.Shape < -1 || n.Shape >= len(a.Shapes):
		return fmt.Errorf("it names shape %d of %d", n.Shape, len(a.Shapes))
	case n.Shape >= 0 && len(n.Finishes) != a.Shapes[n.Shape].Submeshes:
		return errors.New("it does not give each patch of its shape a finish")
	}
	for _, f := range n.Finishes {
		if f < 0 || f >= len(a.Finishes) {
			return fmt.Errorf("it names finish %d of %d", f, len(a.Finishes))
		}
	}
	if !finite(n.Pose.Move[:]) || !finite(n.Pose.Turn[:]) {
		return errors.New("its pose is not finite")
	}
	return nil
}

func finite(list []float64) bool {
	for _, v := range list {
		if math.IsNaN(v) || math.IsInf(v, 0) {
			return false
		}
	}
	return true
}
