package desk

import (
	"errors"

	"slowreveal/core/plan"
)

// planned writes moves of a plan as steps of the open reveal, without putting them there; a preview does not count.
func (d *Desk) planned(q *Question) (plan.Written, error) {
	if d.film == nil {
		return plan.Written{}, errClosed
	}
	if q.Plan == nil || q.Writing.Fresh == "" {
		return plan.Written{}, errors.New("there is no plan to write")
	}
	if d.undoPreview != nil {
		return plan.Written{}, errors.New(
			"something is being tried out: the plan goes on from what is there without it",
		)
	}
	return plan.Insert(q.Plan, d.assembly, d.reveal, q.Time, q.Writing), nil
}
