package compose

import (
	"errors"
	"slices"

	"slowreveal/core/assembly"
	"slowreveal/core/reveal"
)

const (
	arrowTime   = 2 * reveal.Second
	causeLit    = 3 * reveal.Second / 2 // how long each part is lit
	causeApart  = 3 * reveal.Second / 5 // from one part to the next
	causeChange = 3 * reveal.Second / 10
)

// arrow shows which way what is picked goes.
func (c *composer) arrow() error {
	return c.onTargets(reveal.Cue{
		Kind: reveal.KindArrow, Duration: arrowTime, Easing: reveal.Linear, Arrow: &reveal.Arrow{},
	})
}

// causes lights up what a joint drives, in the order in which one part moves the next.
func (c *composer) causes() error {
	nodes, err := c.targets()
	if err != nil {
		return err
	}
	chain := c.Causes(nodes[0])
	if len(chain) < 2 {
		return errors.New("Nothing that this drives is known here. Drive it first.")
	}
	tint := func(amount float64, at reveal.Micros) reveal.Cue {
		return reveal.Cue{
			Kind: reveal.KindTint, Targets: chain, Offset: at, Duration: causeChange, Stagger: causeApart,
			Easing: reveal.Smooth, Tint: &reveal.Tint{Colour: pointedOut, Amount: amount},
		}
	}
	p, err := c.placeHere()
	if err != nil {
		return err
	}
	c.insert(p.step, p.index, []reveal.Cue{tint(tintAmount, 0), tint(0, causeLit)}, p.at)
	return nil
}

// Causes are the nodes that are driven with one of them, from that which drives to what is moved last: each after what
// moves it, by joints and by couplings.
func (s *Subject) Causes(node assembly.NodeID) (chain []assembly.NodeID) {
	if s.Film == nil || s.Film.Mechanism() == nil {
		return nil
	}
	driven := s.Film.DrivenNodes()
	beside := map[assembly.NodeID][]assembly.NodeID{}
	join := func(a, b assembly.NodeID) {
		if a != b && slices.Contains(driven, a) && slices.Contains(driven, b) {
			beside[a], beside[b] = append(beside[a], b), append(beside[b], a)
		}
	}
	for i := range s.Assembly.Joints {
		join(s.Assembly.Joints[i].Base, s.Assembly.Joints[i].Body)
	}
	for i := range s.Assembly.Couplings {
		a, b := s.Assembly.FindJoint(s.Assembly.Couplings[i].By), s.Assembly.FindJoint(s.Assembly.Couplings[i].Joint)
		if a != nil && b != nil {
			join(a.Body, b.Body)
		}
	}
	first := node
	for _, d := range s.Film.Mechanism().Drivers {
		if j := s.Assembly.FindJoint(d.Joint); j != nil && (first == node || j.Body == node) {
			first = j.Body
		}
	}
	chain = []assembly.NodeID{first}
	for at := 0; at < len(chain); at++ {
		for _, next := range beside[chain[at]] {
			if !slices.Contains(chain, next) {
				chain = append(chain, next)
			}
		}
	}
	return chain
}
