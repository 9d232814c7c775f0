package arrange

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"unicode/utf8"

	"slowreveal/core/assembly"
)

// Do names what a edit does.
type Do string

// The edits, with the fields that count.
const (
	Rename    Do = "rename"    // Node, Name
	Group     Do = "group"     // Nodes, Name: a new subassembly around them
	Move      Do = "move"      // Nodes, Parent: into another subassembly
	Flatten   Do = "flatten"   // Node: a subassembly goes, what is in it stays
	Split     Do = "split"     // Node, Pieces: one part becomes a subassembly of its bodies
	Wear      Do = "wear"      // Nodes, Finish: all parts in them look like that
	TellApart Do = "tellApart" // Colours: neighbours get different colours
	AddSet    Do = "addSet"    // Set
	ChangeSet Do = "changeSet" // Set, by its id
	RemoveSet Do = "removeSet" // SetID
	SetJoints Do = "setJoints" // Joints, Couplings: new ones, and others in the place of those with their ids
	Unjoint   Do = "unjoint"   // JointIDs: joints with their couplings, or couplings
	Swap      Do = "swap"      // Nodes, two: each is what the other one was taken for in a new revision
	Part      Do = "part"      // Node: it is another one than that for which it was taken
	Mind      Do = "mind"      // Nodes, Hazard: what has to be minded when they are taken off; empty for nothing
	// SetVariants puts Variants in the place of those with their ids, or behind all others.
	SetVariants   Do = "setVariants"
	RemoveVariant Do = "removeVariant" // VariantID
	// In the variant VariantID, and nowhere else:
	LeaveOut Do = "leaveOut" // Nodes: they are not in it
	PutBack  Do = "putBack"  // Nodes: they are, with all that holds them, and nothing stands in for them
	OnlyIn   Do = "onlyIn"   // Nodes: they are in it, and in no other variant
	StandIn  Do = "standIn"  // Nodes, two: the second is there in the place of the first, and is in no other variant
	WearIn   Do = "wearIn"   // Nodes, Finish: all parts in them look like that; nil for as usual
	CallIn   Do = "callIn"   // Node, Name: it is called that; empty for as usual
	PoseIn   Do = "poseIn"   // Nodes, Poses: they stand there in their parents; those without a pose as usual
)

// Edit is one change of an arrangement.
type Edit struct {
	Do     Do                `json:"do"`
	Node   assembly.NodeID   `json:"node,omitempty"`
	Nodes  []assembly.NodeID `json:"nodes,omitempty"`
	Parent assembly.NodeID   `json:"parent,omitempty"`
	Name   string            `json:"name,omitempty"`
	Finish *assembly.Finish  `json:"finish,omitempty"`
	Pieces []Piece           `json:"pieces,omitempty"`
	// Colours gives parts a number in Palette.
	Colours map[assembly.NodeID]int `json:"colours,omitempty"`
	Set     *PartSet                `json:"set,omitempty"`
	SetID   string                  `json:"setId,omitempty"`
	// Joints and Couplings are what is to be there, by their ids; JointIDs what is not to be there any more.
	Joints    []assembly.Joint    `json:"joints,omitempty"`
	Couplings []assembly.Coupling `json:"couplings,omitempty"`
	JointIDs  []assembly.JointID  `json:"jointIds,omitempty"`
	// Hazard is what has to be minded.
	Hazard assembly.Hazard `json:"hazard,omitempty"`
	// Variants are what is to be there, by their ids.
	Variants  []assembly.Variant  `json:"variants,omitempty"`
	VariantID assembly.VariantID  `json:"variantId,omitempty"`
	Poses     []assembly.NodePose `json:"poses,omitempty"`
}

// Piece is one body that a split makes; Patches says which of the part's patches
// its own are.
type Piece struct {
	Shape     assembly.ShapeRef `json:"shape"`
	Submeshes []int             `json:"submeshes"`
}

// PartSet is parts that are picked and moved together, named once.
type PartSet struct {
	ID    string            `json:"id"`
	Name  string            `json:"name"`
	Nodes []assembly.NodeID `json:"nodes"`
	// Rule says in words how the parts were found, empty for a set made by hand.
	Rule string `json:"rule,omitempty"`
}

// Limits on one edit.
const (
	MaxName  = 200
	MaxNodes = 20_000
	MaxEdit  = 4 << 20 // bytes
)

