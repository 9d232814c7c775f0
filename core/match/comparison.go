package match

import (
	"slices"

	"slowreveal/core/assembly"
)

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
	// Followed is what of the reveals has gone with the geometry.
	Followed []string `json:"followed,omitempty"`
	// Pieces are the parts that were split off others, by the ids that these keep.
	Pieces assembly.Pieces `json:"pieces,omitempty"`
}

// Named is a node that is there in one of the revisions only.
type Named struct {
	ID   assembly.NodeID `json:"id"`
	Name string          `json:"name"`
	Part bool            `json:"part"`
	// Of is the name of the part that it was one with before, or is one with now.
	Of string `json:"of,omitempty"`
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
		c := Altered{Named: named(n), Sure: p.Sure, Confidence: p.Confidence, Why: p.Why}
		for _, change := range p.Changes {
			c.Says = append(c.Says, change.Says)
		}
		s.Changed = append(s.Changed, c)
	}
	for _, id := range o.Gone {
		n := &old.Nodes[before[id]]
		s.Gone = append(s.Gone, named(n))
	}
	matched := map[assembly.NodeID]bool{}
	for i := range o.Pairs {
		matched[o.Pairs[i].Old] = true
	}
	for i := range kept.Nodes {
		if n := &kept.Nodes[i]; !matched[n.ID] {
			s.Added = append(s.Added, named(n))
		}
	}
	o.tellPieces(&s, kept)
	return s
}

func named(n *assembly.Node) Named { return Named{ID: n.ID, Name: n.Name, Part: n.IsPart()} }

// tellPieces says of what is new that it was split off, and of what is gone that it is one with another part.
func (o *Outcome) tellPieces(s *Comparison, kept *assembly.Assembly) {
	ids, index := map[assembly.NodeID]assembly.NodeID{}, kept.Index()
	for i := range o.Pairs {
		ids[o.Pairs[i].New] = o.Pairs[i].Old
	}
	of := func(list []Named, id assembly.NodeID, whole assembly.NodeID) {
		if at := slices.IndexFunc(list, func(n Named) bool { return n.ID == id }); at >= 0 {
			list[at].Of = kept.Nodes[index[whole]].Name
		}
	}
	for _, split := range o.Splits {
		for _, k := range split.pieces[1:] { // Kept leaves nodes where they are
			id := kept.Nodes[k].ID
			of(s.Added, id, split.Old)
			if s.Pieces == nil {
				s.Pieces = assembly.Pieces{}
			}
			s.Pieces[split.Old] = append(s.Pieces[split.Old], id)
		}
	}
	for _, join := range o.Joins {
		for _, id := range join.Old[1:] {
			of(s.Gone, id, ids[join.New])
		}
	}
}
