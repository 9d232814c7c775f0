package variant

import (
	"slices"
	"strings"

	"slowreveal/core/assembly"
	"slowreveal/core/reveal"
)

// director fits what is directed to a variant.
type director struct {
	variant  *assembly.Variant
	assembly *assembly.Assembly
	there    map[assembly.NodeID]bool
	by       map[assembly.NodeID]assembly.NodeID // what stands in for a node
}

// direct mutes cues that have nothing to act on in the variant, and steps that have nothing to do.
func (d *director) direct(r *reveal.Reveal) {
	d.open(&r.Opening)
	if r.Proof != nil {
		for i := range r.Proof.Accepted {
			d.exchange(r.Proof.Accepted[i].Parts)
		}
		r.Proof.Accepted = slices.DeleteFunc(r.Proof.Accepted, func(a reveal.Accepted) bool {
			return slices.ContainsFunc(a.Parts, func(id assembly.NodeID) bool { return !d.there[id] })
		})
	}
	keepGaps := r.Variants != nil && r.Variants.KeepGaps
	idle := map[reveal.StepID]bool{}
	for i := range r.Steps {
		s := &r.Steps[i]
		if s.Muted {
			continue
		}
		acted, acts := false, false
		for k := range s.Cues {
			c := &s.Cues[k]
			if c.Muted || !c.Kind.Targeted() {
				d.cue(c)
				continue
			}
			acted = true
			if d.cue(c); !c.Muted {
				acts = true
			}
		}
		idle[s.ID] = acted && !acts
		if s.Retrace != nil {
			idle[s.ID] = !slices.ContainsFunc(s.Retrace.Steps, func(id reveal.StepID) bool { return !idle[id] })
		}
		switch {
		case idle[s.ID] && keepGaps:
			s.Title, s.Instruction, s.Notice, s.Tools, s.Wordings = "", "", nil, nil, nil
		case idle[s.ID]:
			s.Muted = true
		}
	}
}

// cue gives a cue what the variant has in the place of its targets, and mutes it where that is nothing.
func (d *director) cue(c *reveal.Cue) {
	if by, other := d.by[c.Of]; other {
		c.Of = by
	}
	if c.Of != "" && !d.there[c.Of] {
		c.LeaveOf()
	}
	if c.Shot != nil && c.Shot.Follow != nil {
		nodes := d.present(c.Shot.Follow.Nodes)
		if len(nodes) == 0 && len(c.Shot.Follow.Nodes) > 0 {
			c.Shot.Follow = nil
		} else {
			c.Shot.Follow.Nodes = nodes
		}
	}
	if !c.Kind.Targeted() {
		return
	}
	targets := d.present(c.Targets)
	if c.Drive != nil && d.assembly.FindJoint(c.Drive.Joint) == nil {
		targets = nil
	}
	if len(targets) == 0 {
		c.Muted = true // its targets stay: a document has some
		return
	}
	c.Targets = targets
}

// present are those of some nodes that are there, or what stands in for them, each once.
func (d *director) present(nodes []assembly.NodeID) (list []assembly.NodeID) {
	nodes = slices.Clone(nodes)
	d.exchange(nodes)
	for _, id := range nodes {
		if d.there[id] && !slices.Contains(list, id) {
			list = append(list, id)
		}
	}
	return list
}

func (d *director) exchange(nodes []assembly.NodeID) {
	for i, id := range nodes {
		if by, other := d.by[id]; other {
			nodes[i] = by
		}
	}
}

// open has the opening say of what stands in for others what it says of these.
func (d *director) open(o *reveal.Opening) {
	d.exchange(o.Suppressed)
	each := func(id *assembly.NodeID) {
		if by, other := d.by[*id]; other {
			*id = by
		}
	}
	for i := range o.Opacities {
		each(&o.Opacities[i].Node)
	}
	for i := range o.Tints {
		each(&o.Tints[i].Node)
	}
	for i := range o.Surfaces {
		each(&o.Surfaces[i].Node)
	}
	// A pose is that of the node for which it was written: another one stands elsewhere.
	o.Poses = slices.DeleteFunc(o.Poses, func(p reveal.NodePose) bool { return !d.there[p.Node] })
	slices.Sort(o.Suppressed)
	o.Suppressed = slices.Compact(o.Suppressed)
}

// texts are all words of a reveal that a film or paper shows.
func texts(r *reveal.Reveal) (list []*string) {
	list = append(list, &r.Title)
	for i := range r.Steps {
		s := &r.Steps[i]
		list = append(list, &s.Title, &s.Instruction)
		if s.Notice != nil {
			list = append(list, &s.Notice.Text)
		}
		for k := range s.Tools {
			list = append(list, &s.Tools[k])
		}
		for k := range s.Cues {
			if n := s.Cues[k].Note; n != nil {
				list = append(list, &n.Text)
			}
			if c := s.Cues[k].Card; c != nil {
				list = append(list, &c.Title, &c.Text)
			}
		}
	}
	return list
}

func mentions(r *reveal.Reveal) bool {
	return slices.ContainsFunc(texts(r), func(s *string) bool { return strings.Contains(*s, Mention) })
}

// speak puts in the words of a variant: its own, and its name where that is mentioned. Of the whole assembly, for which
// v is nil, nothing is said there.
func speak(r *reveal.Reveal, v *assembly.Variant) {
	name := ""
	if v != nil {
		name = v.Name
		for i := range r.Steps {
			s := &r.Steps[i]
			for _, w := range s.Wordings {
				if w.Variant != v.ID {
					continue
				}
				if w.Title != "" {
					s.Title = w.Title
				}
				if w.Instruction != "" {
					s.Instruction = w.Instruction
				}
			}
			s.Wordings = nil
		}
	}
	for _, text := range texts(r) {
		if !strings.Contains(*text, Mention) {
			continue
		}
		said := *text
		if name == "" {
			said = strings.ReplaceAll(said, " "+Mention, "")
		}
		said = strings.ReplaceAll(said, Mention, name)
		if strings.TrimSpace(said) != "" { // titles, notes and cards have words
			*text = said
		}
	}
}

// dropMuted takes out what is muted, with what nobody could reach any more.
func dropMuted(r *reveal.Reveal) {
	gone := map[reveal.StepID]bool{}
	for i := range r.Steps {
		gone[r.Steps[i].ID] = r.Steps[i].Muted
	}
	for i := range r.Steps {
		for k := range r.Steps[i].Cues {
			c := &r.Steps[i].Cues[k]
			if s, _ := r.FindCue(c.Twin); c.Twin != "" && s >= 0 && gone[r.Steps[s].ID] {
				*c = c.With(r.Original(c))
				c.Twin = ""
			}
		}
		if t := r.Steps[i].Retrace; t != nil {
			t.Steps = slices.DeleteFunc(t.Steps, func(id reveal.StepID) bool { return gone[id] })
		}
	}
	r.Steps = slices.DeleteFunc(r.Steps, func(s reveal.Step) bool {
		return s.Muted || s.Retrace != nil && len(s.Retrace.Steps) == 0
	})
}