// Parse reads a edit; unknown fields are refused.
func Parse(text []byte) (Edit, error) {
	var s Edit
	if len(text) > MaxEdit {
		return s, fmt.Errorf("the edit has %d bytes; the limit is %d", len(text), MaxEdit)
	}
	d := json.NewDecoder(bytes.NewReader(text))
	d.DisallowUnknownFields()
	if err := d.Decode(&s); err != nil {
		return s, fmt.Errorf("the edit is not understood: %w", err)
	}
	if _, err := d.Token(); !errors.Is(err, io.EOF) {
		return s, errors.New("there is something behind the edit")
	}
	return s, s.Check()
}

// Check returns an error for values out of bounds.
func (s *Edit) Check() error {
	if len(s.Nodes) > MaxNodes || len(s.Poses) > MaxNodes || len(s.Pieces) > MaxNodes || len(s.Colours) > MaxNodes {
		return fmt.Errorf("the edit names more than %d nodes", MaxNodes)
	}
	if n := len(s.Joints) + len(s.Couplings) + len(s.JointIDs); n > assembly.MaxJoints {
		return fmt.Errorf("the edit names more than %d joints and couplings", assembly.MaxJoints)
	}
	if len(s.Variants) > assembly.MaxVariants {
		return fmt.Errorf("the edit names more than %d variants", assembly.MaxVariants)
	}
	names := []string{s.Name}
	for i := range s.Variants {
		v := &s.Variants[i]
		names = append(names, v.Name, string(v.ID))
		for _, n := range v.Names {
			names = append(names, n.Name)
		}
		for _, f := range v.Finishes {
			names = append(names, f.Finish.Name)
		}
	}
	for i := range s.Joints {
		names = append(names, s.Joints[i].Name, string(s.Joints[i].ID))
	}
	for i := range s.Couplings {
		names = append(names, s.Couplings[i].Name, string(s.Couplings[i].ID))
	}
	if s.Set != nil {
		names = append(names, s.Set.Name, s.Set.ID, s.Set.Rule)
	}
	if s.Finish != nil {
		names = append(names, s.Finish.Name)
		f := s.Finish
		for _, v := range []float64{f.Colour[0], f.Colour[1], f.Colour[2], f.Opacity, f.Metalness, f.Roughness} {
			if math.IsNaN(v) || v < 0 || v > 1 {
				return errors.New("the values of a finish lie between 0 and 1")
			}
		}
	}
	for _, n := range names {
		if utf8.RuneCountInString(n) > MaxName || !utf8.ValidString(n) {
			return fmt.Errorf("a name has at most %d characters", MaxName)
		}
	}
	return nil
}

// Label says in a few words what the edit does.
func (s *Edit) Label() string {
	switch s.Do {
	case Rename:
		return fmt.Sprintf("Rename to %q", s.Name)
	case Group:
		return fmt.Sprintf("Group %q", s.Name)
	case Move:
		return "Move in the tree"
	case Flatten:
		return "Ungroup"
	case Split:
		return fmt.Sprintf("Split into %d parts", len(s.Pieces))
	case Wear:
		if s.Finish == nil {
			break
		}
		return fmt.Sprintf("Finish %q", s.Finish.Name)
	case TellApart:
		return "Colour by part"
	case AddSet, ChangeSet:
		if s.Set == nil {
			break
		}
		return map[Do]string{AddSet: "Add", ChangeSet: "Change"}[s.Do] + fmt.Sprintf(" the set %q", s.Set.Name)
	case RemoveSet:
		return "Remove a set"
	case SetJoints:
		return s.jointLabel()
	case Unjoint:
		return "Remove a joint"
	case Swap:
		return "Exchange what was taken for one another"
	case Part:
		return "Tell from the revision before"
	case Mind:
		return "What to mind"
	case SetVariants:
		if len(s.Variants) == 1 {
			return fmt.Sprintf("Variant %q", s.Variants[0].Name)
		}
		return fmt.Sprintf("%d variants", len(s.Variants))
	case RemoveVariant:
		return "Remove a variant"
	case LeaveOut:
		return "Leave out of a variant"
	case PutBack:
		return "Put back into a variant"
	case OnlyIn:
		return "In one variant alone"
	case StandIn:
		return "Stand in for another part"
	case WearIn, CallIn, PoseIn:
		return "Otherwise in a variant"
	}
	return string(s.Do)
}
