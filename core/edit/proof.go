package edit

import (
	"fmt"
	"maps"
	"slices"

	"slowreveal/core/reveal"
)

// accept lets a finding be, for another reason where it is accepted already; without a reason it takes that back.
func accept(r *reveal.Reveal, c *Command) (Command, error) {
	if c.Accepted == nil {
		return Command{}, fmt.Errorf("accept lacks the finding")
	}
	inverse := *c.Accepted
	inverse.Reason = ""
	p := reveal.Proof{}
	if r.Proof != nil {
		p = *r.Proof
	}
	p.Accepted = slices.Clone(p.Accepted)
	at := slices.IndexFunc(p.Accepted, func(a reveal.Accepted) bool { return a.Same(c.Accepted) })
	switch {
	case at >= 0:
		inverse = p.Accepted[at]
		p.Accepted = slices.Delete(p.Accepted, at, at+1)
	case c.Accepted.Reason == "":
		return Command{}, fmt.Errorf("this finding is not accepted")
	default:
		at = slices.IndexFunc(p.Accepted, func(a reveal.Accepted) bool { return before(c.Accepted, &a) })
		if at < 0 {
			at = len(p.Accepted)
		}
	}
	if c.Accepted.Reason != "" {
		p.Accepted = slices.Insert(p.Accepted, at, cloneAccepted(*c.Accepted))
	}
	r.Proof = usual(p)
	return Command{Op: Accept, Accepted: &inverse}, nil
}

// before orders accepted findings, so that a document does not depend on the order in which they were.
func before(a, b *reveal.Accepted) bool {
	key := func(a *reveal.Accepted) string { return fmt.Sprint(a.Check, a.Cues, a.Parts) }
	return key(a) < key(b)
}

func cloneAccepted(a reveal.Accepted) reveal.Accepted {
	a.Parts, a.Cues = slices.Clone(a.Parts), slices.Clone(a.Cues)
	return a
}

func setLimit(r *reveal.Reveal, c *Command) (Command, error) {
	if c.Check == "" {
		return Command{}, fmt.Errorf("setLimit lacks the check")
	}
	p := reveal.Proof{}
	if r.Proof != nil {
		p = *r.Proof
	}
	inverse := Command{Op: SetLimit, Check: c.Check}
	if was, ok := p.Limits[c.Check]; ok {
		inverse.Limit = &was
	}
	p.Limits = maps.Clone(p.Limits)
	delete(p.Limits, c.Check)
	if c.Limit != nil {
		if p.Limits == nil {
			p.Limits = map[string]float64{}
		}
		p.Limits[c.Check] = *c.Limit
	}
	r.Proof = usual(p)
	return inverse, nil
}

// usual is nil where nothing has been decided: a document that comes back to that is as it was, byte for byte.
func usual(p reveal.Proof) *reveal.Proof {
	if len(p.Accepted) == 0 {
		p.Accepted = nil
	}
	if len(p.Limits) == 0 {
		p.Limits = nil
	}
	if p.Accepted == nil && p.Limits == nil {
		return nil
	}
	return &p
}
