package desk

import (
	"cmp"
	"errors"
	"slices"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/space"
)

// Spread is what pulls several nodes apart.
type Spread struct {
	// Along is the direction in the axes of the whole assembly.
	Along space.Triple `json:"along"`
	Pulls []Pulled     `json:"pulls"`
}

// Pulled is how far one node of a spread or a peel goes, mm.
type Pulled struct {
	Node     assembly.NodeID `json:"node"`
	Distance float64         `json:"distance"`
}

// spread gives nodes even gaps along a direction (in the world). A spread orders
// them by where they are at the playhead and takes the outermost to the distance, or,
// by gaps, each so much further than the one before it;
// a peel takes them as they were picked, outermost first, and each layer carries
// everything outside it by the distance.
func (d *Desk) spread(q *Question) (Spread, error) {
	along, ok := space.Unit(q.Along.Vec())
	if d.assembly == nil || !ok {
		return Spread{}, errClosed
	}
	if len(q.Nodes) < 2 {
		return Spread{}, errors.New("a spread needs at least two parts: pick more of them")
	}
	fr := d.seen()
	nodes := slices.Clone(q.Nodes)
	if q.Peel {
		slices.Reverse(nodes)
	} else {
		place := func(id assembly.NodeID) float64 {
			i := d.index[id]
			return r3.Dot(along, fr.World[i].Apply(d.boxes[i].Centre()))
		}
		slices.SortStableFunc(nodes, func(a, b assembly.NodeID) int { return cmp.Compare(place(a), place(b)) })
	}
	gap := q.Distance
	if !q.Peel && !q.Gap {
		gap /= float64(len(nodes))
	}
	out := Spread{Along: space.TripleOf(fr.World[0].R.ApplyInverse(along)), Pulls: make([]Pulled, len(nodes))}
	for i, id := range nodes {
		out.Pulls[i] = Pulled{id, gap * float64(i+1)}
	}
	return out, nil
}
