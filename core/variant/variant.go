package variant

import (
	"fmt"
	"slices"
	"strings"

	"slowreveal/core/assembly"
	"slowreveal/core/reveal"
)

// Mention is what stands for the variant's name in the words of a reveal.
const Mention = "{variant}"

// Shown is a product as a variant has it. Nodes, steps and cues keep their places: nodes that are not in it have no
// shapes, cues that have nothing to act on and steps that have nothing to do are muted.
type Shown struct {
	Variant  *assembly.Variant // nil for the whole assembly
	Assembly *assembly.Assembly
	Reveal   *reveal.Reveal
	// Absent are the nodes, by index, that are not in it.
	Absent []bool
}

// Find returns the id of the variant that a reveal is shown in: the one that is asked for by id or name, or else the
// one that the reveal is for; "" for the whole assembly, which "-" asks for. One that is not there is an error.
func Find(a *assembly.Assembly, r *reveal.Reveal, asked string) (assembly.VariantID, error) {
	switch {
	case asked == "-":
		return "", nil
	case asked != "":
		if v := a.CalledVariant(asked); v != nil {
			return v.ID, nil
		}
		var names []string
		for i := range a.Variants {
			names = append(names, a.Variants[i].Name)
		}
		if len(names) == 0 {
			return "", fmt.Errorf("there is no variant %q: this assembly has none; they are made in Prepare", asked)
		}
		return "", fmt.Errorf("there is no variant %q; there are %s", asked, strings.Join(names, ", "))
	case r != nil && r.Variants != nil && a.FindVariant(r.Variants.For) != nil:
		return r.Variants.For, nil
	}
	return "", nil
}

// All are the variants of an assembly as they are asked for; the whole one alone where it has none.
func All(a *assembly.Assembly) (asked []string) {
	for i := range a.Variants {
		asked = append(asked, string(a.Variants[i].ID))
	}
	if len(asked) == 0 {
		return []string{"-"}
	}
	return asked
}

// Of shows an assembly and a reveal as the variant has them; neither is changed. The reveal may be nil. Without a
// variant, or with one that is not there, they are returned as they are, but for words that mention it.
func Of(a *assembly.Assembly, r *reveal.Reveal, id assembly.VariantID) Shown {
	v := a.FindVariant(id)
	if v == nil {
		if r != nil && mentions(r) {
			r = reveal.Clone(r)
			speak(r, nil)
		}
		return Shown{Assembly: a, Reveal: r, Absent: make([]bool, len(a.Nodes))}
	}
	s := Shown{Variant: v, Absent: v.Absent(a)}
	s.Assembly = dressed(a, v, s.Absent)
	if r == nil {
		return s
	}
	s.Reveal = reveal.Clone(r)
	d := director{
		variant:  v,
		there:    map[assembly.NodeID]bool{},
		by:       map[assembly.NodeID]assembly.NodeID{},
		assembly: s.Assembly,
	}
	for i, absent := range s.Absent {
		d.there[a.Nodes[i].ID] = !absent
	}
	for _, e := range v.Instead {
		d.by[e.Of] = e.By
	}
	d.direct(s.Reveal)
	for i, absent := range s.Absent {
		if absent && !s.Absent[max(0, a.Nodes[i].Parent)] &&
			!slices.Contains(s.Reveal.Opening.Suppressed, a.Nodes[i].ID) {
			s.Reveal.Opening.Suppressed = append(s.Reveal.Opening.Suppressed, a.Nodes[i].ID)
		}
	}
	speak(s.Reveal, v)
	return s
}

// dressed is the assembly with the variant's names, finishes and poses, and without the shapes and joints of what is
// absent.
func dressed(a *assembly.Assembly, v *assembly.Variant, absent []bool) *assembly.Assembly {
	out := *a
	out.Nodes, out.Finishes = slices.Clone(a.Nodes), slices.Clone(a.Finishes)
	index := a.Index()
	at := func(id assembly.NodeID) *assembly.Node {
		i, there := index[id]
		if !there {
			return &assembly.Node{}
		}
		return &out.Nodes[i]
	}
	for _, p := range v.Poses {
		at(p.Node).Pose = p.Pose
	}
	for _, n := range v.Names {
		at(n.Node).Name = n.Name
	}
	for _, f := range v.Finishes {
		finish := slices.Index(out.Finishes, f.Finish)
		if finish < 0 {
			finish = len(out.Finishes)
			out.Finishes = append(out.Finishes, f.Finish)
		}
		worn := make([]bool, len(out.Nodes))
		for _, id := range f.Nodes {
			if i, there := index[id]; there {
				worn[i] = true
			}
		}
		for i := range out.Nodes {
			n := &out.Nodes[i]
			worn[i] = worn[i] || n.Parent >= 0 && worn[n.Parent]
			if worn[i] && n.IsPart() {
				n.Finishes = slices.Repeat([]int{finish}, len(n.Finishes))
			}
		}
	}
	for i := range out.Nodes {
		if absent[i] {
			out.Nodes[i].Shape, out.Nodes[i].Finishes = -1, nil
		}
	}
	there := func(id assembly.NodeID) bool { return !absent[index[id]] }
	out.Joints, out.Couplings = assembly.JointsThat(a.Joints, a.Couplings, func(j *assembly.Joint) bool {
		return there(j.Body) && there(j.Base)
	})
	out.Variants = nil
	return &out
}

// Reduced returns assembly and reveal without anything of what is not in the variant, not even names: for files that go
// to others. Both are valid by themselves; nodes have other indices.
func (s Shown) Reduced() (*assembly.Assembly, *reveal.Reveal) {
	if !slices.Contains(s.Absent, true) {
		return s.Assembly, s.Reveal
	}
	a := *s.Assembly
	a.Nodes = nil
	place := make([]int, len(s.Absent))
	for i, n := range s.Assembly.Nodes {
		if s.Absent[i] {
			continue
		}
		place[i] = len(a.Nodes)
		if n.Parent >= 0 {
			n.Parent = place[n.Parent]
		}
		a.Nodes = append(a.Nodes, n)
	}
	if s.Reveal == nil {
		return &a, nil
	}
	r := reveal.Clone(s.Reveal)
	reveal.Match(r, &a)
	dropMuted(r)
	return &a, r
}
