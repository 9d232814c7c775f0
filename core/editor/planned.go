package editor

import (
	"errors"

	"slowreveal/core/plan"
	"slowreveal/core/reveal"
)

// Planned is moves of a plan that are to become steps from a time of the film on.
type Planned struct {
	Plan    *plan.Plan    `json:"plan"`
	Time    reveal.Micros `json:"time"`
	Writing plan.Writing  `json:"writing"`
}

// planned writes moves of a plan as steps of the open reveal, without putting them there; a preview does not count.
func (d *Editor) planned(q Planned) (plan.Written, error) {
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
