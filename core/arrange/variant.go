package arrange

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"slowreveal/core/assembly"
)

// setVariants puts variants in the place of those with their ids, or behind all others. What they name is checked with
// the whole assembly.
func (w *work) setVariants(s *Edit) error {
	if len(s.Variants) == 0 {
		return errors.New("no variant is named")
	}
	for i := range s.Variants {
		v := s.Variants[i]
		if err := v.Check(); err != nil {
			return fmt.Errorf("variant %q: %w", v.Name, err)
		}
		at := slices.IndexFunc(w.variants, func(o assembly.Variant) bool { return o.ID == v.ID })
		for k := range w.variants {
			if k != at && strings.EqualFold(w.variants[k].Name, v.Name) {
				return fmt.Errorf("there is a variant called %q already", v.Name)
			}
		}
		if at >= 0 {
			w.variants[at] = v
		} else {
			w.variants = append(w.variants, v)
		}
	}
	return nil
}

func (w *work) removeVariant(s *Edit) error {
	left := len(w.variants)
	w.variants = slices.DeleteFunc(w.variants, func(v assembly.Variant) bool { return v.ID == s.VariantID })
	if len(w.variants) == left {
		return fmt.Errorf("there is no variant %q", s.VariantID)
	}
	return nil
}

// vary changes what is otherwise in one variant.
func (w *work) vary(s *Edit) error {
	at := slices.IndexFunc(w.variants, func(v assembly.Variant) bool { return v.ID == s.VariantID })
	if at < 0 {
		return fmt.Errorf("there is no variant %q", s.VariantID)
	}
	named := s.Nodes
	if s.Do == CallIn {
		named = []assembly.NodeID{s.Node}
	}
	nodes, err := w.all(named)
	if err != nil {
		return err
	}
	if slices.Contains(nodes, w.root) && s.Do != WearIn && s.Do != CallIn {
		return errors.New("the whole assembly is in every variant")
	}
	w.variants = slices.Clone(w.variants) // those of an earlier state stay as they are
	v := copied(w.variants[at])
	switch s.Do {
	case LeaveOut:
		w.leaveOut(&v, nodes)
	case PutBack:
		w.putBack(&v, nodes)
	case OnlyIn:
		w.putBack(&v, nodes)
		w.nowhereElse(at, nodes)
	case StandIn:
		if err := w.standIn(&v, at, nodes); err != nil {
			return err
		}
	case WearIn:
		wear(&v, named, s.Finish)
	case CallIn:
		v.Names = slices.DeleteFunc(v.Names, func(n assembly.NodeName) bool { return n.Node == s.Node })
		if strings.TrimSpace(s.Name) != "" {
			v.Names = append(v.Names, assembly.NodeName{Node: s.Node, Name: s.Name})
		}
	case PoseIn:
		v.Poses = slices.DeleteFunc(v.Poses, func(p assembly.NodePose) bool { return slices.Contains(named, p.Node) })
		for _, p := range s.Poses {
			if slices.Contains(named, p.Node) {
				v.Poses = append(v.Poses, p)
			}
		}
	}
	w.variants[at] = v
	return v.Check()
}

func copied(v assembly.Variant) assembly.Variant {
	v.Without, v.Instead, v.Finishes = slices.Clone(v.Without), slices.Clone(v.Instead), slices.Clone(v.Finishes)
	v.Poses, v.Names = slices.Clone(v.Poses), slices.Clone(v.Names)
	return v
}

// leaveOut names nodes as not being in a variant; those in them need not be named any more.
func (w *work) leaveOut(v *assembly.Variant, nodes []*node) {
	for _, n := range outermost(nodes) {
		v.Without = slices.DeleteFunc(v.Without, func(id assembly.NodeID) bool { return w.byID[id].within(n) })
		if !slices.ContainsFunc(v.Without, func(id assembly.NodeID) bool { return n.within(w.byID[id]) }) {
			v.Without = append(v.Without, n.ID)
		}
		// what is not there stands in for nothing
		v.Instead = slices.DeleteFunc(v.Instead, func(e assembly.Exchange) bool { return w.byID[e.By].within(n) })
	}
}

// putBack takes nodes into a variant. What holds one is in it then, too, without the others that it holds.
func (w *work) putBack(v *assembly.Variant, nodes []*node) {
	for _, n := range outermost(nodes) {
		v.Instead = slices.DeleteFunc(v.Instead, func(e assembly.Exchange) bool { return e.Of == n.ID })
		for holder := n; holder != nil; holder = holder.parent {
			at := slices.Index(v.Without, holder.ID)
			if at < 0 {
				continue
			}
			v.Without = slices.Delete(v.Without, at, at+1)
			for below := n; below != holder; below = below.parent {
				for _, c := range below.parent.children {
					if c != below {
						v.Without = append(v.Without, c.ID)
					}
				}
			}
		}
		v.Without = slices.DeleteFunc(v.Without, func(id assembly.NodeID) bool { return w.byID[id].within(n) })
	}
}

// nowhereElse leaves nodes out of all variants but one.
func (w *work) nowhereElse(but int, nodes []*node) {
	for i := range w.variants {
		if i != but {
			v := copied(w.variants[i])
			w.leaveOut(&v, nodes)
			w.variants[i] = v
		}
	}
}

// standIn puts the second of two nodes in the place of the first.
func (w *work) standIn(v *assembly.Variant, at int, nodes []*node) error {
	if len(nodes) != 2 {
		return errors.New("two nodes are wanted: one, and what stands in for it")
	}
	of, by := nodes[0], nodes[1]
	if of.within(by) || by.within(of) {
		return errors.New("what lies in another one cannot stand in for it")
	}
	w.putBack(v, nodes)
	v.Instead = append(v.Instead, assembly.Exchange{Of: of.ID, By: by.ID})
	w.nowhereElse(at, []*node{by})
	return nil
}

// wear gives nodes a finish in a variant, or takes it from them.
func wear(v *assembly.Variant, nodes []assembly.NodeID, finish *assembly.Finish) {
	var kept []assembly.NodeFinish
	for _, f := range v.Finishes {
		f.Nodes = slices.DeleteFunc(
			slices.Clone(f.Nodes),
			func(id assembly.NodeID) bool { return slices.Contains(nodes, id) },
		)
		if len(f.Nodes) > 0 {
			kept = append(kept, f)
		}
	}
	if v.Finishes = kept; finish != nil {
		v.Finishes = append(v.Finishes, assembly.NodeFinish{Nodes: slices.Clone(nodes), Finish: *finish})
	}
}

// spread has variants that say something of a group say it of what is in it: the group goes.
func (w *work) spread(group *node) {
	var inside []assembly.NodeID
	for _, c := range group.children {
		inside = append(inside, c.ID)
	}
	instead := func(list []assembly.NodeID) []assembly.NodeID {
		if at := slices.Index(list, group.ID); at >= 0 {
			return slices.Replace(slices.Clone(list), at, at+1, inside...)
		}
		return list
	}
	w.variants = slices.Clone(w.variants)
	for i := range w.variants {
		v := copied(w.variants[i])
		v.Without = instead(v.Without)
		for k := range v.Finishes {
			v.Finishes[k].Nodes = instead(v.Finishes[k].Nodes)
		}
		for _, e := range v.Instead {
			if e.Of == group.ID { // nothing stands in for several
				v.Without = append(v.Without, inside...)
			}
		}
		w.variants[i] = v
	}
}
