package proof

import (
	"fmt"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/mechanism"
	"slowreveal/core/reveal"
)

// driven finds joints that are driven beyond what they can do, or in vain.
func driven(s *subject, limit float64) (list []Finding) {
	m := s.film.Mechanism()
	if m == nil {
		return nil
	}
	for _, p := range m.Problems {
		f := s.driving(p.Of)
		if f.Says = p.Text; f.Cues != nil || !p.Joint {
			f.Level = Fault
			list = append(list, f)
		}
	}
	for i := range m.Ends {
		e := &m.Ends[i]
		f := s.driving(e.Joint)
		j := s.film.Assembly.FindJoint(e.Joint)
		f.Says = fmt.Sprintf(
			"%s is driven beyond %s, where its loop at %s cannot be closed any more: it stands still there.",
			jointName(j),
			jointValue(j, e.Value),
			jointName(s.film.Assembly.FindJoint(e.At)),
		)
		f.Level = Fault
		s.reached(&f, j, func(v float64) float64 {
			if e.Beyond {
				return v - e.Value
			}
			return e.Value - v
		}, -arrived)
		list = append(list, f)
	}
	for i := range s.film.Assembly.Joints {
		if f, ok := s.beyondLimits(&s.film.Assembly.Joints[i], m, limit); ok {
			list = append(list, f)
		}
	}
	return list
}

// beyondLimits tells whether a joint leaves its limits by more than a tolerance, its own or because it follows others.
func (s *subject) beyondLimits(j *assembly.Joint, m *mechanism.Mechanism, limit float64) (Finding, bool) {
	if j.Min == nil && j.Max == nil {
		return Finding{}, false
	}
	f := s.driving(j.ID)
	if f.Cues == nil {
		f = s.driving(m.DriverOf(j.ID))
		f.Parts = []assembly.NodeID{j.Body}
	}
	worst := s.reached(&f, j, func(v float64) float64 {
		over := -1.0
		if j.Min != nil {
			over = max(over, *j.Min-v)
		}
		if j.Max != nil {
			over = max(over, v-*j.Max)
		}
		return over
	}, limit)
	if f.Worse <= limit || f.Cues == nil {
		return f, false
	}
	f.Says = fmt.Sprintf(
		"%s comes to %s, %s beyond its limit.",
		jointName(j),
		jointValue(j, worst),
		jointValue(j, f.Worse),
	)
	return f, true
}

// driving is a finding about the cues that drive a joint.
func (s *subject) driving(id assembly.JointID) (f Finding) {
	for _, b := range s.bars(func(b *film.Bar) bool { return b.Kind == reveal.KindDrive && !b.Retraced }) {
		step, k := s.film.Reveal.FindCue(b.Cue)
		if step < 0 || s.film.Reveal.Steps[step].Cues[k].Drive.Joint != id {
			continue
		}
		if f.Cues == nil {
			f.From, f.At, f.Parts = b.Start, b.Start, b.Targets
		}
		f.Cues = append(f.Cues, b.Cue)
		f.To = max(f.To, b.Start+b.Duration)
	}
	return f
}

// arrived is how near the end of its way a joint stands there, degrees or mm.
const arrived = 1e-6

// reached finds when a joint is too far, and how far: it returns its value there. over is how far beyond it is at a value.
func (s *subject) reached(f *Finding, j *assembly.Joint, over func(v float64) float64, limit float64) (worst float64) {
	first := true
	const step = reveal.Second / 20
	for t := reveal.Micros(0); t <= s.film.Duration(); t += step {
		v, ok := s.film.Joint(j.ID, s.at(t))
		by := over(v)
		if !ok || by <= limit {
			continue
		}
		if first {
			f.From, first = t, false
		}
		if f.To = t; by > f.Worse {
			f.Worse, f.At, worst = by, t, v
		}
	}
	return worst
}

func jointName(j *assembly.Joint) string {
	if j == nil || j.Name == "" {
		return "A joint"
	}
	return "“" + j.Name + "”"
}

func jointValue(j *assembly.Joint, v float64) string {
	if j != nil && !j.Kind.Turns() {
		return fmt.Sprintf("%.1f mm", v)
	}
	return fmt.Sprintf("%.1f°", v)
}
