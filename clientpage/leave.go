package clientpage

import (
	"encoding/json"
	"fmt"
	"slices"

	"slowreveal/core/assembly"
	"slowreveal/core/product"
	"slowreveal/core/reveal"
)

// left is a model without what no reveal of a page shows.
type left struct {
	model *product.Model
	docs  []json.RawMessage
	nodes []int // the parts that are told of, as indices
}

// leave takes out of a model what is suppressed in all reveals: its shapes, its names, and its ids, which are made of
// names. In its place stay nodes that have nothing, so that everything else keeps its place.
func leave(m *product.Model, reveals []*reveal.Reveal) (left, error) {
	a := *m.Assembly
	a.Nodes = slices.Clone(a.Nodes)
	hidden := make([]int, len(a.Nodes)) // in how many reveals
	index := a.Index()
	for _, r := range reveals {
		own := make([]bool, len(a.Nodes))
		for _, id := range r.Opening.Suppressed {
			own[index[id]] = true
		}
		for i := range a.Nodes {
			if p := a.Nodes[i].Parent; p >= 0 && own[p] {
				own[i] = true
			}
			if own[i] {
				hidden[i]++
			}
		}
	}
	out := left{model: &product.Model{Assembly: &a}}
	used := make([]int, len(a.Shapes))
	names := map[string]string{}
	for i := range a.Nodes {
		n := &a.Nodes[i]
		if hidden[i] == len(reveals) {
			id := fmt.Sprintf("left-out-%d", i)
			names[string(n.ID)] = id
			n.ID, n.Name, n.Shape, n.Finishes = assembly.NodeID(id), "–", -1, nil
			continue
		}
		if out.nodes = append(out.nodes, i); n.Shape >= 0 {
			used[n.Shape]++
		}
	}
	leaveJoints(&a, names)
	a.Shapes = nil
	place := make([]int, len(used))
	for k, n := range used {
		if n > 0 {
			place[k] = len(a.Shapes)
			a.Shapes = append(a.Shapes, m.Assembly.Shapes[k])
			out.model.Shapes = append(out.model.Shapes, m.Shapes[k])
		}
	}
	for i := range a.Nodes {
		if n := &a.Nodes[i]; n.Shape >= 0 {
			n.Shape = place[n.Shape]
		}
	}
	for _, r := range reveals {
		doc, err := renamed(r, names)
		if err != nil {
			return left{}, err
		}
		out.docs = append(out.docs, doc)
	}
	return out, nil
}

// leaveJoints names what stays in the place of parts in the joints between them, which keep their say, and takes the
// joints' own names away: a client is not told of them.
func leaveJoints(a *assembly.Assembly, names map[string]string) {
	if len(names) == 0 {
		return
	}
	a.Joints, a.Couplings = slices.Clone(a.Joints), slices.Clone(a.Couplings)
	for i := range a.Joints {
		j := &a.Joints[i]
		j.Name = ""
		for _, side := range []*assembly.NodeID{&j.Body, &j.Base} {
			if to, gone := names[string(*side)]; gone {
				*side = assembly.NodeID(to)
			}
		}
	}
	for i := range a.Couplings {
		a.Couplings[i].Name = ""
	}
}

// renamed writes a document in which nodes have other ids. What the author has accepted of the proof is no business of
// the client's.
func renamed(r *reveal.Reveal, names map[string]string) (json.RawMessage, error) {
	own := *r
	own.Proof = nil
	own.Steps = slices.Clone(r.Steps)
	for i := range own.Steps {
		own.Steps[i].Cues = withoutNotes(own.Steps[i].Cues, r, names)
	}
	data, err := json.Marshal(&own)
	if err != nil {
		return nil, fmt.Errorf("writing the reveal %q: %w", r.Title, err)
	}
	if len(names) == 0 {
		return data, nil
	}
	var tree any
	if err := json.Unmarshal(data, &tree); err != nil {
		return nil, fmt.Errorf("reading the reveal %q: %w", r.Title, err)
	}
	return json.Marshal(rename(tree, names))
}

// withoutNotes takes out the notes that point at what is left out: they name it, and are never seen. One whose settings
// others share stays, without its words.
func withoutNotes(cues []reveal.Cue, r *reveal.Reveal, names map[string]string) []reveal.Cue {
	var kept []reveal.Cue
	for _, c := range cues {
		if c.Kind != reveal.KindNote || names[string(c.Targets[0])] == "" {
			kept = append(kept, c)
			continue
		}
		shared := slices.ContainsFunc(r.Steps, func(s reveal.Step) bool {
			return slices.ContainsFunc(s.Cues, func(o reveal.Cue) bool { return o.Twin == c.ID })
		})
		if shared && c.Note != nil {
			note := *c.Note
			note.Text = "–"
			c.Note = &note
			kept = append(kept, c)
		}
	}
	return kept
}

func rename(v any, names map[string]string) any {
	switch v := v.(type) {
	case string:
		if to, ok := names[v]; ok {
			return to
		}
	case []any:
		for i := range v {
			v[i] = rename(v[i], names)
		}
	case map[string]any:
		for k := range v {
			v[k] = rename(v[k], names)
		}
	}
	return v
}
