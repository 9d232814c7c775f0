package assembly

import (
	"fmt"
	"slices"
)

// Hazard is what has to be minded when a part or a subassembly is taken off. An author says so: no shape tells.
type Hazard string

// The hazards.
const (
	Sprung Hazard = "sprung" // it is under the load of a spring
	Live   Hazard = "live"   // it carries a voltage
	Heavy  Hazard = "heavy"  // it has to be held
	Sharp  Hazard = "sharp"  // it cuts
)

// Hazards lists all hazards, the gravest first.
var Hazards = []Hazard{Live, Sprung, Heavy, Sharp}

// NodeHazard says of a node what has to be minded.
type NodeHazard struct {
	Node   NodeID `json:"node"`
	Hazard Hazard `json:"hazard"`
}

// MaxHazards bounds how many nodes of an assembly have a hazard.
const MaxHazards = 2_000

func (a *Assembly) checkHazards(index map[NodeID]int) error {
	if len(a.Hazards) > MaxHazards {
		return fmt.Errorf("%d parts are to be minded; the limit is %d", len(a.Hazards), MaxHazards)
	}
	said := map[NodeID]bool{}
	for _, h := range a.Hazards {
		_, there := index[h.Node]
		switch {
		case !there:
			return fmt.Errorf("there is no node %q that could be %s", h.Node, h.Hazard)
		case !slices.Contains(Hazards, h.Hazard):
			return fmt.Errorf("node %q: %q is nothing that can be minded", h.Node, h.Hazard)
		case said[h.Node]:
			return fmt.Errorf("node %q: it is said twice what is to be minded", h.Node)
		}
		said[h.Node] = true
	}
	return nil
}
