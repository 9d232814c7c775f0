package clearance

import (
	"math"
	"sync"

	"github.com/sourcegraph/conc/iter"

	"slowreveal/core/assembly"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// Space is an assembly made ready for questions; it may be asked from several
// goroutines at once.
type Space struct {
	assembly *assembly.Assembly
	shapes   []*solid.Shape
	mu       sync.Mutex
	slims    map[slimKey]*Slim

	measured   sync.Once
	deviations []float64 // by shape, mm
}

type slimKey struct {
	shape int
	slack float64
}

// Pose is how the assembly stands at a moment: the world pose and the opacity of
// each node. What is not seen is in nobody's way.
type Pose struct {
	World   []space.Rigid
	Opacity []float64
}

// Way is what lies in one direction.
type Way struct {
	// Free says that nothing is touched within the limit.
	Free bool `json:"free"`
	// Distance is how far the parts go before they touch, mm.
	Distance float64 `json:"distance"`
	// Touches is the part that they touch first.
	Touches assembly.NodeID `json:"touches,omitempty"`
}

// NewSpace makes an assembly ready.
func NewSpace(a *assembly.Assembly, shapes []*solid.Shape) *Space {
	return &Space{assembly: a, shapes: shapes, slims: map[slimKey]*Slim{}}
}

// Slim returns the shape of a node that is thinner by half a slack, mm.
func (s *Space) Slim(node int, slack float64) *Slim {
	s.mu.Lock()
	defer s.mu.Unlock()
	key := slimKey{s.assembly.Nodes[node].Shape, slack}
	if s.slims[key] == nil {
		s.slims[key] = NewSlim(s.shapes[key.shape], slack)
	}
	return s.slims[key]
}

// Ways returns, for each direction (in the world), how far the parts at or below
// the picked nodes go before they touch a part that stays. Directions need not be
// of unit length; limit is in mm.
func (s *Space) Ways(at Pose, picked []assembly.NodeID, directions []space.Vec, limit float64) []Way {
	ways := make([]Way, len(directions))
	s.Each(at, picked, directions, limit, func(i int, w Way) { ways[i] = w })
	return ways
}

// Each is Ways that hands over every way as soon as it is found, with the number of its direction. Several may be
// handed over at the same time.
func (s *Space) Each(
	at Pose,
	picked []assembly.NodeID,
	directions []space.Vec,
	limit float64,
	found func(i int, w Way),
) {
	moving, still := s.divide(at, picked)
	iter.ForEachIdx(directions, func(i int, d *space.Vec) { found(i, s.way(at, moving, still, *d, limit)) })
}

// divide returns the parts that move and those that stay and are seen.
func (s *Space) divide(at Pose, picked []assembly.NodeID) (moving, still []int) {
	goes := make([]bool, len(s.assembly.Nodes))
	index := s.assembly.Index()
	for _, id := range picked {
		if i, ok := index[id]; ok {
			goes[i] = true
		}
	}
	for i := range s.assembly.Nodes {
		n := &s.assembly.Nodes[i]
		goes[i] = goes[i] || n.Parent >= 0 && goes[n.Parent]
		switch {
		case !n.IsPart() || at.Opacity[i] <= 0:
		case goes[i]:
			moving = append(moving, i)
		default:
			still = append(still, i)
		}
	}
	return moving, still
}

func (s *Space) way(at Pose, moving, still []int, direction space.Vec, limit float64) Way {
	d, ok := space.Normalize(direction)
	if !ok {
		return Way{Free: true, Distance: limit}
	}
	out := Way{Free: true, Distance: limit}
	for _, m := range moving {
		box := s.box(at, m)
		for _, o := range still {
			if solid.Meets(s.box(at, o), box, d) >= out.Distance {
				continue
			}
			inverse := at.World[o].Inverse()
			place := inverse.Mul(&at.World[m])
			slack := Slack
			if s.Slim(o, slack).Crosses(s.Slim(m, slack), &place) {
				slack = threadSlack
			}
			// Both are thinner by half the slack, which is given back.
			free := sweep(
				s.Slim(o, slack),
				s.Slim(m, slack),
				&place,
				at.World[o].R.ApplyInverse(d),
				out.Distance+slack,
				slack,
			) - slack
			if slack == Slack {
				free = s.exact(o, m, &place, at.World[o].R.ApplyInverse(d), free)
			}
			if free < out.Distance {
				out = Way{Distance: math.Max(free, 0), Touches: s.assembly.Nodes[o].ID}
			}
		}
	}
	return out
}

// sameContact is how much sooner, mm, the whole bodies may touch than the thinned
// ones and still do so in the same place; what they touch before that they only
// graze, like a pin the bore of its own size.
const sameContact = 2.0

// exact takes the distance that thinned bodies have to that of the whole ones:
// where they meet at a slant, being thinner makes more than its thickness.
func (s *Space) exact(o, m int, place *space.Rigid, way space.Vec, thinned float64) float64 {
	if thinned <= Slack { // they touch from the beginning
		return thinned
	}
	if whole := sweep(s.Slim(o, 0), s.Slim(m, 0), place, way, thinned+Slack, 0); whole > 0 &&
		thinned-whole < sameContact {
		return whole
	}
	return thinned
}

func (s *Space) box(at Pose, node int) space.Box {
	return s.assembly.Shapes[s.assembly.Nodes[node].Shape].Bounds().Moved(&at.World[node])
}
