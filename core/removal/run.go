package removal

import (
	"context"

	"slowreveal/core/assembly"
	"slowreveal/core/clearance"
	"slowreveal/core/plan"
	"slowreveal/core/solid"
	"slowreveal/core/space"
	"slowreveal/core/survey"
)

// Subject is what a plan is made for.
type Subject struct {
	Assembly *assembly.Assembly
	Shapes   []*solid.Shape
	Survey   *survey.Survey
	// At is how the assembly stands where the plan begins. What is not seen there is not there, what stands elsewhere
	// than at rest has left.
	At clearance.Pose
	// Eye is how the camera is turned where the plan begins; the zero value is that of a first film.
	Eye space.Quat
}

// Run computes a plan. found, which may be nil, is told of the plan as far as it has come, with each move: distances
// are provisional until the end. Where ctx ends, what has been found is returned together with its error.
func Run(ctx context.Context, subject Subject, choices plan.Choices, found func(plan.Plan)) (plan.Plan, error) {
	s := newSearch(ctx, subject, choices, found)
	s.given()
	if choices.Reach != "" {
		s.reach()
	} else {
		s.takeApart(0, s.stays)
	}
	s.setApart()
	p := s.result()
	p.Complete = ctx.Err() == nil
	return p, ctx.Err()
}
