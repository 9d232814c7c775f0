package match

import "slowreveal/core/assembly"

// Comparison is an Outcome as it is told of: what is as it was is only counted. Ids are those that the nodes keep.
type Comparison struct {
	// Before is the id of the revision before.
	Before  string    `json:"before,omitempty"`
	Placed  string    `json:"placed,omitempty"`
	Same    int       `json:"same"`
	Changed []Altered `json:"changed"`
	Gone    []Named   `json:"gone"`
	Added   []Named   `json:"added"`
	// Lost is what of the arrangement and the reveals meant nodes that are gone.
	Lost []string `json:"lost,omitempty"`
}

// Named is a node that is there in one of the revisions only.
type Named struct {
	ID   assembly.NodeID `json:"id"`
	Name string          `json:"name"`
	Part bool            `json:"part"`
}

// Altered is a node that is otherwise, or of which it is not certain that it is the same.
type Altered struct {
	Named
	Says       []string `json:"says,omitempty"`
	Sure       bool     `json:"sure"`
	Confidence float64  `json:"confidence"`
	Why        string   `json:"why"`
}

// Comparison tells of the outcome; kept is what Kept has made of the new revision.
func (o *Outcome) Comparison(old, kept *assembly.Assembly) Comparison {
	s := Comparison{Placed: o.Placed, Changed: []Altered{}, Gone: []Named{}, Added: []Named{}}
	index, before := kept.Index(), old.Index()
	for i := range o.Pairs {
		p := &o.Pairs[i]
		if p.Sure && len(p.Changes) == 0 {
			s.Same++
			continue
		}
		n := &kept.Nodes[index[p.Old]]
		c := Altered{Named: Named{n.ID, n.Name, n.IsPart()}, Sure: p.Sure, Confidence: p.Confidence, Why: p.Why}
		for _, change := range p.Changes {
			c.Says = append(c.Says, change.Says)
		}
		s.Changed = append(s.Changed, c)
	}
	for _, id := range o.Gone {
		n := &old.Nodes[before[id]]
		s.Gone = append(s.Gone, Named{id, n.Name, n.IsPart()})
	}
	matched := map[assembly.NodeID]bool{}
	for i := range o.Pairs {
		matched[o.Pairs[i].Old] = true
	}
	for i := range kept.Nodes {
		if n := &kept.Nodes[i]; !matched[n.ID] {
			s.Added = append(s.Added, Named{n.ID, n.Name, n.IsPart()})
		}
	}
	return s
}
