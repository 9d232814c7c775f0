package clearance

import (
	"math"

	"github.com/sourcegraph/conc/iter"

	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// Tolerance is how much deeper, mm, than at rest parts may lie in one another.
const Tolerance = 0.1

// levels are what two bodies are thinned by together to find how deep they lie in one another, mm.
var levels = []float64{0, 0.1, 0.2, 0.4, 0.8, 1.6}

// AtRest is by how much, mm, a pair of parts is thinned together while it is looked at how one moves against the other:
// how deep they lie in one another where place takes the moving one's frame to the still one's, and a tolerance, which
// is never less than their facets deviate from what they stand for. ok is false where they lie in one another deeper
// than the last of the levels.
func (s *Space) AtRest(still, moving int, place *space.Rigid, tolerance float64) (slack float64, ok bool) {
	nodes := s.assembly.Nodes
	tolerance = max(tolerance, s.deviation(nodes[still].Shape)+s.deviation(nodes[moving].Shape))
	for _, level := range levels {
		// In steps, so that pairs share thinned shapes.
		if level = math.Ceil((level+tolerance)/0.05-1e-9) * 0.05; !s.Slim(still, level).
			Crosses(s.Slim(moving, level), place) {
			return level, true
		}
	}
	return 0, false
}

// deviation is that of a shape; all are computed when the first is asked for.
func (s *Space) deviation(shape int) float64 {
	s.measured.Do(func() {
		s.deviations = iter.Map(s.shapes, func(shape **solid.Shape) float64 { return deviation(*shape) })
	})
	return s.deviations[shape]
}

// Free is how far, mm, a part goes along a way (of unit length, in the still one's frame) before it touches another
// one, infinite where it does not within the limit. place takes the moving one's frame to the still one's; both are
// thinned together by slack, mm.
func (s *Space) Free(still, moving int, place *space.Rigid, way space.Vec, limit, slack float64) float64 {
	if free := sweep(s.Slim(still, slack), s.Slim(moving, slack), place, way, limit, slack); free < limit {
		return free
	}
	return math.Inf(1)
}
